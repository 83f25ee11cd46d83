"""Copies crumble into drifting grains as they leave: on the layer's last frame nothing is left, whatever its length."""

import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.see.footage import loose

from ..truth import truth_alpha
from .driver import CLIP, Maker

pytestmark = pytest.mark.journey


def test_a_copy_crumbles_until_its_last_frame(page, server, tmp_path):
    page.set_default_timeout(90_000)
    maker = Maker.at(page, server.url, "Gull Point relay")
    page.locator('[data-layer="Leap 1"]').hover()
    page.get_by_role("button", name="Look at Leap 1 alone").click()
    maker.settled()
    page.locator('[data-layer="Leap 1"] [data-span]').click()
    maker.step("Dress")
    maker.put_on("Break up", "Scatter")
    maker.field("Strength", 0)
    maker.field("Fades", 100)

    def layer() -> tuple[dict, dict]:
        view = maker.view()
        found = next(x for x in view["project"]["layers"] if x["name"] == "Leap 1")
        return found, view["layers"][found["id"]]

    # Keys from its own frame to its last; what faded it before goes.
    found, place = layer()
    for frame, value in ((place["landing"], 0), (place["end"] - 1, 100)):
        maker.to_frame(frame)
        page.get_by_role("button", name="Set strength key").click()
        maker.settled()
        maker.field("Strength", value)
    ties = [k["tie"] for k in layer()[0]["keys"] if k["channel"].endswith(".strength")]
    assert ties == ["landing", "end"]

    # Made shorter, it still has all gone on its last frame.
    maker.step("Fly")
    maker.field("Last frame", place["end"] - 12)
    _, place = layer()
    expect(page.locator('[data-layer="Leap 1"]')).to_be_visible()
    first, last = place["landing"] + 3, place["end"] - 1
    middle = (first + last) // 2
    sent = maker.sent(tmp_path, first, middle, last, last + 1)

    def off(frame: int) -> float:
        """How far what is seen is from the footage alone, where she was."""
        shown, clip = sent[frame].astype(int), loose.around(CLIP, frame, None)[0]
        return float(np.abs(shown - clip)[truth_alpha("dune-run", place["landing"]) > 0.9].mean())

    whole, half, gone = (off(n) for n in (first, middle, last))
    assert whole > 12
    assert half > gone
    assert gone < 3
    assert off(last + 1) < 3
