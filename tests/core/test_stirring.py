"""What moves between a frame and those a little before and after it."""

import cv2
import numpy as np
import pytest

from nervykite.core.see.scene.stirring import STEP, movers, stirring

from .scenes import overlap, passing, texture


class TestStirring:
    @pytest.mark.parametrize(("pan", "flicker"), [(0.0, 0.0), (1.4, 0.0), (0.0, 0.12), (1.4, 0.12)])
    def test_is_the_subject_whatever_camera_and_exposure_do(self, pan, flicker):
        frames, alphas, _ = passing(12, 240, 300, pan, flicker)
        for at in (4, 6, 9):
            stirs = stirring(frames, at)
            assert stirs is not None
            stirs = movers(stirs)
            around = cv2.dilate(alphas[at], np.ones((41, 41))) > 0.5
            assert overlap(stirs, alphas[at]) > 0.45
            assert stirs[around].sum() > 0.98 * stirs.sum()

    def test_nothing_stirs_in_a_still_scene_however_noisy(self):
        rng = np.random.default_rng(1)
        scene = texture(160, 120, (120, 140, 150), 2)
        frames = [np.clip(scene + rng.normal(0, 6, scene.shape), 0, 255).astype(np.uint8) for _ in range(9)]
        stirs = stirring(frames, 4)
        assert stirs is not None
        assert not movers(stirs).any()

    def test_what_was_just_left_does_not_stir(self):
        scene = texture(200, 260, (120, 140, 150), 2).clip(0, 255).astype(np.uint8)
        frames = [scene.copy() for _ in range(2 * STEP + 1)]
        for k, frame in enumerate(frames):
            frame[80:120, 20 + 25 * k : 50 + 25 * k] = (220, 60, 40)
        stirs = movers(stirring(frames, STEP))
        here = slice(20 + 25 * STEP, 50 + 25 * STEP)
        assert stirs[84:116, here].mean() > 0.95
        stirs[72:128, here.start - 8 : here.stop + 8] = False
        assert not stirs.any()

    def test_a_frame_alone_says_nothing(self):
        frames, _, _ = passing(2, 160, 120)
        assert stirring(frames[:1], 0) is None

    def test_frames_that_show_something_else_say_nothing(self):
        frames = [texture(160, 120, (120, 140, 150), k).clip(0, 255).astype(np.uint8) for k in range(7)]
        assert stirring(frames, 3) is None
