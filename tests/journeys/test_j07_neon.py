"""After a landing, glowing edges lift off the subject and fade, over a world that is darker and blurred along a way."""

import numpy as np
import pytest

from nervykite.core.see.footage import loose

from ..truth import truth_alpha
from .driver import CLIP, Maker

pytestmark = pytest.mark.journey
FRAME, LAST = 58, 82


def test_glowing_edges_lift_off_and_fade(page, server, tmp_path):
    page.set_default_timeout(90_000)
    maker = Maker.at(page, server.url, "Gull Point relay")
    leap = page.locator('[data-layer="Leap 2"]')
    leap.locator("[data-span]").click()
    maker.step("Fly")
    maker.field("Last frame", LAST)
    maker.step("Dress")
    maker.put_on("Drawing", "Neon edges")
    page.get_by_role("button", name="Remove Outline").click()
    maker.settled()
    # Its own base is gone, light alone is left; on top of what lies below.
    maker.field("Base dark", 0)
    maker.step("Fly")
    page.get_by_label("Blend with what lies below").select_option("screen")
    maker.settled()

    # It lifts off and fades, from its own frame to its last.
    held = maker.view()["layers"][next(x["id"] for x in maker.view()["project"]["layers"] if x["name"] == "Leap 2")]
    start, end = held["landing"], held["end"]
    maker.to_frame(start)
    page.get_by_role("button", name="Set position key").click()
    page.get_by_role("button", name="Set opacity key").click()
    maker.settled()
    maker.to_frame(end - 1)
    maker.field("Down", -140)
    maker.field("Opacity", 0)

    # The world below is darker, and blurred along a way.
    maker.step("Dress")
    page.get_by_role("button", name="Add a wash below it").click()
    maker.settled()
    maker.put_on("Tone", "Tone")
    maker.field("Exposure", -1.5)
    maker.put_on("Lens", "Directional blur")
    early, late, after = start + 1, end - 2, end + 1
    sent = maker.sent(tmp_path, early, late, after)

    def shown(frame: int) -> np.ndarray:
        return sent[frame].astype(int)

    def clip(frame: int) -> np.ndarray:
        return loose.around(CLIP, frame, None)[0].astype(int)

    body = truth_alpha("dune-run", start) > 0.5
    # Where she was there is light in its colour, over a world less than half as bright.
    cyan = np.abs(shown(early)[..., 2] - shown(early)[..., 0])
    assert cyan[body].max() > 120
    far = np.zeros_like(body)
    far[:200, :] = True
    assert shown(early)[far].mean() < 0.75 * clip(early)[far].mean()
    # Along the way it is blurred, across it less.
    grey = shown(early).mean(-1)
    was = clip(early).mean(-1)
    along = np.abs(np.diff(grey[900:], axis=1)).mean() / np.abs(np.diff(was[900:], axis=1)).mean()
    across = np.abs(np.diff(grey[900:], axis=0)).mean() / np.abs(np.diff(was[900:], axis=0)).mean()
    assert along < 0.6 * across
    # It fades, and then all is as it was.
    assert np.abs(shown(late)[..., 2] - shown(late)[..., 0])[body].max() < cyan[body].max()
    assert np.abs(shown(after) - clip(after))[far].mean() < 3
