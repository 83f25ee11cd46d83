"""Sound at other speeds: as fast as the picture, as high as it was, or higher with that."""

from fractions import Fraction
from itertools import pairwise

import numpy as np
import pytest

from nervykite.core.change.edits import AddStandstill, ChangeGround
from nervykite.core.craft.synthesis.sample_rate import RATE
from nervykite.core.draw.sound.mix import mix
from nervykite.core.draw.sound.plan import SoundClip, SoundPlan, plan_of
from nervykite.core.draw.sound.speed import played
from nervykite.core.draw.sound.taken import JOIN, STRETCH
from nervykite.core.piece.timeline.timeline import Timeline

from .test_ground import even, of


def tone(seconds: float, pitch: float = 440.0) -> np.ndarray:
    t = np.arange(int(seconds * RATE)) / RATE
    return np.stack([np.sin(2 * np.pi * pitch * t)] * 2).astype(np.float32) * 0.4


def height(sound: np.ndarray) -> float:
    """The pitch of a tone, in Hz."""
    spectrum = np.abs(np.fft.rfft(sound[0] * np.hanning(sound.shape[1])))
    return float(np.argmax(spectrum)) * RATE / sound.shape[1]


@pytest.mark.parametrize("percent", [10, 33, 50, 75, 150, 200, 370, 800])
class TestPlayed:
    def test_kept_in_pitch(self, percent):
        sound = played(tone(10), RATE, RATE, Fraction(percent, 100), pitch=False)
        assert sound.shape == (2, RATE)
        assert height(sound) == pytest.approx(440, abs=3)
        parts = np.array_split(sound[0], 20)
        assert min(np.sqrt((p**2).mean()) for p in parts) > 0.24  # it goes on without gaps

    def test_with_pitch(self, percent):
        sound = played(tone(10), RATE, RATE, Fraction(percent, 100), pitch=True)
        assert height(sound) == pytest.approx(440 * percent / 100, rel=0.02)

    def test_what_comes_late_stays_late(self, percent):
        """A click two seconds in is heard when the picture shows it, to one and a half frames of the footage."""
        sound = np.zeros((2, 12 * RATE), np.float32)
        sound[:, 2 * RATE : 2 * RATE + 400] = 0.5
        speed = Fraction(percent, 100)
        out = played(sound, RATE, int(2 * RATE / speed), speed, pitch=False)
        at = int(np.argmax(np.abs(out[0]) > 0.1))
        assert at / RATE == pytest.approx(float(1 / speed), abs=0.05 * max(1, float(1 / speed)))


def test_whole_numbers_and_the_end_of_the_sound():
    sound = (tone(1) * 32767).astype(np.int16)
    out = played(sound, 0, 3 * RATE, Fraction(1, 2), pitch=True)
    assert np.abs(out[:, RATE : RATE + 9000]).max() == pytest.approx(0.4, abs=0.02)
    assert np.abs(out[:, 2 * RATE + 100 :]).max() < 1e-3
    assert np.array_equal(played(sound, 5 * RATE, 100, Fraction(2), False), np.zeros((2, 100), np.float32))


def test_a_long_clip_is_the_same_in_parts_and_has_no_seams():
    sound = tone(30, 220)
    clip = SoundClip("shot", "file", 0, 2 * STRETCH + 5 * RATE, 100, Fraction(1, 2))
    plan = SoundPlan((clip,), clip.past)
    whole = mix(plan, lambda file: sound)
    edges = [0, 7, STRETCH - 50, STRETCH + JOIN // 2, STRETCH + JOIN + 9, 2 * STRETCH + 3, clip.past]
    parts = [mix(plan, lambda file: sound, a, b) for a, b in pairwise(edges)]
    assert np.allclose(np.concatenate(parts, 1), whole, atol=1e-6)
    steps = np.abs(np.diff(whole[0, 1000:-1000]))
    around = np.abs(np.diff(whole[0, STRETCH - 100 : STRETCH + JOIN + 100]))
    assert around.max() < 1.3 * np.percentile(steps, 99.9)


def test_the_plan_knows_speed_silence_and_what_runs_on():
    shot = even(90, Fraction(30)).model_copy(update={"has_sound": True, "sound_file": "sound"})
    document = of(shot)
    item = document.project.ground[0]
    assert [c.speed for c in plan_of(Timeline(document)).clips] == [1]
    fast = ChangeGround(item=item.id, source=item.source.model_copy(update={"speed": 200, "heard": "pitched"}))
    (clip,) = plan_of(Timeline(fast.apply(document))).clips
    assert (clip.speed, clip.pitch, clip.past) == (2, True, 45 * 1600)
    off = ChangeGround(item=item.id, source=item.source.model_copy(update={"heard": "off"}))
    assert plan_of(Timeline(off.apply(document))).clips == ()
    silent = AddStandstill(at=30, frames=15).apply(document)
    assert [(c.first, c.past, c.source) for c in plan_of(Timeline(silent)).clips] == [
        (0, 31 * 1600, 0), (46 * 1600, 105 * 1600, 31 * 1600),
    ]  # fmt: skip
    runs = AddStandstill(at=30, frames=15, heard="runs on").apply(document)
    assert [(c.first, c.source) for c in plan_of(Timeline(runs)).clips][1] == (31 * 1600, 30 * 1600)
