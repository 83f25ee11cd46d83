"""Where a carried outline settles."""

import cv2
import numpy as np
import pytest

from nervykite.core.see.carry import contour_search
from nervykite.core.see.carry.contour_search import Told, settled, sides_of
from nervykite.core.see.carry.sight import Sight
from nervykite.core.see.matte.colours import SPACES, lab

from .scenes import composed, overlap, picture, texture
from .test_judge import made_up

pytestmark = pytest.mark.learn


def told(rgb: np.ndarray, came: np.ndarray, **known: np.ndarray) -> Told:
    """What came along, in a frame of which nothing else is known but what is given."""
    nothing = np.zeros(came.shape, np.float32)
    return Told(
        rgb,
        came.astype(np.float32),
        known.get("unsure", nothing),
        known.get("scene", np.zeros_like(rgb)),
        known.get("seen", nothing),
        nothing + 3,
        known.get("layers", nothing),
        known.get("person"),
    )


def shifted(alpha: np.ndarray, by: int) -> np.ndarray:
    return np.roll(alpha, by, 1)


class TestSettled:
    def test_an_outline_that_came_a_little_off_settles_on_the_edge(self):
        rgb, alpha = picture()
        sides = sides_of(lab(rgb, SPACES[0]), alpha)
        came = shifted(alpha, 4)
        unsure = np.full(alpha.shape, 0.5, np.float32)
        found, doubt = settled(told(rgb, came, unsure=unsure), sides)
        assert overlap(found, alpha) > overlap(came, alpha) + 0.05
        assert 0.3 < doubt <= 1

    def test_one_that_came_along_well_stays_and_is_not_doubted(self):
        rgb, alpha = picture()
        found, doubt = settled(told(rgb, alpha), sides_of(lab(rgb, SPACES[0]), alpha))
        assert overlap(found, alpha) > 0.97
        assert doubt < 0.3

    def test_what_shows_the_known_place_again_is_let_go(self):
        h, w = 240, 180
        place, cloth = texture(h, w, (120, 150, 90), 1), texture(h, w, (130, 145, 95), 3)  # in about the same colours
        _, alpha = picture(h, w)
        rgb, scene = composed(alpha, cloth, place), np.clip(place, 0, 255).astype(np.uint8)
        wide = cv2.dilate(alpha, np.ones((9, 9), np.uint8))
        sides = sides_of(lab(rgb, SPACES[0]), alpha)
        blind, _ = settled(told(rgb, wide), sides)
        seeing, _ = settled(told(rgb, wide, scene=scene, seen=np.ones((h, w), np.float32)), sides)
        assert overlap(seeing, alpha) > overlap(blind, alpha) + 0.05

    def test_what_moves_with_the_scene_is_let_go_and_what_moves_with_the_subject_kept(self):
        rgb, alpha = picture()
        sides = sides_of(lab(rgb, SPACES[0]), alpha)
        areas = [settled(told(rgb, alpha, layers=np.full(alpha.shape, v, np.float32)), sides)[0].sum() for v in (-1, 1)]
        assert areas[0] < alpha.sum() < areas[1]

    @pytest.mark.parametrize("all_over", [0.0, 1.0])
    def test_where_there_is_no_outline_nothing_settles(self, all_over):
        rgb, alpha = picture()
        came = np.full(alpha.shape, all_over, np.float32)
        found, doubt = settled(told(rgb, came), sides_of(lab(rgb, SPACES[0]), alpha))
        assert (found == came).all()
        assert doubt == 1


class TestJudged:
    def test_the_judge_sees_that_a_piece_of_the_place_came_along(self):
        ruled, judged = [], []
        for rgb, alpha, _ in made_up(10):
            sight = Sight(rgb, alpha).says(rgb)
            if sight is None:
                continue
            disc = np.zeros(alpha.shape, np.uint8)
            rows, columns = np.nonzero(alpha > 0.5)
            cv2.circle(disc, (int(columns.max()), int(rows.mean())), 22, 1, -1)
            came = ((alpha > 0.5) | (disc > 0)).astype(np.float32)
            sides = sides_of(lab(rgb, SPACES[0]), alpha)
            for answers, heard in ((ruled, None), (judged, sight)):
                answers.append(overlap(settled(told(rgb, came), sides, heard)[0], alpha))
        assert len(judged) > 4
        assert np.mean(judged) > np.mean(ruled) + 0.01

    def test_a_shadow_beside_the_subject_is_left_to_the_place(self):
        taken = []
        for rgb, alpha, place in made_up(8):
            shadow = cv2.GaussianBlur(np.roll(alpha, 24, 1), (0, 0), 1.5) * (1 - alpha)
            shown = np.clip(rgb * (1 - 0.35 * shadow[..., None] * (1 - alpha[..., None])), 0, 255).astype(np.uint8)
            sighting = Sight(rgb, alpha).says(shown)
            known = {"scene": np.clip(place, 0, 255).astype(np.uint8), "seen": np.ones_like(alpha)}
            found, _ = settled(told(shown, alpha, **known), sides_of(lab(rgb, SPACES[0]), alpha), sighting)
            in_shade = (shadow > 0.7) & (alpha < 0.05)
            if in_shade.sum() > 50:
                taken.append((found > 0.5)[in_shade].mean())
        assert len(taken) > 4
        assert np.mean(taken) < 0.1

    def test_if_nobody_can_judge_an_outline_settles_by_the_rules(self, monkeypatch):
        rgb, alpha = picture()
        sight = Sight(rgb, alpha).says(rgb)
        monkeypatch.setattr(contour_search, "judged", lambda voices: None)
        sides = sides_of(lab(rgb, SPACES[0]), alpha)
        alone, asked = (settled(told(rgb, shifted(alpha, 4)), sides, heard)[0] for heard in (None, sight))
        assert overlap(alone, asked) > 0.99

    def test_a_subject_of_a_few_pixels_is_left_to_the_rules(self, monkeypatch):
        def asked(voices):
            raise AssertionError

        monkeypatch.setattr(contour_search, "judged", asked)
        rgb, alpha = picture()
        came = np.zeros(alpha.shape, np.float32)
        came[118:121, 88:91] = 1
        settled(told(rgb, came), sides_of(lab(rgb, SPACES[0]), alpha), Sight(rgb, alpha).says(rgb))
