"""What looks alike beyond its colour."""

import cv2
import numpy as np
import pytest

from nervykite.core.see.find import marks, opinion, standing_out
from nervykite.core.see.find.looks import alike, line_of, looks_of
from nervykite.core.see.scene.behind import Behind
from tools.learn.strokes import strokes_on

from .scenes import as_found, blob, composed, overlap, texture
from .test_judge import made_up

pytestmark = pytest.mark.learn


def grains(size: tuple[int, int] = (240, 180)) -> np.ndarray:
    """Fine grain to the left, coarse grain to the right, both around the same grey: uint8 RGB."""
    h, w = size
    rng = np.random.default_rng(3)
    fine, coarse = (rng.normal(0, 1, (h, w)).astype(np.float32) for _ in range(2))
    coarse = cv2.GaussianBlur(coarse, (0, 0), 4)
    grey = np.where(np.arange(w) < w // 2, fine, coarse / coarse.std()) * 24 + 128
    return np.repeat(np.clip(grey, 0, 255).astype(np.uint8)[..., None], 3, -1)


def halves(size: tuple[int, int] = (240, 180)) -> tuple[np.ndarray, np.ndarray]:
    """The upper part of the left and of the right side."""
    left, right = np.zeros(size, bool), np.zeros(size, bool)
    left[: size[0] // 3, : size[1] // 2 - 10] = True
    right[: size[0] // 3, size[1] // 2 + 10 :] = True
    return left, right


def test_looks_have_the_same_sizes_whatever_the_pictures():
    sizes = set()
    for size in ((240, 180), (64, 300), (900, 500)):
        seen = looks_of(texture(*size, (120, 110, 100), 8).astype(np.uint8))
        assert seen is not None
        sizes.add(tuple(layer.shape for layer in seen.layers))
        assert all(layer.dtype == np.float32 and np.isfinite(layer).all() for layer in seen.layers)
    assert len(sizes) == 1


def test_a_line_that_was_learned_in_one_picture_tells_in_another():
    seen, mirrored = looks_of(grains()), looks_of(np.ascontiguousarray(grains()[:, ::-1]))
    assert seen is not None
    assert mirrored is not None
    line = line_of(seen, *halves())
    assert line is not None
    says = line.says(mirrored, (120, 90))
    assert (says[:, 50:] > 0).mean() > 0.95
    assert (says[:, :40] < 0).mean() > 0.95


def test_grain_is_told_from_grain_of_the_same_colours():
    seen, (fine, coarse) = looks_of(grains()), halves()
    assert seen is not None
    says = alike(seen, fine, coarse)
    assert says is not None
    assert says.shape == (240, 180)
    assert -1 <= says.min() <= says.max() <= 1
    below = says[120:]  # where nothing was said
    assert (below[:, :80] > 0).mean() > 0.95
    assert (below[:, 100:] < 0).mean() > 0.95


def test_seen_from_the_other_side_it_is_the_opposite():
    seen, (fine, coarse) = looks_of(grains()), halves()
    assert seen is not None
    ours, theirs = alike(seen, fine, coarse), alike(seen, coarse, fine)
    assert ours is not None
    assert theirs is not None
    assert np.allclose(ours, -theirs, atol=1e-3)


def test_too_little_to_learn_from_says_nothing():
    seen, (fine, _) = looks_of(grains()), halves()
    assert seen is not None
    assert alike(seen, fine, np.zeros_like(fine)) is None
    assert alike(seen, fine, fine) is None


def test_legs_that_stayed_in_one_place_are_the_movers_if_they_look_like_it(monkeypatch):
    h, w = 300, 240
    grain = np.random.default_rng(2).normal(0, 12, (h, w, 1)).astype(np.float32)
    place, cloth = texture(h, w, (128, 130, 126), 4, 14), np.float32((126, 128, 130)) + grain
    alpha = blob(h, w, w * 0.5, h * 0.5, h * 0.2)
    legs = alpha * (np.arange(h)[:, None] > 175)
    frame, plate = composed(alpha, cloth, place), composed(legs, cloth, place, seed=1)  # which shows the legs, too
    seen = np.where(cv2.dilate(legs, np.ones((9, 9))) > 0.3, 1.5, 9).astype(np.float32)

    def found() -> np.ndarray:
        return standing_out.standing_out(frame, Behind(plate, np.full((h, w), 2.5, np.float32), seen)).found

    monkeypatch.setattr(standing_out, "from_near", lambda turn, found, *_: found)  # who sees the legs as well
    assert overlap(found(), alpha) > 0.9
    monkeypatch.setattr(opinion, "looks_of", lambda picture: None)
    assert overlap(found(), alpha) < 0.8


class TestMarks:
    def found(self, scenes) -> float:
        results = []
        for number, (picture, alpha, _) in enumerate(scenes):
            strokes = strokes_on(np.random.default_rng(number), alpha)
            if strokes:
                results.append(overlap(marks.find(picture, *strokes, look=as_found), alpha))
        assert len(results) > 4
        return float(np.mean(results))

    def test_they_are_better_for_it(self, monkeypatch):
        scenes = made_up(8)
        with_looks = self.found(scenes)
        monkeypatch.setattr(marks, "looks_of", lambda picture: None)
        assert with_looks > self.found(scenes) + 0.005

    def test_they_go_without_it_where_no_network_is(self, monkeypatch, tmp_path):
        picture, alpha, _ = made_up(1)[0]
        strokes = strokes_on(np.random.default_rng(1), alpha)
        assert strokes is not None
        monkeypatch.setenv("NERVYKITE_NETWORKS", str(tmp_path))
        assert looks_of(picture) is None
        assert overlap(marks.find(picture, *strokes), alpha) > 0.4
