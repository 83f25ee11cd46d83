"""What the answer of a pick, of marks, or of what they are made of must not depend on."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nervykite.core.see.carry.carry import carry
from nervykite.core.see.find import marks, mover
from nervykite.core.see.find.marks import Stroke
from nervykite.core.see.scene.shade import shaded
from nervykite.core.see.scene.stack import _in_sight, compared, evened, lay

from .scenes import overlap, passing, picture, texture, walking

KEEP = [[(90, 90), (90, 150)], [(92, 66), (96, 76)], [(75, 165), (66, 185)], [(106, 165), (114, 182)]]
DROP = [[(15, 20), (15, 225)], [(165, 20), (165, 225)], [(30, 15), (150, 15)]]


def strokes(lines, change=lambda points: points) -> list[Stroke]:
    return [Stroke(change(np.array(line, float)), 6) for line in lines]


def mirrored(points: np.ndarray) -> np.ndarray:
    return np.array([180, 0]) + points * [-1, 1]


class TestMarks:
    def test_left_and_right_are_alike(self):
        frame, _ = picture()
        plain = marks.find(frame, strokes(KEEP), strokes(DROP))
        other = marks.find(frame[:, ::-1].copy(), strokes(KEEP, mirrored), strokes(DROP, mirrored))
        assert overlap(plain, other[:, ::-1]) > 0.97

    @pytest.mark.parametrize(("left", "top"), [(0, 0), (160, 300), (320, 40)])
    def test_it_does_not_matter_where_in_a_large_frame_somebody_small_is(self, left, top):
        frame, alpha = picture()
        large = texture(700, 520, (120, 150, 90), 9).clip(0, 255).astype(np.uint8)
        large[top : top + 240, left : left + 180] = frame
        found = marks.find(large, *(strokes(lines, lambda p: p + [left, top]) for lines in (KEEP, DROP)))
        assert overlap(found[top : top + 240, left : left + 180], alpha) > 0.93
        assert found.sum() < 1.1 * alpha.sum()

    def test_what_a_finder_says_is_laid_where_it_says_it_at_any_size(self):
        frame, alpha = picture()
        large = texture(700, 520, (120, 150, 90), 9).clip(0, 255).astype(np.uint8)
        large[300:540, 160:340] = frame
        likely = np.zeros((700, 520), np.float32)
        likely[300:540, 160:340] = alpha
        both = [strokes(lines, lambda p: p + [160, 300]) for lines in (KEEP[:1], DROP)]
        answers = [
            marks.find(large, *both, lambda size=size: cv2.resize(likely, size, interpolation=cv2.INTER_AREA))
            for size in ((520, 700), (260, 350), (781, 1051))
        ]
        for found in answers:
            assert overlap(found[300:540, 160:340], alpha) > 0.9
            assert overlap(found, answers[0]) > 0.95


class TestMover:
    @pytest.fixture(scope="class")
    def shot(self):
        frames, alphas = walking(20)
        return frames, alphas[9], mover.pick_mover(frames, 9)[0].found

    def test_left_and_right_are_alike(self, shot):
        frames, _, plain = shot
        other = mover.pick_mover([f[:, ::-1].copy() for f in frames], 9)[0].found
        assert overlap(plain, other[:, ::-1]) > 0.95

    def test_a_shot_may_run_backwards(self, shot):
        frames, _, plain = shot
        other = mover.pick_mover(frames[::-1], len(frames) - 1 - 9)[0].found
        assert overlap(plain, other) > 0.95

    @pytest.mark.parametrize("gain", [0.6, 0.85])
    def test_it_may_be_filmed_darker(self, shot, gain):
        frames, alpha, _ = shot
        darker = [np.clip(f * gain, 0, 255).astype(np.uint8) for f in frames]
        assert overlap(mover.pick_mover(darker, 9)[0].found, alpha) > 0.93

    def test_light_that_jumps_from_frame_to_frame_is_no_mover(self):
        frames, alphas, _ = passing(24, flicker=0.15)
        assert overlap(mover.pick_mover(frames, 11)[0].found, alphas[11]) > 0.85

    def test_frames_that_see_nothing_of_it_change_nothing(self):
        frames, _, _ = passing(36, pan=9.0)
        near = lay(frames[12:27], 8, most=12)
        far = lay(frames, 20, most=12)
        apart = np.abs(near.frames[0].astype(int) - far.frames[0])
        assert apart.max() == 0
        assert far.valid.mean((1, 2)).min() > 0.2


class TestParts:
    def test_a_place_is_not_its_own_shade(self):
        scene = texture(120, 90, (150, 140, 120), 3).clip(0, 255).astype(np.uint8)
        assert not shaded(scene, scene).any()

    def test_shade_does_not_care_which_side_is_up(self):
        scene = texture(120, 90, (150, 140, 120), 3, 8).clip(0, 255).astype(np.uint8)
        frame = scene.copy()
        frame[30:90, 20:60] = (scene[30:90, 20:60] * 0.7).astype(np.uint8)
        frame[50:56, 30:50] = 10
        plain = shaded(frame, scene)
        turned = shaded(frame.swapaxes(0, 1).copy(), scene.swapaxes(0, 1).copy())
        assert plain[35:45, 25:55].mean() > 0.9
        assert plain[50:56, 30:50].mean() < 0.1
        assert (plain == turned.T).mean() > 0.98

    @given(st.floats(0.8, 1.25), st.integers(0, 50))
    @settings(max_examples=30, deadline=None)
    def test_exposure_is_evened_out_whatever_moves_in_a_part_of_the_frame(self, gain, seed):
        scene = texture(60, 80, (120, 130, 110), seed, 12).clip(0, 200).astype(np.uint8)
        frame = np.clip(scene * gain, 0, 255).astype(np.uint8)
        frame[:20, :30] = 250
        again = evened(frame, scene, np.ones((60, 80), bool))
        assert np.abs(again[20:].astype(int) - scene[20:]).mean() < 3

    def test_what_is_darker_than_any_exposure_would_be_is_left_alone(self):
        scene = np.full((60, 80, 3), 160, np.uint8)
        night = np.full((60, 80, 3), 40, np.uint8)
        assert (evened(night, scene, np.ones((60, 80), bool)) == night).all()
        assert (evened(night, scene, np.zeros((60, 80), bool)) == night).all()

    @given(st.integers(-100, 100), st.integers(-60, 60))
    @settings(max_examples=60, deadline=None)
    def test_how_much_of_a_frame_another_sees(self, right, down):
        way = np.array([[1, 0, right], [0, 1, down], [0, 0, 1]], float)
        shared = max(0, 80 - abs(right)) * max(0, 60 - abs(down)) / (80 * 60)
        assert _in_sight(way, 60, 80) == pytest.approx(shared, abs=1e-4)

    @given(st.integers(1, 400), st.data(), st.integers(2, 40))
    @settings(max_examples=100)
    def test_frames_are_compared_in_order_with_the_held_one_among_them(self, count, data, most):
        at = data.draw(st.integers(0, count - 1))
        chosen = compared(count, at, most)
        assert at in chosen
        assert chosen == sorted(set(chosen))
        assert len(chosen) <= min(count, most)
        assert chosen[0] >= 0
        assert chosen[-1] < count


class TestCarry:
    def test_left_and_right_are_alike_and_so_are_before_and_after(self):
        frames, alphas = walking(9)
        plain = [c.alpha for c in carry(frames, {0: alphas[0]}, [4, 8])]
        flipped = [c.alpha for c in carry([f[:, ::-1].copy() for f in frames], {0: alphas[0][:, ::-1].copy()}, [4, 8])]
        backwards = [c.alpha for c in carry(frames[::-1], {8: alphas[0]}, [0, 4])]
        for one, other in zip(plain, flipped, strict=True):
            assert overlap(one, other[:, ::-1]) > 0.96
        for one, other in zip(plain, backwards[::-1], strict=True):
            assert overlap(one, other) > 0.96
