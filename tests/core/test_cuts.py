"""Where footage cuts, and what belongs to one take."""

import cv2
import numpy as np
import pytest

from nervykite.core.piece.model.shot import take_of
from nervykite.core.see.footage import ingest
from nervykite.core.see.footage.cut_detection import cuts_of, glance

from ..media import make_video
from .scenes import texture

HIGH, WIDE = 90, 160


def place(seed: int) -> np.ndarray:
    """A place four times as wide as a frame, with large shapes: float32 (HIGH, 4 * WIDE)."""
    rng = np.random.default_rng(seed)
    wide = texture(HIGH, 4 * WIDE, (120, 120, 120), seed, 12).mean(-1)
    for _ in range(40):
        x, y = rng.integers(0, 4 * WIDE), rng.integers(0, HIGH)
        cv2.circle(wide, (int(x), int(y)), int(rng.integers(8, 40)), float(rng.integers(20, 230)), -1)
    return wide


def take(seed: int, frames: int, pan: float = 0.0, gain: float = 1.0) -> list[np.ndarray]:
    """Frames of a camera that pans by so many pixels a frame over a place, with noise: uint8 (HIGH, WIDE)."""
    wide, rng = place(seed), np.random.default_rng(seed + 1)
    views = (wide[:, round(pan * n) : round(pan * n) + WIDE] for n in range(frames))
    return [np.clip(gain * v + rng.normal(0, 3, v.shape), 0, 255).astype(np.uint8) for v in views]


def found(frames: list[np.ndarray]) -> list[int]:
    return cuts_of([glance(f) for f in frames])


WHITE, BLACK = (np.full((HIGH, WIDE), v, np.uint8) for v in (250, 4))


class TestCuts:
    def test_every_take_begins_one(self):
        assert found([*take(1, 9, 1), *take(2, 7), *take(3, 12), *take(4, 6, 3)]) == [9, 16, 28]

    def test_takes_of_a_single_frame_at_either_end(self):
        assert found([*take(1, 1), *take(2, 8)]) == [1]
        assert found([*take(1, 8), *take(2, 1)]) == [8]

    @pytest.mark.parametrize("pan", [0, 2, 8, 16])
    def test_a_camera_that_pans_does_not_cut(self, pan):
        assert found(take(5, 25, pan)) == []

    def test_a_pan_that_begins_and_ends_at_once_does_not_cut(self):
        wide = place(6)
        steps = np.cumsum([0] * 8 + [12] * 8 + [0] * 8)
        assert found([wide[:, s : s + WIDE].astype(np.uint8) for s in steps]) == []

    def test_other_light_does_not_cut(self):
        one = take(7, 24)
        assert found([np.clip(f * (0.4 if n % 2 else 1.1), 0, 255).astype(np.uint8) for n, f in enumerate(one)]) == []
        assert found([*one[:9], *(np.clip(f * 0.5 + 60, 0, 255).astype(np.uint8) for f in one[9:])]) == []

    @pytest.mark.parametrize("lasts", [1, 2, 3])
    @pytest.mark.parametrize("flash", [WHITE, BLACK])
    def test_a_flash_does_not_cut_but_one_between_takes_does(self, flash, lasts):
        one, other = take(8, 12), take(9, 12)
        assert found([*one[:6], *[flash] * lasts, *one[6:]]) == []
        assert found([*one, *[flash] * lasts, *other]) == [12 + lasts]

    def test_frames_shown_twice_hide_no_cut_and_make_none(self):
        one, other = take(10, 9, 6), take(11, 9, 6)
        assert found([f for f in one for _ in range(3)]) == []
        assert found([f for f in [*one, *other] for _ in range(2)]) == [18]

    def test_little_or_nothing(self):
        assert found([]) == []
        assert found(take(1, 1)) == []
        assert found([WHITE] * 5) == []


def test_a_take_lies_between_two_cuts():
    assert take_of(0, 30, []) == range(30)
    assert [take_of(f, 30, [9, 16]) for f in (0, 8, 9, 15, 16, 29)] == [
        range(9), range(9), range(9, 16), range(9, 16), range(16, 30), range(16, 30),
    ]  # fmt: skip


def test_importing_finds_the_cuts(tmp_path):
    frames = [*take(1, 10, 2), *take(2, 12)]
    path = make_video(
        tmp_path / "two.mp4", 22, (WIDE, HIGH), picture=lambda n, *_: np.repeat(frames[n][..., None], 3, 2), rotation=90
    )
    with (tmp_path / "proxy").open("wb") as proxy:
        assert ingest.ingest(path, path.name, proxy).cuts == [10]
