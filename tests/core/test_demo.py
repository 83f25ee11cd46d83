"""The demo world: deterministic, with truth that fits the picture; and what ships was made by it."""

import av
import cv2
import numpy as np
import pytest

from nervykite.core.matte.combine import matte_alpha
from nervykite.core.model import Matte
from nervykite.demo.project import FOOTAGE, drawn_around, truth_alpha
from nervykite.demo.world.gait import STANCES, THIGH, pose_at
from nervykite.demo.world.shots import DuneRun
from nervykite.demo.world.sound import RATE, soundtrack


@pytest.fixture(scope="module")
def small() -> DuneRun:
    return DuneRun(90, 160, place_samples=1, figure_samples=2)


def frame_of(name: str, number: int) -> np.ndarray:
    with av.open(str(FOOTAGE / name)) as file:
        for n, frame in enumerate(file.decode(video=0)):
            if n == number:
                return frame.to_ndarray(format="rgb24")
    raise IndexError(number)


def test_a_frame_is_always_the_same_picture(small):
    first, again = small.take(58), small.take(58)
    other = DuneRun(90, 160, place_samples=1, figure_samples=2).take(58)
    for a in (again, other):
        assert (first.picture == a.picture).all()
        assert (first.alpha == a.alpha).all()


def test_truth_says_where_the_subject_is(small):
    take = small.take(58)
    there = np.abs(take.picture.astype(int) - take.clean).max(-1)
    inside = cv2.erode(take.alpha, np.ones((3, 3))) == 1
    assert 0.03 < take.alpha.mean() < 0.3
    assert there[inside].mean() > 40
    assert there[:40][take.alpha[:40] == 0].max() <= 1  # the sky, where no shadow falls
    assert small.take(2).alpha.max() == 0


def test_shipped_footage_is_what_the_world_films(small):
    shipped = cv2.resize(frame_of("dune-run.mp4", 58), (90, 160), interpolation=cv2.INTER_AREA).astype(int)
    filmed = cv2.GaussianBlur(small.take(58).picture, (0, 0), 1).astype(int)
    shipped = cv2.GaussianBlur(shipped.astype(np.uint8), (0, 0), 1).astype(int)
    assert np.abs(shipped - filmed).mean() < 9
    alpha = cv2.resize(truth_alpha("dune-run", 58), (90, 160), interpolation=cv2.INTER_AREA)
    assert np.abs(alpha - small.take(58).alpha).mean() < 0.01


def test_standing_feet_stay_where_they_landed():
    from nervykite.demo.world.gait import SHIN, SPEED

    for side, first, last in STANCES:
        places = []
        for u in np.linspace(0.25, 0.45, 5):
            time = first + u * (last - first)
            pose = pose_at(time)
            hip, knee = np.radians(pose["hip" + side]), np.radians(pose["hip" + side] - pose["knee" + side])
            places.append(SPEED * time + THIGH * np.sin(hip) + SHIN * np.sin(knee))
        assert np.ptp(places) < 0.01


def test_drawn_path_follows_the_truth():
    alpha = truth_alpha("dune-run", 58)
    drawn = matte_alpha(Matte(pieces=drawn_around(alpha)), *alpha.shape)
    both, either = ((drawn > 0.5) & (alpha > 0.5)).sum(), ((drawn > 0.5) | (alpha > 0.5)).sum()
    assert both / either > 0.96


def test_sound_is_as_long_as_the_picture_and_steps_are_heard():
    track = soundtrack("dune-run")
    assert track.shape == (2, 4 * RATE)
    lands = round((0.27 / DuneRun.slow * 30 + DuneRun.top) / 30 * RATE)
    assert np.abs(track[:, lands : lands + 4000]).max() > 1.5 * np.abs(track[:, lands - 9000 : lands - 1000]).max()
    with av.open(str(FOOTAGE / "dune-run.mp4")) as file:
        assert file.streams.audio[0].rate == RATE
