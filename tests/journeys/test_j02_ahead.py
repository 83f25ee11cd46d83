"""Three copies wait in the air; the runner flies into each, and goes on in the same pixels."""

import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.see.footage import loose

from ..truth import truth_alpha
from .driver import CLIP, Maker
from .test_slice import filled, outline_of_runner

pytestmark = pytest.mark.journey
HELD = (50, 57, 64)


def test_three_copies_wait_for_the_runner(page, imported, tmp_path):
    page.set_default_timeout(90_000)
    maker = Maker.at(page, imported.url, "Dune")
    for frame in HELD:
        maker.step("Catch")
        maker.to_frame(frame)
        page.keyboard.press("h")
        expect(page.get_by_test_id("carve")).to_be_visible()
        maker.draw_around(outline_of_runner(frame))
        maker.settled()
    # All three at once: from the first to the last with Shift, then arranged alike.
    maker.step("Fly")
    page.locator('[data-layer="Cutout 1"] [data-span]').click()
    page.locator('[data-layer="Cutout 3"] [data-span]').click(modifiers=["Shift"])
    expect(page.get_by_text("3 layers, arranged alike")).to_be_visible()
    page.get_by_role("radiogroup", name="Arrangement of all").get_by_role("radio", name="Ahead").click()
    maker.field("Frames before", 30)
    page.get_by_role("button", name="Arrange them").click()
    maker.settled()
    view = maker.view()
    spans = [(view["layers"][x["id"]]["start"], view["layers"][x["id"]]["end"]) for x in view["project"]["layers"]]
    assert {x["pose"]["opacity"] for x in view["project"]["layers"]} == {1.0}
    assert spans == [(20, frame) for frame in HELD]  # they begin together, thirty frames before the first

    around = [n for f in HELD for n in (f - 1, f)]
    shown = {n: f.astype(int) for n, f in maker.sent(tmp_path, *around).items()}
    clip = {n: loose.around(CLIP, n, None)[0].astype(int) for f in HELD for n in (f - 1, f)}
    for n, frame in enumerate(HELD):
        body = truth_alpha("dune-run", frame) > 0.95
        others = sum(truth_alpha("dune-run", f) for f in HELD if f != frame) > 0.02
        # Well within what was drawn by hand.
        drawn = cv2.erode(filled(outline_of_runner(frame)).astype(np.uint8), np.ones((7, 7))).astype(bool)
        alone = body & drawn & ~others & (truth_alpha("dune-run", frame - 1) < 0.02)
        assert alone.sum() > 300
        # One frame before it is reached the copy hangs where nobody is yet, as she will be.
        waiting = np.abs(shown[frame - 1] - clip[frame])[alone].mean()
        bare = np.abs(shown[frame - 1] - clip[frame - 1])[alone].mean()
        assert waiting < min(12, bare / 2), (n, waiting, bare)
        # On its frame it is gone, and she is there in its place: nobody twice, nobody missing.
        waits = [filled(outline_of_runner(f)).astype(np.uint8) for f in HELD if f > frame]
        clear = np.ones_like(body)
        if waits:
            clear = cv2.dilate(np.max(waits, 0), np.ones((15, 15))) == 0
        assert np.abs(shown[frame] - clip[frame])[clear].mean() < 3
        assert np.abs(shown[frame] - clip[frame])[body & clear].mean() < 6
