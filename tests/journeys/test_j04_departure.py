"""The next shot swings in small and turned, under the subject of the one before, who is then flung past the camera."""

import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.see.footage import loose
from nervykite.demo import FOOTAGE

from ..truth import truth_alpha
from .driver import Maker

pytestmark = pytest.mark.journey
UP, DOWN = FOOTAGE / "kite-catch.mp4", FOOTAGE / "splash-down.mp4"
BEFORE, FLUNG = 6, 10


def cut_out(maker: Maker, frame: int) -> None:
    """Holds a frame and picks the person out of it."""
    page = maker.page
    maker.step("Catch")
    maker.to_frame(frame)
    page.keyboard.press("h")
    expect(page.get_by_test_id("carve")).to_be_visible()
    page.get_by_role("button", name="Pick person").click()
    expect(page.get_by_test_id("carve")).to_have_attribute("data-busy", "no", timeout=90_000)
    maker.settled()


def test_she_is_flung_past_the_camera_as_the_next_shot_lands(page, server, tmp_path):
    page.set_default_timeout(90_000)
    maker = Maker.over(page, server.url, "Departure", UP, DOWN)
    maker.settled()
    cut = next(i["start"] for i in maker.view()["items"] if i["name"] == "splash-down")

    # Her last frames, cut out and moving along over whatever comes below her.
    cut_out(maker, cut - BEFORE)
    page.get_by_role("button", name="Travel").click()
    maker.field("First frame", cut - BEFORE)
    maker.field("Last frame", cut - 1)
    page.get_by_role("button", name="Carry to").click()
    expect(page.get_by_text("Carried to", exact=False)).to_be_visible(timeout=90_000)
    maker.settled()
    maker.step("Fly")
    page.get_by_role("radiogroup", name="Arrangement").get_by_role("radio", name="Along").click()
    maker.settled()

    # The next shot, small and turned, swings in under her.
    maker.to_frame(cut - BEFORE)
    page.get_by_role("button", name="Add to the sky").click()
    page.get_by_role("button", name="Add splash-down", exact=True).click()
    expect(page.locator('[data-layer="splash-down"]')).to_be_visible()
    maker.settled()
    maker.field("Last frame", cut - 1)
    page.locator('[data-layer="splash-down"] [data-span] [role=button]').press("PageDown")
    maker.settled()
    order = [x["name"] for x in maker.view()["project"]["layers"]]
    assert order == ["splash-down", "Cutout 1"]
    maker.to_frame(cut - BEFORE)
    for channel, label, value in (("position", "Across", -700), ("scale", "Scale", 40), ("rotation", "Turn", -25)):
        page.get_by_role("button", name=f"Set {channel} key").click()
        maker.settled()
        maker.field(label, value)
    maker.to_frame(cut - 1)
    for label, value in (("Across", -40), ("Scale", 70), ("Turn", -6)):
        maker.field(label, value)

    # Her very last frame leaves over the next shot, past the camera, from her face.
    cut_out(maker, cut - 1)
    maker.step("Fly")
    page.get_by_role("radiogroup", name="Arrangement").get_by_role("radio", name="Departure").click()
    maker.settled()
    page.get_by_role("radiogroup", name="In, out or always").get_by_role("radio", name="Out").click()
    page.get_by_role("button", name="Fling", exact=True).click()
    maker.settled()
    maker.field("Frames", FLUNG)
    maker.field("From, across", 50)
    maker.field("From, down", 10)
    maker.field("Last frame", cut + FLUNG)

    # The next shot jolts as it lands.
    page.get_by_role("button", name="Footage splash-down").click()
    page.get_by_role("button", name="Jolt", exact=True).click()
    expect(page.get_by_test_id("enlarged")).to_be_visible()
    maker.settled()
    view = maker.view()
    flung = next(x for x in view["project"]["layers"] if x["exit"])
    assert view["layers"][flung["id"]]["start"] == cut
    assert {k["tie"] for k in flung["keys"]} == {"end"}
    assert view["project"]["ground"][1]["behaviours"][0]["kind"] == "jolt"

    sent = maker.sent(tmp_path, cut - 2, cut, cut + 4, cut + FLUNG + 1, cut + 70)
    shown = {n: f.astype(int) for n, f in sent.items()}
    last = loose.around(UP, cut - 1, None)[0].astype(int)
    before = loose.around(UP, cut - 2, None)[0].astype(int)
    down = {n: loose.around(DOWN, n, None)[0].astype(int) for n in (0, 4, FLUNG + 1, 70)}
    own = cut - 1
    body = cv2.erode((truth_alpha("kite-catch", own - 1) > 0.95).astype(np.uint8), np.ones((15, 15))).astype(bool)
    far = cv2.dilate((truth_alpha("kite-catch", own - 1) > 0.02).astype(np.uint8), np.ones((41, 41))) == 0
    # Before the cut she is over all; around her there is the next shot, where hers was.
    assert np.abs(shown[cut - 2] - before)[body].mean() < 8
    middle = np.zeros_like(far)
    middle[300:980, 150:560] = True
    assert np.abs(shown[cut - 2] - before)[far & middle].mean() > 12
    # At the cut she lies where she was, over the next shot.
    still = cv2.erode((truth_alpha("kite-catch", own) > 0.95).astype(np.uint8), np.ones((15, 15))).astype(bool)
    assert np.abs(shown[cut] - last)[still].mean() < 14
    # On her way she is larger than she was; when she is past the camera there is nothing of her.
    grown = np.abs(shown[cut + 4] - down[4]).sum(2) > 60
    assert grown.sum() > 1.15 * still.sum()
    assert np.abs(shown[cut + 70] - down[70]).mean() < 3  # and what jolted has come to rest, to the pixel
    assert np.abs(shown[cut] - down[0])[far].mean() > 8  # at first it had not
