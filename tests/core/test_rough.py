"""Rough answers to strokes, before the exact ones."""

from unittest.mock import patch

import cv2
import numpy as np
import pytest

from nervykite.core.common.errors import Refusal
from nervykite.core.piece.model import Matte, Node, Shape
from nervykite.core.see.find.motion_cue import whom_moves
from nervykite.core.see.find.rough import Added, rough
from nervykite.core.see.find.strokes import draw
from nervykite.core.see.matte import networks
from nervykite.core.see.matte.combine import matte_alpha
from nervykite.core.see.matte.reduced import reduced

from .scenes import DROP, KEEP, composed, overlap, picture, stroke, texture

FIRST = [Added("keep", KEEP[0]), *(Added("drop", d) for d in DROP)]


def half(values: np.ndarray) -> np.ndarray:
    return cv2.resize(values, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)


class TestRough:
    def test_first_strokes_find_about_the_subject_in_a_smaller_picture(self):
        frame, alpha = picture()
        found = rough(half(frame), 0.5, FIRST)
        assert found.shape == (120, 90)
        assert overlap(found, half(alpha)) > 0.85

    def test_no_network_is_asked(self):
        frame, _ = picture()
        with patch.object(networks.Network, "__call__", side_effect=AssertionError("a network was asked")):
            rough(half(frame), 0.5, FIRST)
            rough(half(frame), 0.5, [Added("keep", KEEP[1])], KEEP[:1], DROP, np.zeros((240, 180), np.float32))

    def test_more_strokes_correct_what_was_found_and_leave_the_rest(self):
        frame, alpha = picture()
        before = alpha.copy()
        before[:110] = 0  # the head is missing
        head = Added("keep", stroke((90, 62), (96, 96), width=10))
        after = rough(half(frame), 0.5, [head], KEEP, DROP, before)
        assert overlap(after, half(alpha)) > overlap(half(before), half(alpha)) + 0.1
        assert ((after > 0.5) == (half(before) > 0.5))[95:].all()

    def test_several_strokes_count_in_the_order_in_which_they_were_drawn(self):
        frame, alpha = picture()
        line = stroke((84, 110), (96, 130), width=12)
        covered = draw([stroke((42, 55), (48, 65), width=5)], 120, 90)
        for order in (("keep", "drop"), ("drop", "keep")):
            after = rough(half(frame), 0.5, [Added(side, line) for side in order], KEEP, DROP, alpha)
            assert after[covered].mean() == (1 if order[1] == "keep" else 0)

    def test_what_is_known_to_move_helps(self):
        frame, alpha = picture()
        trousers = alpha * (np.arange(240)[:, None] > 125)  # and nobody marked them
        frame = composed(trousers, texture(240, 180, (90, 100, 140), 8), frame.astype(np.float32))
        moves = 3 * (alpha > 0.5).astype(np.float32)
        nothing = np.zeros(alpha.shape, bool)

        def meant() -> np.ndarray | None:
            return whom_moves(moves, draw([strokes[0].stroke], 240, 180), nothing)

        strokes = [Added("keep", stroke((90, 85), (88, 115))), *FIRST[1:]]
        alone, helped = (overlap(rough(half(frame), 0.5, strokes, moves=m), half(alpha)) for m in (lambda: None, meant))
        assert helped > alone + 0.2

    def test_strokes_of_no_use_are_said(self):
        frame, alpha = picture()
        with pytest.raises(Refusal, match="No keep stroke"):
            rough(half(frame), 0.5, [Added("drop", DROP[0])])
        with pytest.raises(Refusal, match="outside the frame"):
            rough(half(frame), 0.5, [Added("keep", stroke((900, 900), (910, 910)))], before=alpha)


class TestReduced:
    def test_a_matte_of_a_smaller_picture_is_the_smaller_matte(self):
        nodes = [Node(x=30, y=40), Node(x=150, y=50, smooth=True, arrive=(-20, 10), leave=(10, 30)), Node(x=80, y=200)]
        hole = [Node(x=70, y=80), Node(x=100, y=80), Node(x=85, y=120)]
        pieces = [Shape(nodes=nodes, grow=6, soften_out=8), Shape(nodes=hole, combine="cut away", soften_in=4)]
        matte = Matte(pieces=pieces, grow=-2, soften_in=3)
        small = matte_alpha(reduced(matte, 0.5), 120, 90)
        assert np.abs(small - half(matte_alpha(matte, 240, 180))).mean() < 0.01

    def test_it_has_no_fine_edge(self):
        assert reduced(Matte(fine_edge=10, smooth=4), 0.25) == Matte(smooth=1)
