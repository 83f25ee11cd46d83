"""Hits: the same again, without clicks, each with the shape that makes it what it is."""

import numpy as np
import pytest

from nervykite.core.craft.synthesis.sample_rate import RATE
from nervykite.core.craft.synthesis.synth import moving_band, pink, seconds, struck, white
from nervykite.core.kinds.hits.hit import Hit
from nervykite.core.kinds.hits.impacts import SubDrop, Thud
from nervykite.core.kinds.hits.odd import Gasp
from nervykite.core.kinds.hits.passing import ReverseSwell, Riser, TapeStop, Whoosh
from nervykite.core.kinds.hits.small import PopHit, Shutter, Tick
from nervykite.core.piece.model import Sounding

KINDS = [k for k in Sounding.family.all().values() if issubclass(k, Hit)]


def loud(sound: np.ndarray, first: float, past: float) -> float:
    """How loud a part of a sound is, root mean square."""
    part = sound[:, int(first * RATE) : int(past * RATE)]
    return float(np.sqrt((part.astype(float) ** 2).mean()))


def centre(sound: np.ndarray, first: float, past: float) -> float:
    """The middle of a part's spectrum, Hz."""
    part = sound.mean(0)[int(first * RATE) : int(past * RATE)]
    power = np.abs(np.fft.rfft(part * np.hanning(len(part)))) ** 2
    return float((np.fft.rfftfreq(len(part), 1 / RATE) * power).sum() / power.sum())


def test_projects_that_are_kept_find_their_hits():
    assert set(Sounding.family.all()) >= {
        "gasp", "paper", "pop", "reverse-swell", "riser", "shimmer", "shutter", "slam", "snap", "spring", "sub-drop",
        "tape-stop", "thud", "tick", "whoosh",
    }  # fmt: skip


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.title)
class TestAll:
    def test_the_same_again_for_a_seed_and_another_for_another(self, kind):
        one, two, other = kind().made(), kind().made(), kind(seed=2).made()
        assert one.dtype == np.float32
        assert np.array_equal(one, two)
        assert one.shape != other.shape or np.abs(one - other).max() > 1e-3

    def test_it_neither_clicks_nor_clips(self, kind):
        sound = kind().made()
        assert np.isfinite(sound).all()
        assert np.abs(sound).max() == pytest.approx(0.89, abs=1e-3)
        assert np.abs(sound[:, [0, -1]]).max() < 1e-4
        # No step at its end that is larger than those within it.
        steps = np.abs(np.diff(sound, axis=1))
        assert steps[:, -48:].max() <= 1.01 * steps.max()
        assert abs(float(sound.mean())) < 0.02

    def test_it_is_no_bare_sine(self, kind):
        sound = kind().made().mean(0)
        power = np.abs(np.fft.rfft(sound * np.hanning(len(sound)))) ** 2
        # More than a handful of lines carry it.
        assert (np.sort(power)[::-1].cumsum() < 0.9 * power.sum()).sum() > 8

    def test_its_main_moment_lies_within_it_and_pitch_moves_it(self, kind):
        hit = kind()
        assert 0 <= hit.strikes <= hit.made().shape[1] / RATE + 1e-9
        high, low = (centre(kind(pitch=p).made(), 0, 9) for p in (12, -12))
        assert high > 1.1 * low


class TestShapes:
    def test_a_whoosh_passes_from_side_to_side_nearest_where_it_says(self):
        whoosh = Whoosh(lasts=1.0, peak=0.6, towards="right")
        sound = whoosh.made()
        side = [sound[:, int(a * RATE) : int(b * RATE)].std(1) for a, b in ((0.25, 0.4), (0.8, 0.95))]
        assert side[0][0] > 1.5 * side[0][1]
        assert side[1][1] > 1.5 * side[1][0]
        power = np.convolve((sound.astype(float) ** 2).sum(0), np.ones(2400), "same")
        assert np.argmax(power) / RATE == pytest.approx(whoosh.strikes, abs=0.12)
        assert Whoosh(lasts=2.0).made().shape[1] / RATE == pytest.approx(2.0, abs=0.01)

    def test_what_builds_is_loudest_at_its_end_and_climbs(self):
        riser = Riser(lasts=2.0).made()
        assert loud(riser, 1.8, 2.0) > 4 * loud(riser, 0.2, 0.6)
        assert centre(riser, 1.6, 2.0) > 2 * centre(riser, 0.1, 0.6)
        swell = ReverseSwell(lasts=1.0).made()
        assert loud(swell, 0.85, 1.0) > 5 * loud(swell, 0.0, 0.4)

    def test_what_is_struck_is_loudest_at_its_beginning(self):
        for hit in (Thud(), Tick(), PopHit(), Shutter()):
            sound = hit.made()
            assert loud(sound, 0, 0.12) > 4 * loud(sound, 0.3, 9), hit.title

    def test_deep_ones_are_deep_and_small_ones_are_not(self):
        assert centre(SubDrop().made(), 0, 2) < 130
        assert centre(Thud().made(), 0, 1) < 400
        assert centre(Tick().made(), 0, 1) > 900

    def test_a_tape_runs_down(self):
        sound = TapeStop(lasts=1.2).made()
        assert centre(sound, 0.0, 0.25) > 1.5 * centre(sound, 0.85, 1.1)

    def test_a_crowd_is_wider_than_one(self):
        many, few = (Gasp(people=n).made() for n in (40, 2))
        corr = [float(np.corrcoef(s)[0, 1]) for s in (many, few)]
        assert abs(corr[0]) < 0.9
        assert loud(many, 0.2, 0.5) > 0.05

    def test_a_shutter_is_open_as_long_as_it_says(self):
        for apart in (60, 200):
            sound = Shutter(apart=apart).made()
            power = np.convolve((sound.astype(float) ** 2).sum(0), np.ones(240), "same")
            first = np.argmax(power[: int(0.03 * RATE)])
            second = int(0.04 * RATE) + np.argmax(power[int(0.04 * RATE) :])
            assert (second - first) / RATE == pytest.approx(apart / 1000, abs=0.02)


class TestParts:
    def test_pink_noise_has_as_much_in_each_octave(self):
        power = np.abs(np.fft.rfft(pink(RATE * 4, np.random.default_rng(1)))) ** 2
        f = np.fft.rfftfreq(RATE * 4, 1 / RATE)
        octaves = [power[(f >= lo) & (f < 2 * lo)].sum() for lo in (200, 400, 800, 1600, 3200)]
        assert max(octaves) < 1.3 * min(octaves)

    def test_a_band_moves(self):
        noise = white(RATE, np.random.default_rng(2))
        sound = moving_band(noise, np.linspace(300, 6000, RATE), 0.5)
        both = np.vstack([sound, sound])
        assert centre(both, 0, 0.2) < 1500
        assert centre(both, 0.8, 1.0) > 3500

    def test_what_is_struck_is_a_thousandth_after_its_decay(self):
        t = seconds(1.0)
        envelope = struck(t, 0.01, 0.5)
        assert envelope[int(0.51 * RATE)] == pytest.approx(0.001, rel=0.05)
        assert envelope[0] == 0
