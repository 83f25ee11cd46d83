"""Backdrops by hand: one behind all that flies, another in its place, its colours and keys, and what is sent."""

import numpy as np
import pytest
from playwright.sync_api import expect

from ..truth import truth_alpha
from .driver import Maker

pytestmark = pytest.mark.journey
HELD, AT = 70, 80
"""When the third leap was held, and a frame at which it is there."""


def test_rays_behind_a_cutout(page, server, tmp_path):
    page.set_default_timeout(90_000)
    maker = Maker.at(page, server.url, "Gull Point relay")
    maker.step("Dress")
    maker.settled()
    maker.to_frame(HELD)
    page.get_by_role("button", name="Add to the sky").click()
    page.get_by_role("button", name="Backdrop", exact=True).click()
    maker.settled()
    layers = [x["source"]["kind"] for x in maker.view()["project"]["layers"]]
    assert layers[0] == "rays"
    expect(page.get_by_role("button", name="Rays", exact=True)).to_have_attribute("aria-pressed", "true")

    page.get_by_role("button", name="Checks", exact=True).click()
    maker.settled()
    expect(page.locator('[data-layer="Checks"]')).to_be_visible()
    for label, colour in (("First", "#00FF00"), ("Second", "#0000FF")):
        field = page.get_by_label(label, exact=True)
        field.fill(colour)
        field.press("Enter")
        maker.settled()
    maker.field("Side", 120)

    shown = maker.sent(tmp_path, AT)[AT].astype(int)
    green, blue = (np.abs(shown - c).max(-1) < 40 for c in ((0, 255, 0), (0, 0, 255)))
    leap = truth_alpha("dune-run", HELD) > 0.95
    # It covers the world, and the copy flies before it.
    assert (green | blue)[:200].mean() > 0.9
    assert abs(green[:240].mean() - blue[:240].mean()) < 0.2
    assert (green | blue)[leap].mean() < 0.2
