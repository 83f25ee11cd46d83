"""Comic treatment: her in ink over a printed world without her, a burst and a blot between; slowly pushed apart."""

import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.see.footage import loose

from ..truth import truth_alpha
from .driver import CLIP, Maker

pytestmark = pytest.mark.journey
HELD, FIRST = 70, 70
"""The frame that was held, and the frame of the piece from which on its copy is there."""


def luma(rgb: np.ndarray) -> np.ndarray:
    return rgb.astype(np.float32) @ np.array([0.2126, 0.7152, 0.0722], np.float32)


def test_an_ink_panel(page, server, tmp_path):
    page.set_default_timeout(60_000)
    maker = Maker.at(page, server.url, "Gull Point relay")
    for name in ("Leap 1", "Leap 2", "Touch down"):
        maker.hide(name)
    leap = page.locator('[data-layer="Leap 3"] [data-span]')
    leap.click()
    maker.step("Carve")
    page.get_by_role("button", name="From the shot").click()
    expect(page.get_by_role("button", name="Mend")).to_be_visible(timeout=90_000)
    maker.settled()
    maker.to_frame(FIRST + 6)
    maker.step("Dress")
    # The world without her, pushed slowly against her; printed in dots.
    page.get_by_role("button", name="Push apart", exact=True).click()
    expect(page.locator('[data-layer="Moving world"]')).to_be_visible()
    maker.settled()
    maker.put_on("Drawing", "Halftone")
    maker.field("Size", 16)
    maker.field("Angle", 0)
    # A burst and a blot between the two.
    for kind, changes in (("Speed lines", {"Clear within": 560}), ("Blot", {"Size": 300})):
        leap.click()
        page.get_by_role("button", name="Add to the sky").click()
        page.get_by_role("button", name="Backdrop", exact=True).click()
        maker.settled()
        page.get_by_role("button", name=kind, exact=True).click()
        maker.settled()
        for label, value in changes.items():
            maker.field(label, value)
        if kind == "Speed lines":
            page.get_by_role("checkbox", name="Filled behind").click(force=True)
            maker.settled()
        # Up from the lowest place, to right below her.
        page.locator(f'[data-layer="{kind}"] [data-span] [role=button]').press("PageUp")
        for _ in range(8):
            names = [x["name"] for x in maker.view()["project"]["layers"]]
            if names.index(kind) == names.index("Leap 3") - 1:
                break
            page.locator(f'[data-layer="{kind}"] [data-span] [role=button]').press("PageUp")
            maker.settled()
    names = [x["name"] for x in maker.view()["project"]["layers"] if x["visible"]]
    assert names == ["Moving world", "Speed lines", "Blot", "Leap 3"]
    leap.click()
    maker.put_on("Drawing", "Ink")
    maker.field("Line around it", 6)
    judge(maker, tmp_path)


def judge(maker: Maker, folder) -> None:
    """What was sent."""
    view = maker.view()
    id_ = next(x["id"] for x in view["project"]["layers"] if x["name"] == "Leap 3")
    last = view["layers"][id_]["end"] - 10
    early, late = map(luma, maker.sent(folder, FIRST + 7, last).values())
    still = luma(loose.around(CLIP, HELD, None)[0])
    alpha = truth_alpha("dune-run", HELD)
    inside = cv2.erode(alpha, np.ones((25, 25))) > 0.98

    def flatness(picture: np.ndarray) -> float:
        slope = cv2.morphologyEx(picture, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8))
        return float((slope[inside] < 6).mean())

    # Flat tones, and a dark line for an edge.
    assert flatness(early) > flatness(still) + 0.08
    rim = (alpha > 0.9) & (cv2.erode(alpha, np.ones((5, 5))) < 0.9)
    assert np.median(early[rim]) < 70 < np.median(still[rim])
    # The blot is behind her, dark; the dots behind that come back every sixteen pixels.
    near = (cv2.dilate(alpha, np.ones((61, 61))) > 0.5) & (cv2.dilate(alpha, np.ones((25, 25))) < 0.02)
    middle = np.zeros_like(near)
    middle[560:720, 200:520] = True
    assert np.median(early[near & middle]) < 60
    sky = early[20:180, 40:200] - early[20:180, 40:200].mean()
    one, half = ((sky[:, by:] * sky[:, :-by]).mean() / sky.var() for by in (16, 8))
    assert one > 0.35 > half
    # The real runner is nowhere to be seen: her world stands empty, with her copy alone on it.
    # Pushed apart: she comes nearer while what is behind her goes away.
    scales = np.linspace(0.92, 1.2, 29)

    def fits(picture: np.ndarray) -> float:
        at = [360.0, 640.0]
        found = []
        for scale in scales:
            matrix = np.array([[scale, 0, at[0] * (1 - scale)], [0, scale, at[1] * (1 - scale)]])
            mask = cv2.warpAffine(inside.astype(np.float32), matrix, (720, 1280)) > 0.99
            larger = cv2.warpAffine(still, matrix, (720, 1280))
            found.append(float(np.corrcoef(picture[mask], larger[mask])[0, 1]))
        return float(scales[int(np.argmax(found))])

    before, after = fits(early), fits(late)
    assert before == pytest.approx(1.0, abs=0.025)
    assert after > before + 0.04
