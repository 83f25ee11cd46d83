"""Those who pass: followed through a shot, left out of its plate, and told from the scene by the way they go."""

import cv2
import numpy as np
import pytest

from nervykite.core.see.find import mover
from nervykite.core.see.find.standing_out import standing_out
from nervykite.core.see.scene import scene as scenes
from nervykite.core.see.scene.behind import Behind
from nervykite.core.see.scene.clean import clean_plate
from nervykite.core.see.scene.own_way import own_way
from nervykite.core.see.scene.passers import beside, found_roughly, passers, ways
from nervykite.core.see.scene.plate import noise_of, plate_of
from nervykite.core.see.scene.stack import Stack, lay

from .scenes import blob, composed, overlap, texture

H, W = 200, 260


def shot(step: float = 3.0, count: int = 20, rough: float = 14):
    """Somebody in the place's own greys who goes slowly: frames, alphas, the place."""
    place = texture(H, W, (124, 134, 128), 4, 22)
    cloth = texture(H, 3 * W, (128, 132, 128), 6, rough)
    frames, alphas = [], []
    for n in range(count):
        x = 130 + step * (n - count / 2)
        alpha = blob(H, W, x, 100, 60, 0.8)
        left = round(W - step * n)
        frames.append(composed(alpha, cloth[:, left : left + W], place, 2.0, n))
        alphas.append(alpha)
    return frames, alphas, np.clip(place, 0, 255).astype(np.uint8)


def first_plate(stack: Stack) -> tuple[np.ndarray, np.ndarray]:
    plate, _ = plate_of(stack)
    return plate, noise_of(stack, plate)


class TestPassers:
    def test_who_covers_a_place_for_most_of_a_shot_is_not_in_its_plate(self):
        frames, alphas, place = shot(rough=5, step=4)
        found = scenes.scene_of(frames, 10)
        at_first = scenes.weighed(found.stack, None)
        free = np.sum([alpha < 0.03 for alpha in alphas], 0)
        under = (alphas[10] > 0.9) & (free >= 3) & (free < 8)  # hardly ever seen

        def off(plate: np.ndarray) -> float:
            return float(np.abs(plate.astype(int) - place)[under].mean())

        assert off(at_first.plate) > 4
        assert off(found.behind.plate) < 2

    def test_nor_are_they_in_a_clean_plate(self):
        frames, alphas, place = shot(rough=5, step=4)
        plate, guess = clean_plate(frames, 10)
        free = np.sum([alpha < 0.03 for alpha in alphas], 0)
        under = (alphas[10] > 0.9) & (free >= 3) & (free < 8)
        assert np.abs(plate.astype(int) - place)[under].mean() < 2
        assert guess[under].mean() < 0.05

    def test_they_are_found_in_every_frame_and_hardly_anything_else(self):
        frames, alphas, _ = shot()
        stack = lay(frames, 10)
        found = passers(stack, *first_plate(stack)) > 0
        for n, number in enumerate(stack.numbers):
            subject = alphas[number] > 0.5
            assert found[n][subject].mean() > 0.9
            assert found[n][cv2.dilate(alphas[number], np.ones((61, 61))) < 0.1].mean() < 0.05

    def test_two_who_go_opposite_ways_are_followed_each(self):
        place = texture(H, W, (124, 134, 128), 4, 22)
        red, blue = texture(H, 3 * W, (200, 80, 60), 6, 14), texture(H, 3 * W, (60, 80, 200), 7, 14)
        frames, where = [], []
        for n in range(16):
            picture, both = place, np.zeros((H, W), np.float32)
            for cloth, x, y, way in ((red, 40 + 5 * n, 50, 1), (blue, 220 - 5 * n, 150, -1)):
                alpha = blob(H, W, x, y, 26, 0.8)
                left = W - way * 5 * n
                picture = composed(alpha, cloth[:, left : left + W], np.float32(picture), 1.0, n)
                both = np.maximum(both, alpha)
            frames.append(np.clip(picture, 0, 255).astype(np.uint8))
            where.append(both > 0.5)
        stack = lay(frames, 8)
        found = passers(stack, *first_plate(stack)) > 0
        for n, number in enumerate(stack.numbers):
            assert found[n][where[number]].mean() > 0.9, number

    def test_where_nothing_passes_nothing_is_unwanted(self):
        place = texture(H, W, (124, 134, 128), 4, 22)
        frames = [composed(np.zeros((H, W), np.float32), place, place, 2.0, n) for n in range(8)]
        stack = lay(frames, 4)
        assert not passers(stack, *first_plate(stack)).any()

    def test_what_stands_is_not_followed_and_tells_nothing_of_other_frames(self):
        place = texture(H, W, (124, 134, 128), 4, 22)
        box = np.zeros((H, W), np.float32)
        box[60:120, 100:160] = 1
        cloth = texture(H, W, (200, 80, 60), 6, 20)
        frames = [composed(box if n > 8 else 0 * box, cloth, place, 2.0, n) for n in range(16)]
        stack = lay(frames, 12)
        found = passers(stack, np.clip(place, 0, 255).astype(np.uint8), np.full((H, W), 2, np.float32))
        assert found[0, 65:115, 105:155].min() > 0
        assert not found[1:].any()

    def test_ways_say_where_they_went(self):
        frames, _, _ = shot(rough=20, step=6)
        stack = lay(frames, 10)
        part = found_roughly(frames[10], *first_plate(stack))
        onwards = beside(10, stack)
        assert [[stack.numbers[n] for n in onward[:3]] for onward in onwards] == [[11, 12, 13], [9, 8, 7]]
        went = {stack.numbers[n]: way for onward in onwards for n, way in ways(frames[10], part, stack, onward)}
        assert {7, 8, 9, 11, 12, 13} <= set(went)
        for number in (7, 8, 9, 11, 12, 13):
            (x, _, _) = went[number] @ [130, 100, 1]
            assert x - 130 == pytest.approx(6 * (number - 10), abs=1.5), number


class TestOwnWay:
    def says(self, **kind):
        frames, alphas, place = shot(**kind)
        stack = lay(frames, 10)
        plate, noise = place, np.full((H, W), 2, np.float32)
        return own_way(frames[10], 10, stack, found_roughly(frames[10], plate, noise)), alphas[10]

    def test_a_subject_goes_its_own_way_and_the_place_around_does_not(self):
        own, alpha = self.says(rough=20, step=6)
        wide = cv2.dilate(alpha, np.ones((41, 41))) > 0.5
        core, near = cv2.erode(alpha, np.ones((13, 13))) > 0.9, wide & (cv2.dilate(alpha, np.ones((17, 17))) < 0.05)
        assert np.abs(own).max() <= 1
        assert np.mean(own[core]) > 0.3
        assert np.median(own[near]) < -0.4
        assert (own[core] < -0.3).mean() < 0.02
        assert (own[near] > 0.3).mean() < 0.02

    def test_it_says_nothing_far_away_or_of_nobody(self):
        frames, _, _ = shot()
        stack = lay(frames, 10)
        assert not own_way(frames[10], 10, stack, np.zeros((H, W), np.uint8)).any()
        own, _ = self.says()
        assert not own[:, :5].any()

    def test_who_hardly_moves_cannot_be_told_by_it(self):
        own, _ = self.says(step=0.1)
        assert not own.any()

    def test_pick_mover_finds_somebody_grey_who_takes_their_time(self, monkeypatch):
        frames, alphas, _ = shot(rough=5, step=4)
        with_it = mover.pick_mover(frames, 10)[0].found
        monkeypatch.setattr(scenes, "passers", lambda stack, *_: np.zeros(stack.valid.shape, np.float32))
        without = mover.pick_mover(frames, 10)[0].found
        assert overlap(with_it, alphas[10]) > 0.95
        assert overlap(without, alphas[10]) < 0.7

    def standing(self, own: float, person: float, differs: bool = True) -> float:
        """How much of a square is found where that is said of it, in a place that is known or hardly known."""
        place = np.clip(texture(H, W, (124, 134, 128), 4, 10), 0, 255).astype(np.uint8)
        square = np.zeros((H, W), np.float32)
        square[60:140, 90:170] = 1
        frame = composed(square if differs else 0 * square, texture(H, W, (200, 80, 60), 6, 10), place, 1.0)
        support = np.where(square > 0, 9.0 if differs else 0.2, 9.0).astype(np.float32)
        behind = Behind(place, np.full((H, W), 2, np.float32), support)
        found = standing_out(frame, behind, lambda: person * square, lambda: own * square).found
        return float(found[65:135, 95:165].mean())

    def test_a_foot_that_is_put_down_is_not_lost(self):
        assert self.standing(own=-1, person=0) > 0.95

    def test_nobody_is_believed_in_who_goes_with_the_scene(self):
        assert self.standing(own=0, person=0.95, differs=False) > 0.9
        assert self.standing(own=-1, person=0.95, differs=False) < 0.1
