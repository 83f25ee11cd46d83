"""The demo world: deterministic, with truth that fits the picture; and what ships was made by it."""

import functools
import io
import json

import av
import cv2
import numpy as np
import pytest

from nervykite.core.piece.model import Matte
from nervykite.core.see.footage.ingest import ingest
from nervykite.core.see.matte.combine import matte_alpha
from nervykite.core.see.matte.outline import outlines
from nervykite.demo import FOOTAGE
from nervykite.demo.demo_project import truth_alpha
from tools.world.badges import BADGES, as_picture, as_svg
from tools.world.film import as_bytes
from tools.world.music import bed
from tools.world.shots import SHOTS
from tools.world.shots.dunes import DuneRun
from tools.world.sound import RATE, band, events, soundtrack

pytestmark = pytest.mark.world

FILMED = {name: shot for name, shot in SHOTS.items() if not shot.phone}


@functools.cache
def small(name: str):
    """A shot, filmed small and roughly."""
    return SHOTS[name](90, 160, quality=0.25)


def middle(name: str) -> int:
    """A frame of the shot in which its figures are seen."""
    return next(iter(SHOTS[name].holds), 0)


def frame_of(name: str, number: int) -> np.ndarray:
    with av.open(str(FOOTAGE / name)) as file:
        for n, frame in enumerate(file.decode(video=0)):
            if n == number:
                return frame.to_ndarray(format="rgb24")
    raise IndexError(number)


@pytest.mark.parametrize("name", ["dune-run", "groyne-pan", "splash-down"])
def test_a_frame_is_always_the_same_picture(name):
    first = small(name).take(middle(name))
    again = SHOTS[name](90, 160, quality=0.25).take(middle(name))
    assert (first.picture == again.picture).all()
    assert (first.alpha == again.alpha).all()


@pytest.mark.parametrize("name", SHOTS)
def test_truth_says_where_the_subject_is(name):
    take = small(name).take(middle(name), clean=True)
    alpha = take.alpha.sum(-1)
    assert alpha.min() >= 0
    assert alpha.max() <= 1 + 1e-6
    if not SHOTS[name].cast:
        assert alpha.max() == 0
        assert (take.picture == take.clean).all()
        return
    there = np.abs(take.picture - take.clean).max(-1)
    inside = cv2.erode(alpha, np.ones((3, 3))) == 1
    assert 0.02 < alpha.mean() < 0.6
    assert there[inside].mean() > 0.12
    far = cv2.dilate(alpha, np.ones((9, 9)))[:30] == 0
    if name != "splash-down":  # whose drops fly beyond the figure
        assert np.median(there[:30][far]) < 0.01
    for k in range(SHOTS[name].cast):
        assert take.alpha[..., k].max() > 0.9


def test_dune_run_ends_with_a_second_of_nobody():
    assert all(
        small("dune-run").take(frame).alpha.max() == 0 for frame in range(DuneRun.frames - 30, DuneRun.frames, 6)
    )
    assert small("dune-run").take(2).alpha.max() == 0


@pytest.mark.parametrize("name", SHOTS)
def test_shipped_footage_is_what_the_world_films(name):
    number = middle(name)
    shipped = frame_of(f"{name}.mp4", number)
    if SHOTS[name].phone:
        shipped = np.rot90(shipped, -1)
    shot = SHOTS[name](180, 320, quality=0.25).take(number)
    close = [
        cv2.GaussianBlur(cv2.resize(p, (90, 160), interpolation=cv2.INTER_AREA), (0, 0), 1).astype(int)
        for p in (shipped, as_bytes(shot.picture))
    ]
    if not SHOTS[name].phone:  # whose light is written down for another screen
        assert np.abs(close[0] - close[1]).mean() < 8
    if SHOTS[name].cast:
        alpha = cv2.resize(truth_alpha(name, number), (180, 320), interpolation=cv2.INTER_AREA)
        assert np.abs(alpha - shot.alpha.sum(-1)).mean() < 0.012


def test_shipped_files_are_small_and_sound_is_as_long_as_the_picture():
    for path in FOOTAGE.rglob("*.*"):
        assert path.stat().st_size < 4 * 2**20, path
    for name, shot in SHOTS.items():
        with av.open(str(FOOTAGE / f"{name}.mp4")) as file:
            assert file.streams.video[0].frames == shot.frames
            seconds = float(file.streams.audio[0].duration * file.streams.audio[0].time_base)
            assert seconds == pytest.approx(shot.frames / shot.rate, abs=0.05)


def test_the_phones_clip_is_as_a_phone_writes_it():
    with io.BytesIO() as proxy:
        probe = ingest(FOOTAGE / "phone-upright.mp4", "Phone upright.mp4", proxy)
    assert (probe.width, probe.height, probe.rotation) == (720, 1280, 270)
    assert probe.variable
    assert probe.depth == 10
    assert "HLG" in probe.colour


def test_camera_truth_fits_the_picture():
    facts = json.loads((FOOTAGE / "truth" / "groyne-pan.json").read_text())
    assert len(facts["cameras"]) == len(facts["ground"]) == SHOTS["groyne-pan"].frames
    hold = facts["holds"][1]
    alpha = truth_alpha("groyne-pan", hold["frame"])
    for joint in ("pelvis", "neck", "kneeN", "elbowN"):
        x, y = hold["joints"][0][joint]
        assert alpha[round(y), round(x)] > 0.9


def test_two_figures_have_an_alpha_each():
    number = middle("change-over")
    both = truth_alpha("change-over", number)
    parts = [truth_alpha("change-over", number, k) for k in (1, 2)]
    assert np.abs(both - parts[0] - parts[1]).mean() < 0.01
    assert all(p.mean() > 0.02 for p in parts)
    touching = [cv2.dilate((p > 0.5).astype(np.uint8), np.ones((5, 5), np.uint8)) for p in parts]
    assert (touching[0] & touching[1]).sum() > 800  # one stands in front of the other


def test_drawn_path_follows_the_truth():
    alpha = truth_alpha("dune-run", 58)
    drawn = matte_alpha(Matte(pieces=outlines(alpha)), *alpha.shape)
    both, either = ((drawn > 0.5) & (alpha > 0.5)).sum(), ((drawn > 0.5) | (alpha > 0.5)).sum()
    assert both / either > 0.96


def test_steps_are_heard_when_feet_land():
    track = soundtrack("dune-run")
    when, _, hard = max(events("dune-run"), key=lambda e: e[2])
    assert hard == 1.0
    lands = round(when * RATE)
    assert lands == pytest.approx((0.27 / DuneRun.slow * 30 + DuneRun.top) / 30 * RATE, abs=2)
    assert np.abs(track[:, lands : lands + 4000]).max() > 1.5 * np.abs(track[:, lands - 9000 : lands - 1000]).max()


def test_music_has_a_beat_of_100_and_loops():
    track = bed()
    assert track.shape == (2, 20 * RATE)
    assert np.abs(track).max() <= 1
    low = np.abs(band(track.mean(0), 30, 110))
    loud = low.reshape(-1, RATE // 100).max(1)  # hundredths of a second
    at_beats = [loud[k * 60 : k * 60 + 8].max() for k in range(33)]
    between = [loud[k * 60 + 40 : k * 60 + 56].max() for k in range(33)]
    assert np.median(at_beats) > 1.5 * np.median(between)
    assert np.abs(track[:, -1] - track[:, 0]).max() < 0.2


def test_badges_are_transparent_around_and_the_same_as_svg_and_png():
    for name, draw in BADGES.items():
        picture = cv2.imread(str(FOOTAGE / "badges" / f"{name}.png"), cv2.IMREAD_UNCHANGED)
        assert picture.shape == (512, 512, 4)
        assert picture[0, 0, 3] == picture[-1, 0, 3] == 0
        assert picture[256, 256, 3] == 255
        assert 100 < ((picture[..., 3] > 0) & (picture[..., 3] < 255)).sum() < 9000
        assert (cv2.cvtColor(as_picture(draw()), cv2.COLOR_RGBA2BGRA) == picture).all()
        assert (FOOTAGE / "badges" / f"{name}.svg").read_text() == as_svg(draw())
