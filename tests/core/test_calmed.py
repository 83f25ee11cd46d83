"""Colours that a camera's noise shifts between red and green, and what is found in spite of it."""

import numpy as np
import pytest

from nervykite.core.see.find import marks
from nervykite.core.see.find.marks import Stroke
from nervykite.core.see.matte.calmed import CalmSettings, calmed, noise_of_colours

from .scenes import BY_COLOUR, by_colour, overlap, picture, red_green

SIZE = 240, 180


class TestHowNoisy:
    @pytest.mark.parametrize("sigma", [10, 25, 45])
    def test_the_noise_that_was_added_is_measured(self, sigma):
        flat = np.full((*SIZE, 3), 120, np.uint8)
        # What is added to red and taken from green is 0.92 of it in Cr (0.713 (R − Y′), Y′ = 0.299 R + 0.587 G + …).
        assert noise_of_colours(red_green(flat, sigma)) == pytest.approx(0.92 * sigma, rel=0.15)

    def test_things_are_no_noise(self):
        assert noise_of_colours(picture()[0]) < CalmSettings().strong
        halves = np.zeros((*SIZE, 3), np.uint8)
        halves[:, 90:] = 200, 30, 30
        assert noise_of_colours(halves) == 0

    def test_noise_in_colours_at_half_the_size_is_measured_as_well(self):
        flat = np.full((*SIZE, 3), 120, np.uint8)
        assert noise_of_colours(red_green(flat, 25, block=2)) == pytest.approx(23, rel=0.2)

    @pytest.mark.parametrize("size", [(1, 1), (2, 9), (3, 3), (5, 4)])
    def test_specks_are_calm(self, size):
        speck = np.random.default_rng(0).integers(0, 255, (*size, 3)).astype(np.uint8)
        assert calmed(speck).shape == speck.shape


class TestCalming:
    def test_calm_pictures_are_not_touched(self):
        frame = picture()[0]
        assert calmed(frame) is frame

    def test_noise_goes_and_light_stays(self):
        clean = np.full((*SIZE, 3), 120, np.uint8)
        clean[60:180, 40:140] = 190, 150, 90
        frame = red_green(clean, 25)
        calm = calmed(frame)
        assert noise_of_colours(calm) < noise_of_colours(frame) / 5
        light = (0.299, 0.587, 0.114)
        inside = np.s_[20:40, 20:160]  # away from where a channel would have to be more than it can
        assert np.abs(calm[inside] @ light - frame[inside] @ light).mean() < 1

    def test_a_subject_that_differs_by_colour_alone_is_found(self):
        frame, alpha = by_colour()
        keep, drop = ([Stroke(np.array(line), 6) for line in lines] for lines in BY_COLOUR)

        def found(seen: np.ndarray) -> float:
            return overlap(marks.cut_out(seen, keep, drop, lambda *_: None), alpha)

        assert found(calmed(frame)) > max(0.8, found(frame) + 0.1)
