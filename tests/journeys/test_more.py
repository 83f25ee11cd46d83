"""What else hands do on the page."""

import json
import re
import urllib.request

import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.see.matte.outline import outlines

from ..truth import truth_alpha
from .driver import Maker
from .test_slice import filled, outline_of_runner

pytestmark = pytest.mark.journey


def test_handles_on_the_picture(page, server):
    maker = Maker.at(page, server.url, "Gull Point relay")
    page.locator('[data-layer="Leap 2"] [data-span]').click()
    maker.to_frame(70)

    def pose():
        return next(x for x in maker.view()["project"]["layers"] if x["name"] == "Leap 2")["pose"]

    handles = page.get_by_test_id("handles")
    anchor = handles.locator('[data-grip="anchor"]')
    scale, turn = handles.locator('[data-grip="scale"]'), handles.locator('[data-grip="turn"]')

    def middle(of):
        box = of.bounding_box()
        return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

    # A corner drawn half as far again from the anchor makes it half as large again.
    ax, ay = middle(anchor)
    x, y = middle(scale.nth(0))
    maker.drag((x, y), (ax + (x - ax) * 1.5, ay + (y - ay) * 1.5))
    maker.settled()
    assert pose()["scale"] == pytest.approx(1.5, abs=0.03)
    # Outside a corner it turns; by a quarter, with Shift in steps of fifteen degrees.
    page.keyboard.press("Control+z")
    maker.settled()
    x, y = middle(turn.nth(1))
    page.keyboard.down("Shift")
    maker.drag((x, y), (ax - (y - ay), ay + (x - ax)))
    page.keyboard.up("Shift")
    maker.settled()
    assert pose()["rotation"] == 90
    # The anchor moves without moving the picture of a cutout at rest; the turn is then about it.
    page.get_by_role("button", name="At rest").click()
    maker.settled()
    before = maker.canvas.get_attribute("data-key")
    maker.drag(middle(anchor), (ax + 25, ay + 40))
    maker.settled()
    assert next(x for x in maker.view()["project"]["layers"] if x["name"] == "Leap 2")["anchor"] is not None
    assert maker.canvas.get_attribute("data-key") == before
    # Alt and arrows nudge; near its place it snaps home.
    page.keyboard.press("Alt+ArrowRight")
    page.keyboard.press("Alt+Shift+ArrowDown")
    maker.settled()
    assert pose()["position"] == [1, 10]
    ax, ay = middle(anchor)
    maker.drag((ax, ay - 40), (ax, ay - 40 - 4.5))
    maker.settled()
    assert pose()["position"] == [0, 0]
    # A press on another cutout selects it; a locked one does not move.
    page.locator('[data-layer="Leap 1"]').hover()
    page.get_by_role("button", name="Lock Leap 1").click()
    maker.settled()
    page.locator('[data-layer="Leap 1"] [data-span]').click()
    maker.drag(maker.on_picture(190, 700), maker.on_picture(290, 700))
    maker.settled()
    leap = next(x for x in maker.view()["project"]["layers"] if x["name"] == "Leap 1")
    assert leap["pose"]["position"] == [0, 0]


def test_pieces_views_and_shared_holds(page, server):
    maker = Maker.at(page, server.url, "Gull Point relay")
    page.locator('[data-layer="Leap 2"] [data-span]').click()
    maker.step("Carve")
    page.get_by_role("button", name="Whole frame").click()
    place = maker.on_stage(365, 600)
    pixel = (
        "([x, y]) => { const c = document.querySelector('[data-testid=stage]'); const b = c.getBoundingClientRect();"
        " return [...c.getContext('2d').getImageData(x - b.x, y - b.y, 1, 1).data].slice(0, 3) }"
    )
    # On the checker the subject is seen in the frame's colours until its clean ones have come, never as a mere shape.
    expect(page.get_by_test_id("stage")).to_have_attribute("data-matte", "yes")
    page.wait_for_timeout(400)
    filmed = page.evaluate(pixel, list(place))
    at_once = page.evaluate(
        "async at => { const looks = [...document.querySelectorAll('[role=radio]')];"
        " looks.find(look => look.textContent === 'Checker').click();"
        " await new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)));"
        f" return ({pixel})(at) }}",
        list(place),
    )
    assert at_once == pytest.approx(filmed, abs=40)
    # Cut a hole, and see it in the matte.
    hole = [(330, 560), (400, 560), (400, 640), (330, 640)]
    maker.draw_around(hole)
    maker.settled()
    page.get_by_role("radio", name="Cut away").click()
    maker.settled()
    for look in ("Matte", "Checker", "Scene", "Veil"):
        page.get_by_role("radio", name=look, exact=True).click()
    page.get_by_role("radio", name="Matte", exact=True).click()

    def seen(wanted: str) -> None:
        page.wait_for_function(f"at => {{ const p = ({pixel})(at); return {wanted} }}", arg=list(place))

    seen("p.every((v) => v === 0)")
    # Before and after, on either side of a line, and the loupe shows the same.
    page.get_by_role("button", name="Before and after").click()
    page.get_by_test_id("carve").focus()
    page.keyboard.press("z")
    enlarged = "[...document.querySelector('[data-testid=loupe]').getContext('2d').getImageData(76, 76, 1, 1).data]"
    line = page.get_by_role("slider", name="Between before and after").bounding_box()
    top = maker.on_stage(365, 560)

    def outlined() -> bool:
        """Whether the hole's upper edge is drawn, in the colour of what is selected."""
        edge = page.screenshot(clip={"x": top[0] - 8, "y": top[1] - 4, "width": 16, "height": 8})
        pixels = cv2.imdecode(np.frombuffer(edge, np.uint8), cv2.IMREAD_COLOR)[..., ::-1].astype(int)
        return bool((abs(pixels - (0x0B, 0x7A, 0x82)).max(axis=2) < 40).any())

    for side, wanted in ((60, "p.some((v) => v > 20)"), (-60, "p.every((v) => v === 0)")):
        page.mouse.move(line["x"] + 8, line["y"] + line["height"] / 2)
        page.mouse.down()
        page.mouse.move(place[0] + side, line["y"] + line["height"] / 2, steps=4)
        page.mouse.up()
        line = page.get_by_role("slider", name="Between before and after").bounding_box()
        seen(wanted)
        page.mouse.move(*place)
        page.wait_for_function(f"() => {{ const p = {enlarged}.slice(0, 3); return {wanted} }}")
    page.get_by_test_id("carve").focus()
    page.keyboard.press("z")
    page.keyboard.press("a")
    expect(page.get_by_role("slider", name="Between before and after")).to_be_hidden()
    # A duplicate shares the hold, says so, and can be made separate.
    page.keyboard.press("Control+d")
    maker.settled()
    expect(page.get_by_text("This hold is shared with Leap 4")).to_be_visible()
    holds = len(maker.view()["holds"])
    page.get_by_role("button", name="Make separate").click()
    maker.settled()
    assert len(maker.view()["holds"]) == holds + 1
    # Hide, rename, reorder and remove a piece.
    row = page.locator('[data-piece="Pen 1"]')
    row.click()
    row.get_by_role("button", name="Hide").click()
    maker.settled()
    row.get_by_role("button", name="Move Pen 1", exact=True).press("ArrowUp")
    maker.settled()
    layer = next(x for x in maker.view()["project"]["layers"] if x["name"] == "Leap 2")
    pieces = maker.view()["holds"][layer["source"]["hold"]]["matte"]["pieces"]
    assert (pieces[0]["name"], pieces[0]["visible"], pieces[0]["combine"]) == ("Pen 1", False, "cut away")
    row.get_by_role("button", name="Remove Pen 1").click()
    maker.settled()
    expect(row).to_be_hidden()


def test_moments_loop_and_order_by_mouse(page, server):
    maker = Maker.at(page, server.url, "Gull Point relay")
    maker.step("Catch")
    flag = page.get_by_role("button", name="Moment 1, frame 46")
    box = flag.bounding_box()
    start = box["x"] + 4, box["y"] + 6
    maker.drag(start, (start[0] - 47, start[1]))
    # A cutout was held there: it goes along, and its matte is carried first.
    moved = page.get_by_role("button", name=re.compile("^Moment 1, frame (3|40|41)"))
    expect(moved).to_be_visible(timeout=60_000)
    maker.settled()
    view = maker.view()
    moments = [m["frame"] for s in view["shots"].values() for m in s["moments"]]
    assert min(moments) < 42
    assert min(h["frame"] for h in view["holds"].values()) == min(moments)
    ruler = page.get_by_test_id("ruler").bounding_box()
    y = ruler["y"] + 12
    page.keyboard.down("Shift")
    maker.drag((ruler["x"] + 172 + 60, y), (ruler["x"] + 172 + 240, y))
    page.keyboard.up("Shift")
    maker.settled()
    low, high = maker.view()["project"]["loop"]
    assert 8 <= low <= 13
    assert 41 <= high <= 49
    # A layer is carried up by its name's lane.
    lane = page.locator('[data-layer="Leap 1"]').bounding_box()
    maker.drag((lane["x"] + 70, lane["y"] + 28), (lane["x"] + 70, lane["y"] + 28 - 2 * 34))
    maker.settled()
    assert [x["name"] for x in maker.view()["project"]["layers"]] == ["Leap 2", "Leap 3", "Leap 1", "Touch down"]
    # The name is renamed where it stands, by double click.
    page.locator('[data-layer="Leap 1"]').get_by_role("button", name="Layer name: Leap 1").dblclick()
    page.get_by_label("Layer name", exact=True).fill("First leap")
    page.keyboard.press("Enter")
    maker.settled()
    expect(page.locator('[data-layer="First leap"]')).to_be_visible()


def test_keys_are_copied_from_layer_to_layer(page, server):
    maker = Maker.at(page, server.url, "Gull Point relay")
    page.locator('[data-layer="Touch down"]').get_by_role("button", name="Key at frame").last.click()
    page.keyboard.press("Control+c")
    expect(page.get_by_role("status")).to_contain_text("Copied 4 keys of Touch down")
    page.locator('[data-layer="Leap 2"] [data-span]').click()
    page.keyboard.press("Control+v")
    maker.settled()
    layers = {x["name"]: x for x in maker.view()["project"]["layers"]}
    ties = [(k["channel"], k["tie"]) for k in layers["Leap 2"]["keys"]]
    copied = [(k["channel"], k["tie"]) for k in layers["Touch down"]["keys"]]
    assert ties[-len(copied) :] == copied
    assert {c for c, _ in ties} == {c for c, _ in copied} | {"opacity"}  # in which nothing was copied
    page.keyboard.press("Delete")
    maker.settled()
    assert "Leap 2" not in [x["name"] for x in maker.view()["project"]["layers"]]
    page.keyboard.press("Control+z")
    maker.settled()
    assert len(maker.view()["project"]["layers"]) == 4


def test_trim_fit_canvas_and_shelf(page, server):
    maker = Maker.at(page, server.url, "Gull Point relay")
    maker.step("Catch")
    page.get_by_role("radio", name="In the piece").click()
    maker.field("First frame", 10)
    view = maker.view()
    assert view["length"] == 122
    # Everything went along: each cutout still lands on the frame it was held from.
    landings = [view["layers"][x["id"]]["landing"] for x in view["project"]["layers"]]
    assert landings == [36, 48, 60, 66]
    maker.field("Last frame", 99)
    assert maker.view()["length"] == 90
    page.get_by_label("Canvas size").select_option("1:1")
    maker.settled()
    page.get_by_role("radio", name="Whole").click()
    maker.settled()
    assert (maker.view()["project"]["width"], maker.view()["project"]["height"]) == (1080, 1080)
    # The canvas beside the whole tall frame is free.
    page.wait_for_function(
        "() => { const c = document.querySelector('[data-testid=picture] canvas');"
        " return Math.max(...c.getContext('2d').getImageData(20, c.height / 2, 1, 1).data.slice(0, 3)) < 12 }"
    )
    page.get_by_label("Frames a second").select_option("60 fps")
    maker.settled()
    assert maker.view()["length"] == 180
    page.keyboard.press("s")
    page.get_by_role("button", name="Add Dune run to the ground").click()
    maker.settled()
    assert maker.view()["length"] == 180 + 264
    page.get_by_role("button", name="Footage Dune run").first.click()
    page.keyboard.press("Delete")
    maker.settled()
    assert (maker.view()["length"], maker.view()["project"]["layers"]) == (264, [])
    for _ in range(7):
        page.keyboard.press("Control+z")
    maker.settled()
    assert maker.view()["length"] == 132
    assert len(maker.view()["project"]["layers"]) == 4


def test_cancelling_a_send_leaves_nothing(page, server, tmp_path):
    maker = Maker.at(page, server.url, "Gull Point relay")
    maker.step("Send")
    page.get_by_role("button", name="Send", exact=True).last.click()
    page.get_by_role("button", name="Cancel: Send Gull Point relay").click()
    expect(page.locator('[data-export="cancelled"]')).to_be_visible(timeout=60_000)
    assert list((server.data / "exports").iterdir()) == []
    project = page.url.split("#")[1]
    with urllib.request.urlopen(f"{server.url}api/projects/{project}/jobs") as answer:
        assert json.load(answer)[0]["state"] == "cancelled"


def test_drawn_pieces_fit_the_runner():
    """What these journeys click is near enough to the subject for what they check."""
    for moment in (50, 57, 64):
        clicked, truth = filled(outline_of_runner(moment)), truth_alpha("dune-run", moment) > 0.5
        assert (clicked & truth).sum() / (clicked | truth).sum() > 0.8
        assert outlines(truth_alpha("dune-run", moment))[0].name == "Outline"
