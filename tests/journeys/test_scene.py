"""What sticks to a patch, is put right by hand, and stands in a shot that is steadied; and what is sent of that."""

import json

import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.see.footage import loose
from tools.bench.cameras import shot

from ..core.test_patch import REF, H, W, badge, box_at
from ..media import make_video
from .driver import Maker

pytestmark = pytest.mark.journey
SIZE = (540, 960)


def filmed(page, url: str, path, name: str) -> Maker:
    page.set_default_timeout(90_000)
    maker = Maker.over(page, url, name, path)
    maker.step("Fly")
    return maker


def add_shape(maker: Maker) -> dict:
    maker.page.get_by_role("button", name="Add to the sky").click()
    maker.page.get_by_role("button", name="Shape", exact=True).click()
    maker.settled()
    maker.step("Fly")
    return maker.view()["project"]["layers"][-1]


def middle_of(frame: np.ndarray) -> np.ndarray:
    """The middle of what is coloured in a frame that is grey but for that."""
    colour = frame.astype(int)
    y, x = np.nonzero(np.ptp(colour, axis=2) > 60)
    return np.array([x.mean(), y.mean()])


def test_a_shape_sticks_to_a_patch_and_is_put_right(page, server, tmp_path):
    made, lies = badge(noise=1.0)
    large = [cv2.resize(f, SIZE, interpolation=cv2.INTER_CUBIC) for f in made]
    by = SIZE[0] / W
    film = make_video(
        tmp_path / "badge.mp4", frames=40, size=SIZE, picture=lambda n, w, h: cv2.cvtColor(large[n], cv2.COLOR_GRAY2RGB)
    )
    maker = filmed(page, server.url, film, "A badge")
    maker.to_frame(REF)
    add_shape(maker)
    maker.field("Scale", 20)
    size = (maker.view()["project"]["width"], maker.view()["project"]["height"])
    on = size[0] / W
    page.get_by_role("button", name="To a patch").click()
    left, top, right, bottom = box_at(lies[REF])
    maker.drag(maker.on_picture(left * on, top * on, size), maker.on_picture(right * on, bottom * on, size))
    expect(page.get_by_test_id("trust")).to_be_visible(timeout=60_000)
    expect(page.get_by_text("All 40 frames are sure")).to_be_visible()
    expect(page.get_by_test_id("patch")).to_be_visible()
    maker.settled()
    frames = maker.sent(tmp_path, REF, 28, 36)
    at = {n: middle_of(cv2.resize(frames[n], (W, H), interpolation=cv2.INTER_AREA)) for n in (REF, 28, 36)}
    for n in (28, 36):
        # What lay on a place of the badge lies there still.
        own = np.linalg.inv(lies[REF]) @ [*at[REF], 1]
        assert at[n] == pytest.approx((lies[n] @ own)[:2], abs=1.5), n
    # Put right by hand where it is, and taken back.
    maker.step("Fly")
    maker.to_frame(30)
    page.get_by_role("button", name="Put this frame right").click()
    start = maker.on_picture(200, 300, size)
    maker.drag(start, (start[0] + 20, start[1] - 12))
    expect(page.get_by_text("1 put right")).to_be_visible()
    page.keyboard.press("Escape")
    maker.settled()
    (track,) = maker.view()["tracks"].values()
    assert track["fixed"] == [30]
    where = np.array(track["seen"][30]).reshape(4, 2).mean(0) / by
    picture = page.get_by_test_id("picture").bounding_box()
    assert where - lies[30][:2, 2] == pytest.approx(np.array([20, -12]) * W / picture["width"], abs=1)
    page.get_by_role("button", name="Take back what was put right").click()
    expect(page.get_by_text("All 40 frames are sure", exact=True)).to_be_visible()
    # Written, forgotten, and read again.
    with page.expect_download() as download:
        page.get_by_role("button", name="Write the track").click()
    file = tmp_path / "badge.json"
    download.value.save_as(file)
    assert json.loads(file.read_text())["ref"] == REF
    page.get_by_role("button", name="Forget how the camera went").click()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Read a track").click()
    chooser.value.set_files(file)
    expect(page.get_by_text("All 40 frames are sure")).to_be_visible()
    file.write_text('{"ref": 20}')
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Read a track").click()
    chooser.value.set_files(file)
    expect(page.get_by_text("badge.json is not a track")).to_be_visible()


def test_a_shot_by_hand_is_steadied_and_what_sticks_to_it_stands(page, server, tmp_path):
    made = shot("hand", frames=30, size=SIZE, large=0.0, noise=1.0)
    film = make_video(
        tmp_path / "hand.mp4", frames=30, size=SIZE,
        picture=lambda n, w, h: cv2.cvtColor(made.frames[n], cv2.COLOR_GRAY2RGB),
    )  # fmt: skip
    maker = filmed(page, server.url, film, "By hand")
    maker.to_frame(15)
    shape = add_shape(maker)
    page.get_by_role("button", name="Pin to the scene").click()
    expect(page.get_by_text("All 30 frames are sure")).to_be_visible(timeout=60_000)
    page.locator("[data-item]").first.click()
    page.get_by_role("radio", name="Still", exact=True).click()
    expect(page.get_by_test_id("steadied")).to_contain_text("No edge is seen")
    page.get_by_label("Fill the picture").dispatch_event("click")
    expect(page.get_by_test_id("steadied")).to_contain_text("The edge of what was filmed is seen at")
    page.get_by_label("Fill the picture").dispatch_event("click")
    maker.settled()
    frames = [loose.shrunk(f, SIZE) for f in loose.frames(maker.send(tmp_path))]
    inner = [f[120:-120, 80:-80].astype(float).mean(2) for f in frames]
    moves = [np.abs(a - inner[15]).mean() for a in inner]
    bare = [f[120:-120, 80:-80].astype(float) for f in made.frames]
    assert np.mean(moves) < 0.25 * np.mean([np.abs(a - bare[15]).mean() for a in bare])
    # The shape was pinned to the scene, which stands now.
    places = np.array([middle_of(f) for f in frames[15:]])
    assert np.ptp(places, axis=0).max() < 1.5
    assert (
        maker.view()["project"]["layers"][0]["pin"]["track"] == maker.view()["project"]["ground"][0]["steady"]["track"]
    )
    assert shape["id"] == maker.view()["project"]["layers"][0]["id"]
