"""A trail without any matte: whole frames from a camera that stands, darkened in, within a loose shape."""

import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from nervykite.core.see.footage import loose

from ..truth import truth_alpha
from .driver import CLIP, Maker

pytestmark = pytest.mark.journey
HELD = (46, 60)


def test_only_the_subject_shows(page, imported, tmp_path):
    page.set_default_timeout(90_000)
    maker = Maker.at(page, imported.url, "Dune")
    shapes = []
    for frame in HELD:
        maker.step("Catch")
        maker.to_frame(frame)
        page.keyboard.press("h")
        expect(page.get_by_test_id("carve")).to_be_visible()
        ys, xs = np.nonzero(truth_alpha("dune-run", frame) > 0.5)
        left, top, right, bottom = xs.min() - 24, ys.min() - 20, xs.max() + 24, ys.max() + 16
        corners = [(left, top), (right, top + 12), (right - 8, bottom), (left + 10, bottom)]
        maker.draw_around([(max(4, min(716, x)), y) for x, y in corners])
        maker.settled()
        shapes.append((left, top, right, bottom))
    maker.step("Fly")
    page.locator('[data-layer="Cutout 1"] [data-span]').click()
    page.locator('[data-layer="Cutout 2"] [data-span]').click(modifiers=["Control"])
    page.get_by_label("Blend all with what lies below").select_option("darken")
    maker.settled()
    assert {x["blend"] for x in maker.view()["project"]["layers"]} == {"darken"}

    shown = maker.sent(tmp_path, 110)[110].astype(int)
    bare = loose.around(CLIP, 110, None)[0].astype(int)
    for frame, (left, top, right, bottom) in zip(HELD, shapes, strict=True):
        held = loose.around(CLIP, frame, None)[0].astype(int)
        body = truth_alpha("dune-run", frame) > 0.98
        dark = body & (held.max(2) < bare.min(2) - 20)
        assert dark.sum() > 3000
        assert np.abs(shown - held)[dark].mean() < 6  # her dark clothes are there as they were
        # Around her, within the loose shape, the scene is as good as untouched: it was the same in both frames.
        loosely = np.zeros_like(body)
        loosely[top + 14 : bottom - 4, left + 14 : right - 14] = True
        nobody = sum(truth_alpha("dune-run", f) for f in (*HELD, 110)) < 0.01
        around = loosely & cv2.erode(nobody.astype(np.uint8), np.ones((9, 9))).astype(bool)
        assert np.abs(shown - bare)[around].mean() < 6
