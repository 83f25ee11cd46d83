"""Clean plates in full size, frames laid over each other, and mending by brush."""

import cv2
import numpy as np
import pytest

from nervykite.core.common.errors import Refusal
from nervykite.core.see.scene.clean import clean_plate, laid_over
from nervykite.core.see.scene.difference import apart, beyond, reach
from nervykite.core.see.scene.mend import cloned, filled

from .scenes import blob, composed, passing, texture


class TestCleanPlate:
    @pytest.mark.parametrize(("pan", "most"), [(0.0, 4), (1.0, 6)])
    def test_shows_the_place_behind_the_subject(self, pan, most):
        frames, alphas, scenes = passing(20, pan=pan)
        plate, guess = clean_plate(frames, 10)
        behind = alphas[10] > 0.5
        assert np.abs(plate.astype(int) - scenes[10])[behind].mean() < most
        assert guess[behind].mean() < 0.01

    def test_somebody_who_lingers_is_kept_out_by_the_person_finder(self):
        frames, alphas, scenes = passing(20)
        # The subject stands from frame 8 on, for more than half of the time.
        still = [*frames[:8], *([frames[8]] * 12)]
        alpha = alphas[8]

        def person(frame, quick):
            which = int(np.argmin([np.abs(f.astype(int) - frame).mean() for f in frames]))
            return alphas[which].astype(np.float32)

        plate, _ = clean_plate(still, 12, person)
        assert np.abs(plate.astype(int) - scenes[8])[alpha > 0.9].mean() < 8

    def test_what_no_frame_shows_goes_on_from_beside_it_and_is_called_a_guess(self):
        h, w = 160, 120
        wall = texture(h, w, (150, 140, 120), 4, 3)
        bodies = [blob(h, w, 50 + 4 * (n % 6), 85, 32) for n in range(12)]
        frames = [composed(b, texture(h, w, (60, 90, 190), 6), wall, 2.0, n) for n, b in enumerate(bodies)]
        plate, guess = clean_plate(frames, 6, lambda frame, quick: (frame[..., 2] > 175).astype(np.float32))
        always = np.min(bodies, 0) > 0.9
        assert guess[always].mean() > 0.95
        assert np.abs(plate.astype(int) - wall)[always].mean() < 12
        away = cv2.dilate(np.max(bodies, 0), np.ones((15, 15), np.uint8)) < 0.1
        assert guess[away].mean() < 0.01
        assert np.abs(plate.astype(int) - wall)[away].mean() < 3

    def test_too_few_frames_are_said(self):
        frames, _, _ = passing(3)
        with pytest.raises(Refusal, match="fewer than four"):
            clean_plate(frames, 1)


class TestLaidOver:
    def test_a_frame_from_a_moved_camera_comes_to_lie_on_the_held_one(self):
        _, _, scenes = passing(12, pan=2.0)
        laid, seen = laid_over(scenes[11], scenes[3])
        assert np.abs(laid.astype(int) - scenes[3])[seen].mean() < 6
        assert 0.7 < seen.mean() < 0.99

    def test_a_standing_camera_leaves_every_pixel_as_it_is(self):
        frames, _, scenes = passing(8)
        laid, seen = laid_over(scenes[0], frames[4])
        assert (laid == scenes[0]).all()
        assert seen.all()

    def test_another_place_is_said(self):
        flat = np.full((120, 160, 3), 90, np.uint8)
        with pytest.raises(Refusal, match="too little of the same place"):
            laid_over(flat, flat)


class TestMend:
    def plate(self) -> tuple[np.ndarray, np.ndarray]:
        place = np.clip(texture(120, 160, (150, 140, 120), 2, 6), 0, 255).astype(np.uint8)
        area = np.zeros((120, 160), bool)
        area[50:70, 70:100] = True
        return place, area

    def test_a_hole_is_filled_from_around_it(self):
        place, area = self.plate()
        spoilt = place.copy()
        spoilt[area] = (255, 0, 255)
        mended = filled(spoilt, area)
        assert np.abs(mended[area].astype(int).mean(0) - place[area].mean(0)).max() < 12
        far = np.ones_like(area)
        far[30:90, 50:120] = False
        assert (mended[far] == spoilt[far]).all()

    def test_a_filled_place_has_the_grain_of_the_plate(self):
        place, area = self.plate()
        noisy = np.clip(place + np.random.default_rng(0).normal(0, 6, place.shape), 0, 255).astype(np.uint8)
        assert filled(noisy, area)[area].std(0).mean() > 2.5

    def test_another_picture_is_put_in_with_the_plates_brightness(self):
        place, area = self.plate()
        spoilt = place.copy()
        spoilt[area] = 0
        darker = (place * 0.85).astype(np.uint8)
        mended = cloned(spoilt, darker, area)
        assert np.abs(mended[area].astype(int) - place[area]).mean() < 4

    def test_an_empty_stroke_changes_nothing(self):
        place, area = self.plate()
        assert (filled(place, area & False) == place).all()
        assert (cloned(place, place, area & False) == place).all()


class TestDifference:
    def test_is_the_largest_channels_and_forgives_half_a_pixel(self):
        plate = np.zeros((20, 20, 3), np.uint8)
        plate[:, 10:] = 200
        frame = np.zeros((20, 20, 3), np.uint8)
        frame[:, 11:] = 200
        shifted = apart(frame, plate)
        assert shifted[10, 10] == pytest.approx(0.75 * 200)
        frame[5, 5] = (3, 40, 9)
        assert apart(frame, plate)[5, 5] == pytest.approx(40)

    def test_beyond_a_range_is_how_far_it_lies_outside(self):
        picture = np.full((4, 4, 3), 100, np.uint8)
        low, high = reach(picture, 3)
        frame = picture.copy()
        frame[1, 1], frame[2, 2] = (90, 100, 100), (100, 125, 100)
        off = beyond(frame, low, high)
        assert off[1, 1] == 10
        assert off[2, 2] == 25
        assert off.sum() == 35
