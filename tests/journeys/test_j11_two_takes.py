"""The beach live, and in the hut's window another take, which freezes at a snap of the fingers."""

import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.see.footage import loose
from nervykite.demo import FOOTAGE

from .driver import Maker

pytestmark = pytest.mark.journey
LIVE, WINDOW = FOOTAGE / "hut-window-1.mp4", FOOTAGE / "hut-window-2.mp4"
SNAP = 50
PANE = 22, 460, 388, 820
"""The window's pane in both takes: left, top, right, bottom."""


def test_another_take_in_the_window_freezes(page, server, tmp_path):
    page.set_default_timeout(90_000)
    maker = Maker.over(page, server.url, "Window", LIVE, WINDOW)
    maker.settled()
    view = maker.view()
    live, other = (next(i for i in view["items"] if i["name"] == n) for n in ("hut-window-1", "hut-window-2"))
    # The window's shape is drawn over the take that is to be seen in it.
    maker.step("Catch")
    maker.to_frame(other["start"] + SNAP)
    page.keyboard.press("h")
    expect(page.get_by_test_id("carve")).to_be_visible()
    left, top, right, bottom = PANE
    maker.draw_around([(left, top), (right, top), (right, bottom), (left, bottom)])
    maker.settled()
    # That take goes into the sky, and out of the ground.
    maker.to_frame(0)
    page.get_by_role("button", name="Add to the sky").click()
    page.get_by_role("button", name="Add hut-window-2").click()
    expect(page.locator('[data-layer="hut-window-2"]')).to_be_visible()
    maker.settled()
    page.get_by_label("Cut out by").select_option("Cutout 1")
    maker.settled()
    maker.to_frame(SNAP)
    page.get_by_role("button", name="Freezes at the frame on screen").click()
    maker.settled()
    page.locator('[data-item="hut-window-2"]').click()
    page.keyboard.press("Delete")
    maker.settled()
    view = maker.view()
    (take,) = view["project"]["layers"]
    assert (take["source"]["freezes"], take["source"]["shape"]) == (SNAP, "still")
    assert view["length"] == live["length"]

    looked_at = (10, SNAP, 70, 83)
    sent = maker.sent(tmp_path, *looked_at)
    pane = np.s_[top + 6 : bottom - 6, left + 6 : right - 6]
    for frame in looked_at:
        shown = sent[frame].astype(int)
        beach = loose.around(LIVE, frame, None)[0].astype(int)
        seen = loose.around(WINDOW, min(frame, SNAP), None)[0].astype(int)
        assert np.abs(shown[pane] - seen[pane]).mean() < 3, frame
        rest = np.abs(shown - beach)
        rest[top - 6 : bottom + 6, left - 6 : right + 6] = 0
        assert rest.mean() < 2.5, frame
    # It does stand still: what moves in that take after the snap is not seen.
    after = [loose.around(WINDOW, n, None)[0].astype(int)[pane] for n in (SNAP, 70)]
    assert np.abs(after[0] - after[1]).mean() > 1
