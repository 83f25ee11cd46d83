"""What a subject looks like, learned from one frame and told in others."""

import numpy as np
import pytest

from nervykite.core.see.carry.sight import Sight

from .scenes import blob, composed, texture

H, W = 300, 400
PLACE = texture(H, W, (130, 140, 120), 3, 18)
CLOTH = texture(H, W, (150, 120, 110), 8, 60)
WHOLE = slice(0, H), slice(0, W)


def at(x: float) -> tuple[np.ndarray, np.ndarray]:
    """A frame with the subject at a column, and its matte."""
    alpha = blob(H, W, x, 150, 55)
    return composed(alpha, np.roll(CLOTH, round(x), 1), PLACE, 1.5, round(x)), alpha


def near(x: int) -> tuple[slice, slice]:
    """A part of the frame around a column."""
    return slice(60, 240), slice(x - 90, x + 90)


class TestSight:
    def test_it_tells_the_subject_in_another_frame(self):
        sight, (frame, alpha) = Sight(*at(120)), at(220)
        _, says = sight.says(frame[near(220)])
        inside, outside = alpha[near(220)] > 0.95, alpha[near(220)] < 0.05
        assert says.shape == (180, 180)
        assert -1 <= says.min() <= says.max() <= 1
        assert says[inside].mean() > says[outside].mean() + 0.8

    def test_a_part_at_the_frames_edge_and_a_larger_one_are_told_as_well(self):
        sight, (frame, alpha) = Sight(*at(120)), at(60)
        for part in ((slice(60, 240), slice(0, 120)), WHOLE, (slice(140, 150), slice(55, 65))):
            part = sight.part(part, (H, W))
            _, says = sight.says(frame[part])
            assert says.shape == alpha[part].shape
            assert says[alpha[part] > 0.9].mean() > 0.2

    @pytest.mark.parametrize("rows", [slice(0, 10), slice(140, 150), slice(H - 10, H), slice(0, H)])
    def test_it_looks_from_as_near_as_it_learned(self, rows):
        sight = Sight(*at(120))
        (up, down), (left, right) = ((p.start, p.stop) for p in sight.part((rows, slice(200, 210)), (H, W)))
        assert up <= rows.start < rows.stop <= down
        assert 0 <= left <= 200 < 210 <= right <= W
        assert down - up == H or down - up > 150  # the subject and its surroundings
        assert right - left > 100

    def test_it_says_nothing_where_nothing_was_to_be_learned(self, monkeypatch, tmp_path):
        frame, alpha = at(120)
        assert Sight(frame, np.zeros_like(alpha)).says(frame) is None
        assert Sight(frame, np.ones_like(alpha)).says(frame) is None
        monkeypatch.setenv("NERVYKITE_NETWORKS", str(tmp_path))
        assert Sight(frame, alpha).says(frame) is None
