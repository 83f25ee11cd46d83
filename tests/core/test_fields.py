"""Fields that take pictures along, and work beside other work."""

import threading

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nervykite.core.common.aside import side_by_side
from nervykite.core.see.carry.fields import blended, displacement, taken

from .scenes import texture

TURN = np.array([[0.98, -0.08, 5.0], [0.08, 0.98, -3.0], [2e-4, -1e-4, 1.0]])


class TestDisplacement:
    def test_is_where_the_homography_puts_each_pixel(self):
        part = slice(20, 50), slice(12, 60)
        moved = displacement(TURN, part)
        y, x = np.mgrid[part].astype(np.float64)
        there = cv2.perspectiveTransform(np.dstack([x, y]), TURN)
        assert np.abs(moved + np.dstack([x, y]) - there).max() < 1e-3

    def test_standing_still_is_no_displacement(self):
        assert not displacement(np.eye(3), (slice(0, 9), slice(3, 11))).any()


class TestTaken:
    @pytest.mark.parametrize("part", [(slice(0, 80), slice(0, 100)), (slice(31, 64), slice(40, 83))])
    def test_a_part_is_the_part_of_the_whole_under_the_homography(self, part):
        picture = np.clip(texture(80, 100, (120, 130, 140), 3), 0, 255).astype(np.uint8)
        (found,) = taken((picture,), displacement(TURN, part), part)
        whole = cv2.warpPerspective(
            picture, TURN, (100, 80), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE
        )
        assert np.abs(found.astype(int) - whole[part]).mean() < 0.6

    def test_beyond_the_edge_the_last_pixel_goes_on(self):
        picture = np.tile(np.arange(10, dtype=np.float32), (6, 1))
        field = np.full((6, 10, 2), (4, 0), np.float32)
        (found,) = taken((picture,), field, (slice(0, 6), slice(0, 10)))
        assert found[2].tolist() == [4, 5, 6, 7, 8, 9, 9, 9, 9, 9]


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 255), st.integers(0, 255), st.floats(0, 1, width=32))
def test_a_blend_lies_between_its_pictures(first, second, share):
    under, over = (np.full((3, 4, 3), v, np.uint8) for v in (first, second))
    mixed = blended(under, over, np.full((3, 4), share, np.float32))
    assert np.abs(mixed - (first + share * (second - first))).max() <= 0.51
    assert mixed.min() >= min(first, second)
    assert mixed.max() <= max(first, second)


class TestSideBySide:
    def test_answers_come_in_the_order_of_the_calls(self):
        late = threading.Event()

        def first() -> int:
            assert late.wait(5)  # is still being answered while the second one already is
            return 1

        def second() -> int:
            late.set()
            return 2

        assert list(side_by_side([first, second, lambda: 3, lambda: 4])) == [1, 2, 3, 4]

    def test_no_more_than_a_few_calls_are_made_ahead(self):
        made = []

        def calls():
            for k in range(50):
                made.append(k)
                yield lambda k=k: k

        answers = side_by_side(calls(), ahead=2)
        assert next(answers) == 0
        assert len(made) <= 4
        answers.close()
        assert len(made) <= 4

    def test_what_a_call_raises_is_raised_in_its_turn(self):
        answers = side_by_side([lambda: 1, lambda: 1 // 0, lambda: 3])
        assert next(answers) == 1
        with pytest.raises(ZeroDivisionError):
            next(answers)
