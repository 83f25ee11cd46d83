"""What nobody means to do: strokes anywhere, specks, whole frames, edges, pictures without anything in them."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nervykite.core.common.errors import Refusal
from nervykite.core.see.carry.carry import carry
from nervykite.core.see.find import marks, mover
from nervykite.core.see.find.correct import correct
from nervykite.core.see.find.marks import Stroke

from .scenes import picture

HIGH, WIDE = 90, 70
FRAME, ALPHA = picture(HIGH, WIDE)
FLAT = np.full((HIGH, WIDE, 3), 110, np.uint8)
NOISE = np.random.default_rng(3).integers(0, 255, (HIGH, WIDE, 3)).astype(np.uint8)

places = st.tuples(st.floats(-20, 110), st.floats(-20, 110))
strokes = st.builds(
    lambda points, width: Stroke(np.array(points), width),
    st.lists(places, min_size=1, max_size=4),
    st.sampled_from([0.2, 1.0, 4.0, 30.0, 200.0]),
)


def nobody(*_):
    return None


class TestMarks:
    @settings(max_examples=24, deadline=None)
    @given(st.sampled_from([0, 1, 2]), st.lists(strokes, max_size=3), st.lists(strokes, max_size=3))
    def test_any_strokes_give_a_matte_or_a_sentence(self, which, keep, drop):
        if not marks.draw(keep, HIGH, WIDE).any():
            with pytest.raises(Refusal, match="Draw"):
                marks.cut_out(FRAME, keep, drop, nobody)
            return
        alpha = marks.cut_out((FRAME, FLAT, NOISE)[which], keep, drop, nobody)
        assert alpha.shape == (HIGH, WIDE)
        assert 0 <= alpha.min() <= alpha.max() <= 1
        assert alpha[marks.draw(keep, HIGH, WIDE)].min() == 1

    def test_a_speck_is_a_subject_too(self):
        alpha = marks.cut_out(FRAME, [Stroke(np.array([[35.0, 45.0]]), 0.5)], [], nobody)
        assert alpha[45, 35] == 1

    def test_the_whole_frame_may_be_kept(self):
        assert marks.cut_out(FRAME, [Stroke(np.array([[35.0, 45.0]]), 400.0)], [], nobody).min() == 1

    @settings(max_examples=16, deadline=None)
    @given(st.lists(strokes, max_size=2), st.lists(strokes, max_size=2), st.sampled_from([0.0, 0.4, 1.0]))
    def test_any_stroke_corrects_any_matte_or_says_why_not(self, keep, drop, filled):
        before = np.full((HIGH, WIDE), filled, np.float32)
        if not marks.draw([*keep, *drop], HIGH, WIDE).any():
            with pytest.raises(Refusal, match="Draw them over the picture"):
                correct(FRAME, before, keep, drop)
            return
        after = correct(FRAME, before, keep, drop)
        assert 0 <= after.min() <= after.max() <= 1


class TestMovers:
    @pytest.mark.parametrize("frames", [[FLAT] * 8, [NOISE] * 8])
    def test_without_a_subject_it_is_a_sentence(self, frames):
        with pytest.raises(Refusal, match="Use marks"):
            mover.pick_mover(frames, 3)


class TestCarry:
    def test_a_subject_at_the_frames_edge_stays_there(self):
        edge = np.zeros((HIGH, WIDE), np.float32)
        edge[:, :20] = 1
        for frame in (FRAME, FLAT):
            (found,) = carry([frame] * 5, {0: edge}, [4])
            assert found.alpha[:, :14].mean() > 0.9
            assert found.alpha[:, 30:].mean() < 0.1

    def test_a_full_matte_stays_full_and_a_speck_may_get_lost_but_says_so(self):
        (full,) = carry([FRAME] * 4, {0: np.ones((HIGH, WIDE), np.float32)}, [3])
        assert full.alpha.mean() == 1
        speck = np.zeros((HIGH, WIDE), np.float32)
        speck[40, 30] = 1
        (found,) = carry([FRAME] * 4, {0: speck}, [3])
        assert found.alpha.sum() < 20
        assert found.doubt > 0.9 or found.alpha[40, 30] > 0.5
