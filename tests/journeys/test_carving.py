"""Carving on the page: marks, picks, carrying with a correction, plates, SVG out and in."""

import json

import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.see.footage import loose

from ..core.scenes import passing
from ..media import make_video
from ..truth import truth_alpha
from .driver import CLIP, Maker

pytestmark = pytest.mark.journey


@pytest.fixture
def maker(page, imported):
    """A maker with frame 58 of the Dune run held and nothing carved."""
    page.set_default_timeout(90_000)
    maker = Maker.at(page, imported.url, "Dune")
    maker.to_frame(58)
    page.keyboard.press("h")
    expect(page.get_by_test_id("carve")).to_be_visible()
    maker.settled()
    return maker


def hold_at(maker: Maker, frame: int = 58) -> dict:
    return next(h for h in maker.view()["holds"].values() if h["frame"] == frame)


def overlap(maker: Maker, piece: dict, frame: int) -> float:
    data = maker.page.request.get(f"{maker.url}api/rasters/{piece['raster']['file']}.png").body()
    found = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_GRAYSCALE) > 127
    truth = truth_alpha("dune-run", frame) > 0.5
    return float((found & truth).sum() / (found | truth).sum())


def along(maker: Maker, *points: tuple[float, float]) -> None:
    """Draws a stroke through source points."""
    places = [maker.on_stage(*p) for p in points]
    maker.page.mouse.move(*places[0])
    maker.page.mouse.down()
    for place in places[1:]:
        maker.page.mouse.move(*place, steps=6)
    maker.page.mouse.up()


def idle(maker: Maker) -> None:
    expect(maker.page.get_by_test_id("carve")).to_have_attribute("data-busy", "no", timeout=40_000)
    maker.settled()


def test_a_few_marks_then_one_more(maker, page):
    page.get_by_role("button", name="Keep marks").click()
    along(maker, (372, 560), (330, 720), (350, 800))
    idle(maker)
    page.get_by_role("button", name="Drop marks").click()
    along(maker, (120, 300), (120, 900))
    idle(maker)
    (piece,) = hold_at(maker)["matte"]["pieces"]
    assert piece["kind"] == "marks"
    assert (len(piece["keep"]), len(piece["drop"])) == (1, 1)
    expect(page.locator('[data-mark="keep"]')).to_have_count(1)
    before = overlap(maker, piece, 58)
    page.get_by_role("button", name="Keep marks").click()
    along(maker, (445, 690), (490, 760))
    idle(maker)
    (piece,) = hold_at(maker)["matte"]["pieces"]
    assert len(piece["keep"]) == 2
    assert overlap(maker, piece, 58) > before - 0.05
    # A mark is rubbed out again; undo brings it back by name.
    page.get_by_role("button", name="Rub out marks").click()
    page.mouse.click(*maker.on_stage(445, 690))
    idle(maker)
    assert len(hold_at(maker)["matte"]["pieces"][0]["keep"]) == 1
    page.keyboard.press("Control+z")
    maker.settled()
    assert len(hold_at(maker)["matte"]["pieces"][0]["keep"]) == 2


def test_a_stroke_shows_about_what_it_does_until_the_exact_answer_is_there(maker, page):
    stage = page.get_by_test_id("stage")
    page.get_by_role("button", name="Keep marks").click()
    along(maker, (372, 560), (330, 720), (350, 800))
    expect(stage).to_have_attribute("data-rough", "yes")
    expect(page.get_by_role("radio", name="Veil")).to_be_checked()  # as filmed nothing of it would be seen
    assert hold_at(maker)["matte"]["pieces"] == []
    idle(maker)
    expect(stage).to_have_attribute("data-rough", "no")
    assert len(hold_at(maker)["matte"]["pieces"]) == 1
    # What is refused takes its rough answer along.
    page.get_by_role("button", name="Drop marks").click()
    page.route("**/strokes", lambda route: route.fulfill(status=400, json={"message": "The file is gone."}))
    along(maker, (120, 300), (120, 900))
    expect(page.get_by_text("The file is gone.")).to_be_visible()
    expect(stage).to_have_attribute("data-rough", "no")


def test_a_drop_mark_alone_says_what_to_do_first(maker, page):
    page.get_by_role("button", name="Drop marks").click()
    along(maker, (120, 300), (120, 500))
    expect(page.get_by_text("Draw a keep mark over the subject first")).to_be_visible()
    assert hold_at(maker)["matte"]["pieces"] == []


def test_the_view_that_is_chosen_while_a_pick_is_looked_for_stays(maker, page):
    page.get_by_role("button", name="Pick mover").click()
    expect(page.get_by_text("Looking for what moves")).to_be_visible()
    page.get_by_text("Colour", exact=True).click()
    expect(page.get_by_role("radio", name="Colour")).to_be_checked()
    maker.page.wait_for_function("() => !document.body.innerText.includes('Looking for what moves')")
    expect(page.get_by_text("Pick mover", exact=True).first).to_be_visible()
    maker.settled()
    expect(page.get_by_role("radio", name="Colour")).to_be_checked()


def test_picked_carried_corrected_and_run_along(maker, page, tmp_path):
    page.get_by_role("button", name="Pick person").click()
    idle(maker)
    (piece,) = hold_at(maker)["matte"]["pieces"]
    assert overlap(maker, piece, 58) > 0.75
    page.get_by_role("button", name="Travel").click()
    expect(page.get_by_test_id("strip")).to_be_visible()
    stage = page.get_by_test_id("carve").bounding_box()  # made smaller by the strip, and yet all of the frame is seen
    (left, top), (right, bottom) = maker.on_stage_all([(0, 0), (720, 1280)])
    assert stage["x"] < left < right < stage["x"] + stage["width"]
    assert stage["y"] < top < bottom < stage["y"] + stage["height"]
    maker.field("First frame", 55)
    maker.field("Last frame", 61)
    page.get_by_role("button", name="Carry to").click()
    expect(page.get_by_text("Carried to", exact=False)).to_be_visible(timeout=60_000)
    maker.settled()
    hold = hold_at(maker)
    stops = {s["frame"]: s for s in hold["travel"]["stops"]}
    assert sorted(stops) == [55, 56, 57, 59, 60, 61]
    assert overlap(maker, stops[60]["pieces"][0], 60) > 0.7
    # On another frame of the strip a stroke corrects it, sticks, and spreads to its neighbours.
    strip = page.get_by_role("slider", name="Frame of the travelling matte")
    strip.focus()
    strip.press("End")
    expect(page.get_by_test_id("stage").locator("..").locator("canvas").first).to_have_attribute("data-frame", "61")
    expect(page.get_by_test_id("picture").locator("canvas")).to_have_attribute("data-frame", "61")
    page.get_by_role("button", name="Drop marks").click()
    along(maker, (330, 700), (350, 800))
    idle(maker)
    expect(page.get_by_test_id("strip-state")).to_have_text("fixed by hand")
    assert maker.view()["strips"][hold["id"]]["60"] == "stale"
    expect(page.locator('[data-stop="stale"]')).to_have_count(0, timeout=60_000)  # carried again by itself
    maker.settled()
    view = maker.view()
    assert view["strips"][hold["id"]]["61"] == "fixed"
    assert view["strips"][hold["id"]]["60"] in ("carried", "doubtful")
    page.get_by_role("button", name="Lock this frame").click()
    maker.settled()
    assert maker.view()["strips"][hold["id"]]["61"] == "locked"
    # As a layer that runs along it is in the export on those frames, dressed.
    page.get_by_role("button", name="Run along").click()
    maker.settled()
    view = maker.view()
    layer = view["project"]["layers"][0]
    assert (view["layers"][layer["id"]]["start"], view["layers"][layer["id"]]["end"]) == (55, 62)
    maker.step("Fly")
    maker.to_frame(57)
    maker.field("Across", -180)
    clip = {n: loose.around(CLIP, n, None)[0].astype(int) for n in (50, 57)}
    shown = {n: f.astype(int) for n, f in maker.sent(tmp_path, 50, 57).items()}
    changed = {n: (np.abs(shown[n] - clip[n]).max(-1) > 40) for n in (50, 57)}
    moved = np.roll(truth_alpha("dune-run", 57) > 0.9, -180, 1)
    assert changed[57][moved].mean() > 0.5
    assert changed[50].mean() < 0.002


def test_footage_that_cuts_is_marked_and_a_matte_stays_in_its_take(page, server, tmp_path):
    one, _, elsewhere = passing(20, 240, 160)
    other = np.ascontiguousarray(elsewhere[0][::-1, ::-1])
    frames = [*one, *[other] * 10]
    clip = make_video(tmp_path / "two.mp4", 30, (160, 240), picture=lambda n, *_: frames[n])
    maker = Maker.over(page, server.url, "Takes", clip)
    maker.step("Catch")
    page.get_by_role("radio", name="Moments").click()
    expect(page.get_by_text("30 frames in 2 takes", exact=False)).to_be_visible()
    page.get_by_role("button", name="Cut in the footage at frame 20").click()
    expect(page.get_by_test_id("source-frame")).to_have_attribute("data-frame", "20")
    maker.to_frame(12)
    page.keyboard.press("h")
    expect(page.get_by_test_id("carve")).to_be_visible()
    page.get_by_role("button", name="Pick mover").click()
    idle(maker)
    page.get_by_role("button", name="Travel").click()
    expect(page.get_by_label("Last frame", exact=True)).to_have_value("19")
    page.get_by_role("button", name="Carry to 19 frames").click()
    expect(page.get_by_text("Carried to 19 frames", exact=False)).to_be_visible(timeout=60_000)
    maker.field("Last frame", 25)
    assert hold_at(maker, 12)["travel"]["past"] == 20


def test_a_plate_is_built_mended_and_fills_the_hole(maker, page):
    page.get_by_role("button", name="Pick person").click()
    idle(maker)
    page.get_by_role("button", name="From the shot").click()
    page.get_by_role("button", name="Mend").click(timeout=90_000)
    plate = hold_at(maker)["plate"]
    along(maker, (100, 1000), (160, 1000))
    expect(page.get_by_test_id("marks").locator("path")).to_have_count(0, timeout=60_000)
    maker.settled()
    assert hold_at(maker)["plate"] not in (None, plate)
    page.get_by_label("Fill the hole behind it").click()
    maker.settled()
    page.get_by_role("button", name="To the ground").click()
    maker.settled()
    view = maker.view()
    assert view["project"]["layers"][0]["source"]["fill"]
    assert view["length"] == 132 + 30
    page.get_by_role("button", name="Pick difference").click()
    idle(maker)
    assert [p["kind"] for p in hold_at(maker)["matte"]["pieces"]] == ["person", "difference"]


def test_svg_goes_out_and_comes_back_with_the_same_curves(maker, page, tmp_path):
    page.get_by_role("button", name="Whole frame").click()
    maker.draw_around([(300, 500), (420, 520), (400, 800), (310, 780)])
    maker.settled()
    (drawn,) = hold_at(maker)["matte"]["pieces"]
    page.get_by_role("button", name="More for this matte").click()
    with page.expect_download() as download:
        page.get_by_role("menuitem", name="Take out as SVG").click()
    path = tmp_path / "matte.svg"
    download.value.save_as(path)
    page.get_by_role("button", name="Remove Pen 1").click()
    maker.settled()
    page.get_by_role("button", name="More for this matte").click()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("menuitem", name="Bring in SVG or PNG").click()
    chooser.value.set_files(path)
    expect(page.locator('[data-piece="Pen 1"]')).to_be_visible()
    maker.settled()
    (back,) = hold_at(maker)["matte"]["pieces"]
    assert json.dumps(back["nodes"]) == json.dumps(drawn["nodes"])


def test_a_matte_waits_on_the_shelf_for_another_hold(maker, page):
    page.get_by_role("button", name="Whole frame").click()
    maker.draw_around([(300, 500), (420, 520), (400, 800)])
    maker.settled()
    page.get_by_role("button", name="More for this matte").click()
    page.get_by_role("menuitem", name="Save on the shelf").click()
    expect(page.get_by_text("is on the shelf")).to_be_visible()
    maker.step("Catch")
    maker.to_frame(70)
    page.keyboard.press("h")
    maker.settled()
    page.keyboard.press("s")
    page.get_by_role("button", name="Put Cutout 1 on the chosen hold").click()
    maker.settled()
    assert [p["name"] for p in hold_at(maker, 70)["matte"]["pieces"]] == ["Pen 1"]
    page.get_by_role("button", name="Take Cutout 1 off the shelf").click()
    expect(page.locator("[data-saved-matte]")).to_have_count(0)


def test_on_a_narrow_bench_title_views_and_strip_keep_apart(page, imported, tmp_path):
    maker = Maker(page, imported.url)
    maker.new_project("Wide")
    maker.import_file(make_video(tmp_path / "a-clip-with-a-long-name.mp4", size=(320, 180), frames=12))
    page.keyboard.press("h")
    title, views = page.get_by_text("Cutout 1 · a-clip"), page.get_by_role("radiogroup", name="View")
    page.get_by_role("radio", name="Colour").click()
    one, other = title.bounding_box(), views.bounding_box()
    assert one["y"] + one["height"] <= other["y"] or one["x"] + one["width"] <= other["x"]
    assert other["x"] > page.get_by_test_id("stage").bounding_box()["x"]
