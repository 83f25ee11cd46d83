"""What a plate takes from the few frames in which the subject is not there."""

import cv2
import numpy as np
import pytest

from nervykite.core.see.scene.clean import clean_plate
from nervykite.core.see.scene.plate import noise_of, plate_of
from nervykite.core.see.scene.stack import Stack
from nervykite.core.see.scene.uncovered import uncovered

from .scenes import blob, composed, texture

SIZE = 200, 150


def stays(away: set[int], count: int = 20, lean: float = 1.0) -> tuple[list[np.ndarray], np.ndarray, np.ndarray]:
    """Somebody who stands, leaning to and fro a little, but is not there in some frames; their alpha, the place."""
    h, w = SIZE
    scene = texture(h, w, (120, 140, 110), 4, 24)
    cv2.line(scene, (0, 90), (w, 100), (60, 60, 70), 4)
    cloth, alpha = texture(h, w, (190, 90, 70), 6), blob(h, w, 75, 95, 42)
    frames = []
    for n in range(count):
        move = np.float32([[1, 0, lean * np.sin(n)], [0, 1, 0]])
        there, cloth_there = (cv2.warpAffine(v, move, (w, h)) for v in (alpha, cloth))
        frames.append(composed(there * (n not in away), cloth_there, scene, seed=n))
    return frames, alpha, scene


def everywhere(frame: np.ndarray, quick: bool) -> np.ndarray:
    """A finder of people who sees somebody wherever the subject ever was, there or not."""
    h, w = SIZE
    return cv2.dilate(blob(h, w, 75, 95, 42), np.ones((9, 9)))


@pytest.mark.parametrize("away", [{0}, {18, 19}, {0, 1}, {10, 11, 12}], ids=str)
def test_what_a_frame_or_two_show_is_in_the_plate_and_is_no_guess(away):
    frames, alpha, scene = stays(away)
    plate, guess = clean_plate(frames, 5, everywhere, alpha)
    inside = alpha > 0.5
    assert np.abs(plate.astype(np.float32) - scene)[inside].mean() < 8
    assert guess[inside].mean() < 0.05


@pytest.mark.parametrize("lean", [0.0, 1.0, 4.0])
def test_what_no_frame_shows_is_a_guess(lean):
    frames, alpha, _ = stays(set(), lean=lean)
    _, guess = clean_plate(frames, 5, everywhere, alpha)
    deep = cv2.erode(alpha, np.ones((13, 13))) > 0.5
    assert guess[deep].mean() > 0.9


def test_frames_tell_by_the_subjects_rim_that_it_is_not_there():
    frames, alpha, _ = stays({3, 4})
    shape = (len(frames), *SIZE)
    stack = Stack(np.stack(frames), np.ones(shape, bool), np.zeros(shape, bool), True)
    free = uncovered(stack, alpha > 0.05, noise_of(stack, plate_of(stack)[0]))
    share = free[:, alpha > 0.5].mean(1)
    assert share[[3, 4]].min() > 0.9
    assert np.delete(share, [3, 4]).max() < 0.1
    assert not free[:, cv2.dilate(alpha, np.ones((25, 25))) == 0].any()


def test_what_stands_beside_the_subject_is_the_place_whoever_is_found_there():
    frames, alpha, scene = stays({18, 19})
    plate, guess = clean_plate(frames, 5, lambda frame, quick: np.ones(SIZE, np.float32) * 0.9, alpha)
    around = (cv2.dilate(alpha, np.ones((19, 19))) > 0.5) & (alpha < 0.02)
    assert np.abs(plate.astype(np.float32) - scene)[around].mean() < 5
    assert guess[around].mean() < 0.05
