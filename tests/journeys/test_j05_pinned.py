"""A copy that is left behind in a panning shot stands on the ground as if it had been filmed there."""

import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from tools.bench.cameras import shot

from ..media import make_video
from .driver import Maker

pytestmark = pytest.mark.journey
SIZE, FRAMES, HELD = (540, 960), 40, 12


def test_a_copy_sticks_to_the_ground(page, server, tmp_path):
    page.set_default_timeout(60_000)
    made = shot("pan", frames=FRAMES, size=SIZE, large=0.05, ref=HELD, noise=1.0)
    film = make_video(
        tmp_path / "pan.mp4", frames=FRAMES, size=SIZE,
        picture=lambda n, w, h: cv2.cvtColor(made.frames[n], cv2.COLOR_GRAY2RGB),
    )  # fmt: skip
    maker = Maker.over(page, server.url, "Pinned", film)
    maker.step("Catch")
    maker.to_frame(HELD)
    page.keyboard.press("h")
    expect(page.get_by_test_id("carve")).to_be_visible()
    (outline,), _ = cv2.findContours(made.subject.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    maker.draw_around([(float(x), float(y)) for x, y in outline[:: len(outline) // 16, 0]])
    maker.settled()
    maker.step("Fly")
    page.get_by_role("button", name="Pin to the scene").click()
    expect(page.get_by_test_id("trust")).to_be_visible(timeout=60_000)
    expect(page.get_by_text(f"All {FRAMES} frames are sure")).to_be_visible()
    maker.settled()
    (layer,) = maker.view()["project"]["layers"]
    assert layer["pin"]["how"] == "full"

    after = (HELD + 6, HELD + 14, HELD + 22)
    sent = maker.sent(tmp_path, *after)
    inside = cv2.erode(made.subject.astype(np.uint8), np.ones((15, 15)))
    held = made.frames[HELD]
    for frame in after:
        truth = np.linalg.inv(made.to_ref[frame])
        wanted, where = (cv2.warpPerspective(x, truth, SIZE) for x in (held, inside))
        if where.sum() < 1500:
            continue
        seen = cv2.cvtColor(sent[frame], cv2.COLOR_RGB2GRAY)
        by = np.eye(2, 3, dtype=np.float32)
        criteria = (cv2.TERM_CRITERIA_COUNT + cv2.TERM_CRITERIA_EPS, 60, 1e-4)
        alike, by = cv2.findTransformECC(wanted, seen, by, cv2.MOTION_TRANSLATION, criteria, where, 5)
        assert alike > 0.9
        assert np.hypot(*by[:, 2]) < 1, frame
    # Taken by hand into keys it is still there.
    maker.step("Fly")
    page.get_by_role("button", name="Into keys").click()
    maker.settled()
    (layer,) = maker.view()["project"]["layers"]
    assert layer["pin"] is None
    assert len(layer["keys"]) > 3 * (FRAMES - HELD - 1)
