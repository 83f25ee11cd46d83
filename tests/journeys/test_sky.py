"""The sky on the page: what is imported of any kind, groups, several layers at once, time, other projects."""

import json
import urllib.request
import wave

import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.see.footage import loose

from ..core.scenes import passing
from ..media import decode_luma, make_video, number_of
from .driver import Maker

pytestmark = pytest.mark.journey
BADGE = """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100">
<circle cx="50" cy="50" r="48" fill="#ff0000"/></svg>"""


@pytest.fixture
def maker(page, server, tmp_path):
    """A maker with a project of 60 numbered frames, and a badge on the shelf."""
    (tmp_path / "badge.svg").write_text(BADGE)
    film = make_video(tmp_path / "first.mp4", frames=60, size=(320, 480))
    maker = Maker.over(page, server.url, "Sky", film, tmp_path / "badge.svg")
    maker.step("Catch")
    page.keyboard.press("s")
    expect(page.locator('[data-asset="badge"]')).to_be_visible()
    maker.settled()
    return maker


def add(maker: Maker, at: int) -> None:
    """Puts the badge into the sky at a frame."""
    page = maker.page
    before = page.locator("[data-layer]").count()
    maker.to_frame(at)
    page.get_by_role("button", name="Add to the sky").click()
    page.get_by_role("button", name="Add badge", exact=True).click()
    expect(page.locator("[data-layer]")).to_have_count(before + 1)
    maker.settled()


def layer(maker: Maker, name: str) -> dict:
    view = maker.view()
    found = next(x for x in view["project"]["layers"] if x["name"] == name)
    return found | {"place": view["layers"][found["id"]]}


def pixels_a_frame(page) -> float:
    return page.locator('[data-item="first"]').bounding_box()["width"] / 60


def test_a_drop_of_all_sorts_says_what_it_could_not_take(page, maker, tmp_path):
    with wave.open(str(tmp_path / "whistle.wav"), "wb") as sound:
        sound.setparams((1, 2, 44_100, 0, "NONE", ""))
        sound.writeframes((np.sin(np.arange(44_100) / 8) * 9000).astype("<i2").tobytes())
    (tmp_path / "notes.txt").write_text("Low tide at six.")
    for name in ("whistle.wav", "notes.txt"):
        maker.drop_file(tmp_path / name)
    expect(page.locator('[data-asset="whistle"]')).to_contain_text("1 s")
    refused = page.get_by_test_id("refused")
    expect(refused).to_contain_text("notes.txt")
    expect(refused).to_contain_text("cannot be read")
    refused.get_by_role("button", name="Clear the list").click()
    expect(refused).to_be_hidden()
    # What is in use stays; what is not can be taken off, and undo brings it back.
    page.get_by_role("button", name="Take whistle off the shelf").click()
    expect(page.locator('[data-asset="whistle"]')).to_be_hidden()
    page.keyboard.press("Control+z")
    expect(page.locator('[data-asset="whistle"]')).to_be_visible()


def test_a_picture_is_slid_trimmed_and_sent(page, maker, tmp_path):
    add(maker, 20)
    place = layer(maker, "badge")["place"]
    assert (place["start"], place["end"]) == (20, 60)
    maker.field("Last frame", 34)
    per = pixels_a_frame(page)
    span = page.locator('[data-layer="badge"] [data-span]')
    box = span.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + 20
    page.get_by_role("button", name="Snap", exact=True).click()  # to the frame, without snapping
    maker.drag((x, y), (x - 8 * per, y))
    maker.settled()
    place = layer(maker, "badge")["place"]
    assert (place["start"], place["end"]) == (12, 27)
    page.get_by_role("button", name="Snap", exact=True).click()
    maker.to_frame(40)
    box = span.bounding_box()
    page.mouse.move(box["x"] + 30, y)
    page.mouse.down()
    page.mouse.move(box["x"] + 30 + 28 * per + 3, y, steps=9)  # near the playhead, to which it snaps
    expect(page.get_by_test_id("snapped")).to_be_attached()
    page.mouse.up()
    maker.settled()
    assert layer(maker, "badge")["place"]["start"] == 40
    frames = {n: f.astype(int) for n, f in maker.sent(tmp_path, 39, 40).items()}
    assert frames[39][240, 160, 0] - frames[39][240, 160, 1] < 60
    assert frames[40][240, 160, 0] > 220


def test_several_are_chosen_by_a_box_grouped_and_faded_as_one(page, maker, tmp_path):
    for at in (4, 8):
        add(maker, at)
    maker.field("Across", 40)
    sky = page.get_by_test_id("sky").bounding_box()
    page.keyboard.press("Escape")
    left, right = sky["x"] + 172 + 40 * pixels_a_frame(page), sky["x"] + 172 + 30 * pixels_a_frame(page)
    maker.drag((left, sky["y"] + 4 + 2.4 * 34), (right, sky["y"] + 10))
    expect(page.get_by_text("2 layers, arranged alike")).to_be_visible()
    page.get_by_label("Tag all").fill("badges")
    page.get_by_role("button", name="Set", exact=True).click()
    maker.settled()
    page.keyboard.press("n")
    expect(page.locator('[data-layer="Group 1"]')).to_be_visible()
    maker.settled()
    maker.field("Opacity", 50)
    view = maker.view()
    group = next(x for x in view["project"]["layers"] if x["name"] == "Group 1")
    assert {x["group"] for x in view["project"]["layers"]} == {None, group["id"]}
    assert {x["tag"] for x in view["project"]["layers"] if x["group"]} == {"badges"}
    # Closed, its members take no room; open again they are there.
    page.get_by_role("button", name="Close Group 1").click()
    expect(page.locator("[data-layer]")).to_have_count(1)
    page.get_by_role("button", name="Open Group 1").click()
    expect(page.locator("[data-layer]")).to_have_count(3)
    # Where the two lie over one another it is as red as where there is one: the group fades as one.
    shown = maker.sent(tmp_path, 30)[30].astype(int)
    bare = loose.around(tmp_path / "first.mp4", 30, None)[0].astype(int)
    half = (bare + [255, 0, 0]) / 2
    for x in (130, 200):  # under one, under both
        assert np.abs(shown[240, x] - half[240, x]).max() < 26, x
    maker.step("Fly")
    page.locator('[data-layer="Group 1"] [data-span]').click()
    maker.field("Opacity", 100)
    page.get_by_role("button", name="Dissolve").click()
    maker.settled()
    expect(page.locator("[data-layer]")).to_have_count(2)
    # Both at once: hidden, copied, removed.
    page.locator('[data-layer="badge"] [data-span]').click()
    page.locator('[data-layer="badge 2"] [data-span]').click(modifiers=["Shift"])
    page.get_by_role("button", name="Hide all").click()
    maker.settled()
    assert not any(x["visible"] for x in maker.view()["project"]["layers"])
    page.keyboard.press("Control+d")
    maker.settled()
    expect(page.locator("[data-layer]")).to_have_count(4)
    page.keyboard.press("Delete")
    maker.settled()
    expect(page.locator("[data-layer]")).to_have_count(2)


def test_layers_go_into_another_project_with_all_they_are_made_of(page, maker, server, tmp_path):
    add(maker, 10)
    page.keyboard.press("h")  # a cutout beside it
    expect(page.get_by_test_id("carve")).to_be_visible()
    maker.draw_around([(60, 100), (200, 100), (200, 300), (60, 300)])
    maker.settled()
    maker.step("Fly")
    page.locator('[data-layer="badge"] [data-span]').click()
    page.locator('[data-layer="Cutout 1"] [data-span]').click(modifiers=["Control"])
    page.keyboard.press("Control+c")
    expect(page.get_by_role("status")).to_contain_text("Copied 2 layers")
    page.get_by_role("button", name="Nervy Kite: all projects").click()
    maker.new_project("Other")
    maker.import_file(make_video(tmp_path / "other.mp4", frames=40, size=(320, 480)))
    maker.settled()
    maker.to_frame(15)
    page.keyboard.press("Control+v")
    expect(page.locator("[data-layer]")).to_have_count(2)
    maker.settled()
    view = maker.view()
    assert {s["name"] for s in view["shots"].values()} == {"other", "first"}
    places = {x["name"]: view["layers"][x["id"]] for x in view["project"]["layers"]}
    assert places["badge"]["start"] == places["Cutout 1"]["start"] == 15
    numbers = [number_of(f) for f in decode_luma(maker.send(tmp_path))]
    assert numbers[:15] == list(range(15))


def test_looked_at_alone_and_in_a_framing_of_its_own(page, maker):
    add(maker, 0)
    add(maker, 0)
    lane = page.locator('[data-layer="badge"]')
    lane.hover()
    lane.get_by_role("button", name="Look at badge alone").click()
    maker.settled()
    assert layer(maker, "badge")["solo"]
    lane.get_by_role("button", name="Look at more than badge").click()
    maker.settled()
    page.locator('[data-layer="badge"] [data-span]').click()
    page.get_by_role("radiogroup", name="Framing").get_by_role("radio", name="Fill").click()
    maker.settled()
    page.get_by_role("button", name="Mirrored").click()
    maker.settled()
    framing = layer(maker, "badge")["framing"]
    assert (framing["mode"], framing["mirrored"]) == ("fill", True)


def test_the_ground_is_framed_on_the_picture(page, maker, tmp_path):
    maker.step("Catch")
    page.locator('[data-item="first"]').click()
    expect(page.get_by_test_id("framing")).to_be_visible()
    middle, right = maker.on_picture(160, 240, (320, 480)), maker.on_picture(240, 240, (320, 480))
    maker.drag(middle, right)
    maker.settled()
    framing = maker.view()["project"]["ground"][0]["framing"]
    assert framing["mode"] == "hand"
    assert framing["across"] == pytest.approx(80 / 320, abs=0.01)
    maker.field("Size", 50)
    page.get_by_text("Mirrored").locator("..").get_by_role("checkbox").click(force=True)
    maker.settled()
    framing = maker.view()["project"]["ground"][0]["framing"]
    assert (framing["scale"], framing["mirrored"]) == (0.5, True)
    shown = maker.sent(tmp_path, 5)[5].astype(int)
    assert shown[240, 40].max() < 12  # the background, where it was
    maker.step("Catch")
    # A canvas of one's own; what phone apps cover.
    maker.field("Canvas width", 400)
    maker.field("Canvas height", 600)
    assert (maker.view()["project"]["width"], maker.view()["project"]["height"]) == (400, 600)
    expect(page.get_by_test_id("guides")).to_be_hidden()
    page.keyboard.press("y")
    expect(page.get_by_test_id("guides")).to_be_visible()


def test_what_was_trimmed_away_waits_and_is_brought_back(page, maker):
    maker.to_frame(50)
    page.keyboard.press("h")
    expect(page.get_by_test_id("carve")).to_be_visible()
    maker.step("Catch")
    page.locator('[data-item="first"]').click()
    maker.field("Last frame", 39)
    lane = page.locator('[data-layer="Cutout 1"]')
    expect(lane).to_contain_text("Waits: its frame, 50, was trimmed away")
    lane.get_by_role("button", name="Bring back").click()
    maker.settled()
    assert layer(maker, "Cutout 1")["place"]["start"] == 50
    with urllib.request.urlopen(f"{maker.url}api/projects/{page.url.split('#')[1]}") as answer:
        assert json.load(answer)["length"] == 51


def test_layers_are_carried_into_a_group_and_trimmed_together(page, maker):
    for at in (4, 8, 12):
        add(maker, at)
    page.locator('[data-layer="badge"] [data-span]').click()
    page.keyboard.press("n")
    expect(page.locator('[data-layer="Group 1"]')).to_be_visible()
    maker.settled()
    lanes = {n: page.locator(f'[data-layer="{n}"]').bounding_box() for n in ("badge 3", "Group 1")}
    x = lanes["badge 3"]["x"] + 60
    maker.drag((x, lanes["badge 3"]["y"] + 17), (x, lanes["Group 1"]["y"] + 17))
    maker.settled()
    group = layer(maker, "Group 1")["id"]
    assert layer(maker, "badge 3")["group"] == layer(maker, "badge")["group"] == group
    assert layer(maker, "badge 2")["group"] is None
    # The same ends of all that is chosen go along with the one that is dragged.
    page.locator('[data-layer="badge"] [data-span]').click()
    page.locator('[data-layer="badge 3"] [data-span]').click(modifiers=["Control"])
    grip = page.get_by_role("slider", name="End of badge", exact=True).bounding_box()
    page.get_by_role("button", name="Snap", exact=True).click()
    start = grip["x"] + 5, grip["y"] + 5
    maker.drag(start, (start[0] - 20 * pixels_a_frame(page), start[1]))
    maker.settled()
    assert [layer(maker, n)["place"]["end"] for n in ("badge", "badge 3", "badge 2")] == [40, 40, 60]
    page.keyboard.press("Control+z")
    maker.settled()
    assert layer(maker, "badge 3")["place"]["end"] == 60


def test_a_colour_a_picture_in_the_ground_and_a_standstill_at_a_moment(page, maker, tmp_path):
    maker.to_frame(20)
    page.keyboard.press("f")
    maker.settled()
    maker.to_frame(0)
    maker.step("Catch")
    page.get_by_role("radio", name="Moments").click()
    page.get_by_role("button", name="Stand still at Moment 1").click()
    expect(page.get_by_test_id("carve")).to_be_visible()
    maker.settled()
    assert layer(maker, "Cutout 1")["place"]["start"] == 21
    page.get_by_role("button", name="Add badge to the ground").click()
    maker.settled()
    assert maker.view()["length"] == 60 + 30 + 30
    maker.to_frame(2)
    page.get_by_role("button", name="Add to the sky").click()
    page.get_by_role("button", name="Colour", exact=True).click()
    expect(page.locator("[data-layer]")).to_have_count(2)
    maker.settled()
    maker.field("Last frame", 6)
    page.get_by_label("Colour", exact=True).fill("#00ff00")
    page.get_by_label("Colour", exact=True).press("Enter")
    maker.settled()
    sent = maker.send(tmp_path)
    shown = {n: loose.around(sent, n, None)[0].astype(int) for n in (1, 4, 7, 100)}
    assert shown[4][240, 160, 1] - shown[4][240, 160, 0] > 150
    for frame in (1, 7):
        assert shown[frame][240, 160, 1] - shown[frame][240, 160, 0] < 60
    assert shown[100][240, 160, 0] - shown[100][240, 160, 1] > 150  # the badge, over the background
    numbers = [number_of(f) for f in decode_luma(sent)]
    assert numbers[7:51] == [*range(7, 21), *[20] * 30]


def test_a_take_of_the_subject_alone_runs_in_its_own_time(page, server, tmp_path):
    frames, truth, _ = passing(20, 240, 160)
    clip = make_video(tmp_path / "pass.mp4", 20, (160, 240), picture=lambda n, *_: frames[n])
    maker = Maker(page, server.url)
    maker.new_project("Alone")
    maker.import_file(clip)
    maker.to_frame(10)
    page.keyboard.press("h")
    expect(page.get_by_test_id("carve")).to_be_visible()
    page.get_by_role("button", name="Pick mover").click()
    expect(page.locator("[data-kind=mover]")).to_be_visible(timeout=60_000)
    page.get_by_role("button", name="Travel").click()
    page.get_by_role("button", name="Carry to").click()
    expect(page.get_by_text("Carried to", exact=False)).to_be_visible(timeout=60_000)
    maker.settled()
    maker.to_frame(0)
    page.get_by_role("button", name="Add to the sky").click()
    page.get_by_role("button", name="Add pass", exact=True).click()
    expect(page.locator('[data-layer="pass"]')).to_be_visible()
    expect(page.get_by_role("radio", name="Travels")).to_be_hidden()  # there is no matte yet
    page.get_by_label("Cut out by").select_option("Cutout 1")
    page.get_by_role("radio", name="Travels").click()
    maker.settled()
    maker.field("Speed", 50)
    page.locator('[data-layer="Cutout 1"] [data-span]').click()
    page.keyboard.press("Delete")
    maker.settled()
    assert list(maker.view()["holds"])  # the take needs it
    shown = maker.sent(tmp_path, 12)[12].astype(int)
    other = truth[6] > 0.9
    alone = other & (truth[12] < 0.1)
    assert alone.sum() > 200
    assert np.abs(shown - frames[6])[alone].mean() < 12  # at half the speed she is where she was at frame 6
    nobody = (truth[6] < 0.02) & (truth[12] < 0.02)
    assert np.abs(shown - frames[12])[nobody].mean() < 6
