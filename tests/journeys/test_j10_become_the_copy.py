"""The runner moves into the copy that waited, and is it from then on: the footage behind turns into the empty scene."""

import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.see.footage import loose

from ..truth import truth_alpha
from .driver import CLIP, Maker

pytestmark = pytest.mark.journey
HELD = 58


def test_from_its_frame_on_there_is_the_copy_alone(page, imported, tmp_path):
    page.set_default_timeout(90_000)
    maker = Maker.at(page, imported.url, "Dune")
    maker.to_frame(HELD)
    page.keyboard.press("h")
    expect(page.get_by_test_id("carve")).to_be_visible()
    page.get_by_role("button", name="Pick person").click()
    expect(page.get_by_test_id("carve")).to_have_attribute("data-busy", "no", timeout=60_000)
    maker.settled()
    # The matte goes along for the six frames that follow, and there is a plate behind it.
    page.get_by_role("button", name="Travel").click()
    maker.field("First frame", HELD)
    maker.field("Last frame", HELD + 6)
    page.get_by_role("button", name="Carry to").click()
    expect(page.get_by_text("Carried to", exact=False)).to_be_visible(timeout=60_000)
    page.get_by_role("button", name="From the shot").click()
    expect(page.get_by_role("button", name="Mend")).to_be_visible(timeout=90_000)
    maker.settled()
    # From her frame on the footage is emptied of her, and ends with the matte.
    maker.step("Catch")
    maker.to_frame(HELD)
    page.keyboard.press("x")
    maker.settled()
    page.locator('[data-item^="Dune run"], [data-item^="dune-run"]').last.click()
    page.get_by_label("Emptied of").select_option("Cutout 1")
    maker.settled()
    maker.field("Last frame", HELD + 6)
    view = maker.view()
    assert view["length"] == HELD + 7
    emptied = view["project"]["ground"][1]["source"]
    assert emptied["emptied"] == view["project"]["layers"][0]["source"]["hold"]

    at, last = (f.astype(int) for f in maker.sent(tmp_path, HELD, HELD + 6).values())
    footage = {n: loose.around(CLIP, n, None)[0].astype(int) for n in (HELD, HELD + 6)}
    # The change is not seen: on her own frame the copy lies where she was.
    assert np.abs(at - footage[HELD]).mean() < 3
    copy = cv2.erode((truth_alpha("dune-run", HELD) > 0.95).astype(np.uint8), np.ones((9, 9))).astype(bool)
    live = (truth_alpha("dune-run", HELD + 6) > 0.95) & (truth_alpha("dune-run", HELD) < 0.01)
    assert copy.sum() > 5000
    assert live.sum() > 3000
    # Six frames on the copy is still there; she who ran on is gone, and the scene is where she would be.
    assert np.abs(last - footage[HELD])[copy].mean() < 6
    assert np.abs(last - footage[HELD + 6])[live].mean() > 30
    empty = loose.around(CLIP, 2, None)[0].astype(int)
    known = live & (truth_alpha("dune-run", 2) < 0.01)
    assert np.abs(last - empty)[known].mean() < 22
    # Elsewhere the footage runs on: the sea and the flags move.
    nobody = (
        cv2.dilate(np.maximum(truth_alpha("dune-run", HELD), truth_alpha("dune-run", HELD + 6)), np.ones((61, 61)))
        < 0.01
    )
    assert np.abs(last - footage[HELD + 6])[nobody].mean() < 3
    assert np.abs(last - footage[HELD])[nobody].mean() > np.abs(last - footage[HELD + 6])[nobody].mean()
