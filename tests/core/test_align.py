"""Following the camera: by the place, whatever moves in front of it."""

import cv2
import numpy as np
import pytest

from nervykite.core.plate.plate import lay
from nervykite.core.track.align import between, contrast, features, homography

from .scenes import blob, composed, texture

SIZE = (320, 200)


def over_an_even_place(
    shifts: list[float], walks: list[float], size: float = 55
) -> tuple[list[np.ndarray], list[np.ndarray]]:
    """Somebody in a patched coat before a blurred place, and where: the camera moves by `shifts`, they by `walks`."""
    height, width = SIZE
    # Soft clouds, of a few levels only: to the eye nearly nothing beside the coat.
    place = cv2.GaussianBlur(texture(height, width + 80, (128, 120, 110), 3, 30), (0, 0), 4)
    patches = np.where(texture(height, width + 80, (128, 128, 128), 5, 60) > 128, 235, 20)
    coat = cv2.GaussianBlur(patches.astype(np.float32), (0, 0), 1)
    frames, mattes = [], []
    for n, (shift, walk) in enumerate(zip(shifts, walks, strict=True)):

        def seen(picture: np.ndarray, by: float) -> np.ndarray:
            return cv2.warpAffine(picture, np.float32([[1, 0, -40 - by], [0, 1, 0]]), (width, height))

        alpha = seen(blob(height, width + 80, 140 + walk, 170, size), shift)
        frames.append(composed(alpha, seen(coat, shift - walk), seen(place, shift), 1.0, n))
        mattes.append(alpha)
    return frames, mattes


def place_moved(mapping: np.ndarray | None) -> float:
    """By how much a homography moves the middle of the frame sideways, px."""
    assert mapping is not None
    middle = np.array([[[SIZE[1] / 2, SIZE[0] / 2]]])
    return float((cv2.perspectiveTransform(middle, mapping) - middle)[0, 0, 0])


class TestPlace:
    def test_an_even_place_is_followed_though_the_subject_has_the_stronger_corners(self):
        (first, other), _ = over_an_even_place([0, 5], [0, -9])
        one, two = contrast(first), contrast(other)
        assert place_moved(between(one, two, features(one), np.eye(3))) == pytest.approx(-5, abs=0.5)

    def test_somebody_large_is_not_followed_either(self):
        (first, other), mattes = over_an_even_place([0, 4], [0, -6], 95)
        assert mattes[0].mean() > 0.2
        one, two = contrast(first), contrast(other)
        assert place_moved(between(one, two, features(one), np.eye(3))) == pytest.approx(-4, abs=0.5)

    def test_without_the_same_contrast_everywhere_the_subject_is_followed(self):
        (first, other), _ = over_an_even_place([0, 5], [0, -9])
        one, two = (cv2.cvtColor(p, cv2.COLOR_RGB2GRAY) for p in (first, other))
        assert place_moved(between(one, two, features(one), np.eye(3))) == pytest.approx(-14, abs=0.5)

    def test_a_shot_is_laid_on_its_place(self):
        steps = np.arange(10.0)
        frames, _ = over_an_even_place([*(1.5 * steps)], [*(-3 * steps)])
        stack = lay(frames, 4)
        assert not stack.still
        assert place_moved(stack.ways[9]) == pytest.approx(1.5 * 5, abs=0.6)

    def test_of_two_motions_the_one_that_reaches_farther_is_the_cameras(self):
        rng = np.random.default_rng(4)
        everywhere, here = rng.uniform(0, 1, (60, 1, 2)) * (300, 400), 120 + rng.uniform(0, 1, (150, 1, 2)) * (60, 90)
        points = np.concatenate([everywhere, here]).astype(np.float32)
        there = np.concatenate([everywhere + (4, -2), here + (-11, 6)]).astype(np.float32)
        found = homography(points, there, (400, 300))
        assert found is not None
        assert np.allclose(found, [[1, 0, 4], [0, 1, -2], [0, 0, 1]], atol=0.05)


class TestContrast:
    def test_faint_and_strong_texture_look_alike(self):
        faint, strong = (texture(160, 120, (128, 128, 128), 2, rough) for rough in (9, 45))
        beside = np.hstack([faint, strong]).clip(0, 255).astype(np.uint8)
        seen = contrast(beside).astype(float)
        left, right = seen[:, 15:105].std(), seen[:, 135:225].std()
        assert right / left < 2  # five times in the picture

    def test_noise_stays_fainter_than_texture(self):
        rng = np.random.default_rng(1)
        noise = np.clip(rng.normal(128, 2.5, (160, 120, 3)), 0, 255).astype(np.uint8)
        grain = np.clip(texture(160, 120, (128, 128, 128), 2, 30), 0, 255).astype(np.uint8)
        assert contrast(noise).std() < 0.4 * contrast(grain).std()

    def test_brightness_does_not_matter(self):
        picture = np.clip(texture(160, 120, (90, 90, 90), 2, 20), 0, 255).astype(np.uint8)
        brighter = np.clip(picture * 1.4, 0, 255).astype(np.uint8)
        off = contrast(picture).astype(float) - contrast(brighter)
        assert np.abs(off).mean() < 0.2 * contrast(picture).std()
