"""Following the camera: by the place, whatever moves in front of it."""

from collections.abc import Sequence

import cv2
import numpy as np
import pytest

from nervykite.core.see.scene import align
from nervykite.core.see.scene.align import between, contrast, features, homography
from nervykite.core.see.scene.direct_alignment import by_edges
from nervykite.core.see.scene.stack import lay

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

    def test_frames_that_lie_about_there_are_laid_exactly_there(self):
        frames, _ = over_an_even_place([*(1.5 * np.arange(10.0))], [*(-3 * np.arange(10.0))])
        known = lay(frames, 4).ways
        off = np.array([[1, 0, 1.4], [0, 1, -1.1], [0, 0, 1]])
        again = lay(frames, 4, ways={n: off @ way if n != 4 else way for n, way in known.items() if n != 2})
        assert not again.still
        assert sorted(again.numbers) == [0, 1, *range(3, 10)]
        assert place_moved(again.ways[9]) == pytest.approx(1.5 * 5, abs=0.6)
        assert np.abs(again.ways[9] - known[9])[:2, 2].max() < 0.5

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


def before_a_plain_wall(shift: float, walk: float) -> list[np.ndarray]:
    """Two noisy frames of somebody in a patched coat before a plain wall with a bent band; by how far each moves."""
    height, width = SIZE
    patches = np.where(texture(height, width, (128, 128, 128), 5, 60) > 128, 235, 20)
    coat = cv2.GaussianBlur(patches.astype(np.float32), (0, 0), 1)
    frames = []
    for n in (0, 1):
        wall = np.full((height, width, 3), (60, 190, 200), np.float32)
        bend = np.array([[20, 330], [40, 200], [110, 120], [150, 60], [160, -20]], float)
        bend = np.stack([np.interp(np.linspace(0, 4, 60), range(5), way) for way in bend.T], 1)
        line = np.round((cv2.blur(bend, (1, 15)) + (n * shift, 0)) * 16).astype(np.int32)
        cv2.polylines(wall, [line], False, (210, 60, 120), 22, cv2.LINE_AA, 4)
        moved = cv2.warpAffine(coat, np.float32([[1, 0, n * walk], [0, 1, 0]]), (width, height))
        frames.append(composed(blob(height, width, 110 + n * walk, 230, 40), moved, wall, 4.0, n))
    return frames


class TestEdges:
    def test_a_plain_wall_is_followed_by_the_edges_on_it(self):
        first, other = (contrast(frame) for frame in before_a_plain_wall(6, -14))
        mapping = between(first, other, features(first), np.eye(3))
        assert place_moved(mapping) == pytest.approx(6, abs=1)

    def test_by_corners_alone_it_is_not(self, monkeypatch):
        first, other = (contrast(frame) for frame in before_a_plain_wall(6, -14))
        monkeypatch.setattr(align, "by_edges", lambda *_: None)
        assert place_moved(between(first, other, features(first), np.eye(3))) == pytest.approx(-14, abs=0.5)

    def test_shift_turn_and_zoom_are_found(self):
        first = contrast(np.clip(texture(320, 200, (120, 130, 140), 7, 30), 0, 255).astype(np.uint8))
        way = np.vstack([cv2.getRotationMatrix2D((100, 160), 1.5, 1.02), [0, 0, 1]])
        way[:2, 2] += 5, -3
        other = cv2.warpPerspective(first, way, (200, 320), borderMode=cv2.BORDER_REFLECT)
        found = by_edges(first, other, np.eye(3))
        corners = np.array([[[20.0, 20]], [[180, 20]], [[180, 300]], [[20, 300]]])
        off = cv2.perspectiveTransform(corners, found) - cv2.perspectiveTransform(corners, way)
        assert np.abs(off).max() < 0.5

    def test_where_there_are_no_edges_nothing_is_said(self):
        flat = np.full((200, 120), 128, np.uint8)
        assert by_edges(flat, flat, np.eye(3)) is None

    def test_two_places_are_not_one(self):
        one, two = (
            contrast(np.clip(texture(320, 200, (120, 130, 140), n, 30), 0, 255).astype(np.uint8)) for n in (7, 8)
        )
        assert by_edges(one, two, np.eye(3)) is None


def coat_before(wall: np.ndarray, walks: Sequence[float], shift: float = 0.0) -> list[np.ndarray]:
    """Somebody in a patched coat who walks before a wall (h, w), with noise; the camera moves by `shift` a frame."""
    height, width = wall.shape
    patches = np.where(texture(height, width + 80, (128, 128, 128), 5, 60) > 128, 235, 20)
    coat = cv2.GaussianBlur(patches.astype(np.float32), (0, 0), 1)
    frames = []
    for n, walk in enumerate(walks):
        alpha, seen = (
            cv2.warpAffine(v, np.float32([[1, 0, walk - shift * n - 40], [0, 1, 0]]), (width, height))
            for v in (blob(height, width + 80, 140, 170, 40), coat)
        )
        way = np.float32([[1, 0, -shift * n], [0, 1, 0]])
        behind = cv2.warpAffine(wall, way, (width, height), borderMode=cv2.BORDER_REFLECT)
        frames.append(composed(alpha, seen, np.repeat(behind[..., None], 3, 2), 2.0, n))
    return frames


def walls() -> dict[str, np.ndarray]:
    height, width = SIZE
    flat = np.full(SIZE, 165, np.float32)
    floor = flat.copy()
    floor[260:] = 110
    fading = np.linspace(140, 190, width, dtype=np.float32) * np.ones((height, 1), np.float32)
    return {"flat": flat, "fading": fading, "with a floor": cv2.GaussianBlur(floor, (0, 0), 2)}


class TestPlain:
    @pytest.mark.parametrize("wall", ["flat", "fading", "with a floor"])
    def test_a_camera_that_stands_before_a_plain_wall_does_not_follow_who_walks_there(self, wall):
        frames = coat_before(walls()[wall], range(-60, 60, 8))
        greys = [contrast(f) for f in frames]
        assert not align.stands_still(greys, 7)
        assert align.stood_before_something_plain(greys, 7)
        assert lay(frames, 7).still

    def test_nobody_has_to_be_there(self):
        frames = coat_before(walls()["flat"], range(500, 520))
        assert lay(frames, 7).still

    def test_a_place_that_can_be_seen_to_move_was_not_before_a_camera_that_stood(self):
        place = texture(*SIZE, (128, 120, 110), 3, 30)[..., 0].astype(np.float32)
        greys = [contrast(f) for f in coat_before(place, range(-60, 60, 8), 4)]
        assert not align.stood_before_something_plain(greys, 7)

    def test_a_slope_from_side_to_side_tells_that_the_camera_moved(self):
        height, width = SIZE
        slope = np.where(np.arange(height)[:, None] > 200 + 0.4 * np.arange(width), 90, 170).astype(np.float32)
        greys = [contrast(f) for f in coat_before(cv2.GaussianBlur(slope, (0, 0), 1), [30] * 15, 4)]
        assert not align.stood_before_something_plain(greys, 7)
