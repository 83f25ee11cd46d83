"""From a dropped file to a trail of three: frames found, seen as ghosts, cut out in one go, left behind, sent."""

import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.see.footage import loose

from ..truth import truth_alpha
from .driver import CLIP, Maker

pytestmark = pytest.mark.journey

COUNT = """() => {
  window.presses = 0
  window.addEventListener('pointerdown', () => window.presses++, true)
}"""


def chosen(page) -> list[int]:
    """The frames whose ghosts are shown, once they are."""
    ghosts = page.get_by_test_id("ghosts")
    expect(ghosts).to_have_attribute("data-settled", "yes")
    return [int(f) for f in ghosts.get_attribute("data-frames").split(",")]


def end_at(maker: Maker, label: str, frame: int) -> None:
    """Drags an end of the spacing to a frame of the shot."""
    end = maker.page.get_by_role("slider", name=label).bounding_box()
    strip = maker.page.get_by_test_id("strip").bounding_box()
    edge, frames = 14, 132
    x = strip["x"] + edge + (frame + 0.5) * (strip["width"] - 2 * edge) / frames
    maker.drag((end["x"] + end["width"] / 2, end["y"] + 60), (x, end["y"] + 60))


def test_from_a_dropped_file_to_three_that_stay_behind(page, fresh, tmp_path):
    page.set_default_timeout(60_000)
    maker = Maker(page, fresh.url)
    maker.new_project("Trail")
    page.evaluate(COUNT)
    maker.drop_file(CLIP)
    expect(page.get_by_role("button", name="Footage dune-run").last).to_be_visible(timeout=60_000)
    # It is looked through by itself; what is known is drawn, and who leaps is found at the top of the leap.
    expect(page.get_by_test_id("strip")).to_have_attribute("data-known", "132", timeout=120_000)
    tops = page.locator("[data-proposal]", has_text="Top of the jump")
    expect(tops).to_have_count(1)
    assert abs(int(tops.get_attribute("data-proposal")) - 60) <= 2

    page.get_by_role("radio", name="Evenly").click()
    page.get_by_label("or how many", exact=True).click()
    page.keyboard.press("Control+a")
    page.keyboard.type("3")
    page.keyboard.press("Enter")
    end_at(maker, "First frame of the spacing", 50)
    end_at(maker, "Last frame of the spacing", 66)
    held = chosen(page)
    assert len(held) == 3
    assert np.abs(np.array(held) - [50, 58, 66]).max() <= 1
    expect(page.get_by_text("overlap by")).to_be_visible()
    page.get_by_role("button", name="Cut out of these three").click()
    expect(page.get_by_text("3 cut out")).to_be_visible(timeout=180_000)
    page.get_by_role("button", name="See them fly").click()
    assert page.evaluate("window.presses") <= 8
    maker.settled()
    view = maker.view()
    spans = sorted(
        (view["layers"][x["id"]]["start"], view["layers"][x["id"]]["end"]) for x in view["project"]["layers"]
    )
    assert spans == [(frame, 132) for frame in held]
    # All of them go over the last frames of the piece.
    names = [x["name"] for x in view["project"]["layers"]]
    page.locator(f'[data-layer="{names[0]}"] [data-span]').click()
    page.locator(f'[data-layer="{names[-1]}"] [data-span]').click(modifiers=["Shift"])
    page.get_by_role("radiogroup", name="In, out or always").get_by_role("radio", name="Out").click()
    page.get_by_role("button", name="Fade", exact=True).click()
    maker.settled()

    late = 110  # she has left by then
    end = 131
    looked_at = (*held, *(f - 1 for f in held), late, end)
    shown = {n: f.astype(int) for n, f in maker.sent(tmp_path, *looked_at).items()}
    clip = {n: loose.around(CLIP, n, None)[0].astype(int) for n in (*held, late, end)}
    assert np.abs(shown[end] - clip[end]).mean() < 3
    for n, frame in enumerate(held):
        body = truth_alpha("dune-run", frame) > 0.95
        later = sum(truth_alpha("dune-run", f) for f in held[n + 1 :]) > 0.02 if held[n + 1 :] else np.zeros_like(body)
        alone = cv2.erode((body & ~later).astype(np.uint8), np.ones((5, 5))).astype(bool)
        assert alone.sum() > 2000
        # It is there from its own frame on, as she was then, and stays where she has long gone.
        stays = np.abs(shown[late] - clip[frame])[alone].mean()
        gone = np.abs(clip[late] - clip[frame])[alone].mean()
        assert stays < min(9, gone / 3), (frame, stays, gone)
        assert np.abs(shown[frame] - clip[frame])[body & ~others(held, frame)].mean() < 6
        # The frame before it is not.
        before = np.abs(shown[frame - 1] - clip[frame])[alone & ~others(held, frame)].mean()
        assert before > stays


def others(held: list[int], frame: int) -> np.ndarray:
    """Where copies from before a frame lie."""
    earlier = [truth_alpha("dune-run", f) > 0.02 for f in held if f < frame]
    wide = np.max(earlier, 0) if earlier else np.zeros_like(truth_alpha("dune-run", frame), bool)
    return cv2.dilate(wide.astype(np.uint8), np.ones((9, 9))).astype(bool)
