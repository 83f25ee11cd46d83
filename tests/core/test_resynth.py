"""Filling holes with a picture's own structure and texture."""

import cv2
import numpy as np
import pytest

from nervykite.core.see.scene.clean import clean_plate
from nervykite.core.see.scene.mend import filled
from nervykite.core.see.scene.passers import passers
from nervykite.core.see.scene.plate import noise_of, plate_of
from nervykite.core.see.scene.resynth import flown_in, resynthesised
from nervykite.core.see.scene.stack import lay

from .scenes import blob, composed, texture


def beach(height: int = 200, width: int = 240) -> np.ndarray:
    """Sky, a fence, and rough sand: uint8 (height, width, 3)."""
    picture = texture(height, width, (150, 180, 220), 2, 2)
    picture[110:] = texture(height, width, (200, 170, 120), 3, 22)[110:]
    picture[90:110, :] = 60
    for x in range(0, width, 16):
        picture[60:110, x : x + 6] = (90, 60, 40)
    return np.clip(picture, 0, 255).astype(np.uint8)


def hole(height: int = 200, width: int = 240) -> np.ndarray:
    return cv2.ellipse(np.zeros((height, width), np.uint8), (130, 100), (26, 60), 0, 0, 360, 1, -1) > 0


def detail(picture: np.ndarray, where: np.ndarray) -> float:
    grey = cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY).astype(np.float32)
    return float(np.abs(grey - cv2.GaussianBlur(grey, (0, 0), 1.5))[where].mean())


class TestResynthesised:
    def test_structure_goes_on_through_the_hole(self):
        picture, gap = beach(), hole()
        rail = gap & (np.arange(200)[:, None] >= 93) & (np.arange(200)[:, None] < 107)
        after = resynthesised(np.where(gap[..., None], np.uint8(255), picture), gap)
        assert np.abs(after.astype(int) - 60)[rail].mean() < 12
        assert np.abs(flown_in(picture, gap).astype(int) - 60)[rail].mean() > 14

    def test_texture_comes_again_and_is_not_smeared(self):
        picture, gap = beach(), hole()
        sand = gap & (np.arange(200)[:, None] > 118)
        after = resynthesised(picture, gap)
        assert detail(after, sand) > 0.7 * detail(picture, sand)
        assert detail(flown_in(picture, gap), sand) < 0.5 * detail(picture, sand)

    def test_what_is_not_the_hole_stays_and_what_is_there_does_not_matter(self):
        picture, gap = beach(), hole()
        after = resynthesised(picture, gap)
        assert (after[~gap] == picture[~gap]).all()
        other = picture.copy()
        other[gap] = (255, 0, 255)
        pink = np.abs(resynthesised(other, gap).astype(int) - (255, 0, 255)).max(-1) < 60
        assert not pink.any()

    def test_nothing_is_taken_from_where_it_must_not(self):
        picture, gap = beach(), hole()
        picture[:, 180:] = (250, 20, 20)
        usable = np.ones(gap.shape, bool)
        usable[:, 176:] = False
        after = resynthesised(picture, gap, usable)
        red = after[gap].astype(int)
        assert (red[:, 0] - red[:, 1]).max() < 120

    @pytest.mark.parametrize("size", [(9, 9), (12, 300), (300, 10), (40, 40)])
    def test_pictures_with_too_little_to_take_are_filled_all_the_same(self, size):
        picture = np.clip(texture(*size, (120, 130, 140), 5, 8), 0, 255).astype(np.uint8)
        gap = np.zeros(size, bool)
        gap[size[0] // 4 : 3 * size[0] // 4, size[1] // 4 : 3 * size[1] // 4] = True
        broken = np.where(gap[..., None], np.uint8(0), picture)
        after = resynthesised(broken, gap)
        assert np.abs(after.astype(int) - picture)[gap].mean() < 60
        assert (resynthesised(picture, np.zeros(size, bool)) == picture).all()

    def test_it_is_always_the_same(self):
        assert (resynthesised(beach(), hole()) == resynthesised(beach(), hole())).all()

    def test_a_mended_place_passes_softly_into_the_plate(self):
        picture, gap = beach(), hole()
        assert (filled(picture, gap)[:20] == picture[:20]).all()
        assert np.abs(filled(picture, gap).astype(int) - resynthesised(picture, gap))[gap].mean() < 25


class TestKnownSubject:
    def lingering(self, count: int = 16, sways: float = 3.0):
        """Frames in which somebody sways a little in one place, the alphas, and the place."""
        scene = np.clip(texture(160, 120, (150, 140, 120), 3, 12), 0, 255).astype(np.uint8)
        cloth = texture(160, 120, (60, 80, 160), 4, 10)
        alphas = [blob(160, 120, 60 + sways * np.sin(0.7 * n), 84, 30, 0.9) for n in range(count)]
        frames = [composed(a, cloth, scene.astype(np.float32), 2.0, n) for n, a in enumerate(alphas)]
        return frames, alphas, scene

    def test_is_followed_although_it_rests(self):
        frames, alphas, _ = self.lingering()
        stack = lay(frames, 8)
        plate, _ = plate_of(stack)
        shows = passers(stack, plate, noise_of(stack, plate), None, alphas[8] > 0.05)
        for n, number in enumerate(stack.numbers):
            assert shows[n][alphas[number] > 0.9].mean() > 0.9
            assert shows[n][:30].max() == 0

    def test_a_clean_plate_is_without_it_and_says_where_no_frame_shows_the_place(self):
        frames, alphas, scene = self.lingering()
        plate, guess = clean_plate(frames, 8, subject=alphas[8])
        never = np.min(alphas, 0) > 0.5
        assert guess[never].mean() > 0.98
        assert np.abs(plate.astype(int) - scene)[never].mean() < 25
        blue = plate[..., 2].astype(int) > plate[..., 0].astype(int) + 40
        assert blue[never].mean() < 0.02  # nothing of the subject is left
        without, unsaid = clean_plate(frames, 8)
        assert (without[..., 2].astype(int) > without[..., 0].astype(int) + 40)[never].mean() > 0.5
        assert unsaid[never].mean() < 0.5

    def behind(self, sways: float) -> tuple[list[float], list[float]]:
        """How far the plate is off where frames show the place, without and with mattes of them; its share of guess."""
        frames, alphas, scene = self.lingering(sways=sways)
        beside = (alphas[8] > 0.05) & (np.mean(np.array(alphas) < 0.02, 0) > 0.2)
        off, called = [], []
        for elsewhere in (lambda number: None, lambda number: alphas[number]):
            plate, guess = clean_plate(frames, 8, subject=alphas[8], elsewhere=elsewhere)
            off.append(np.abs(plate.astype(int) - scene)[beside].mean())
            called.append(guess[beside].mean())
        return off, called

    def test_where_it_is_in_other_frames_is_heard_and_the_place_beside_it_is_seen(self):
        off, called = self.behind(sways=3)
        assert off[1] < 0.85 * off[0]
        assert called[1] < 0.7 * called[0]

    def test_where_it_is_not_in_others_its_own_rim_tells_as_well_as_a_matte_in_each(self):
        off, called = self.behind(sways=9)
        assert max(off) < 3
        assert max(called) < 0.05
