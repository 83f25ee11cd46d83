"""Beats: found in pieces whose beats are known, whatever lies over them; none where there are none."""

import json

import numpy as np
import pytest

from nervykite.cli import main
from nervykite.core.craft.synthesis.sample_rate import RATE
from nervykite.core.draw.sound.beat_tracking import beats_of
from nervykite.demo import FOOTAGE
from tools.bench.tunes import agreement, clicks, piece, played


@pytest.mark.parametrize("bpm", [60, 85, 110, 140, 180])
def test_straight_ones_are_found_within_milliseconds(bpm):
    sound, known = piece(bpm)
    found = beats_of(sound)
    score, error = agreement(np.array(found.beats), known)
    assert score >= 0.95
    assert error < 5
    assert found.bpm == pytest.approx(bpm, rel=0.01)


def test_swing_voice_and_noise_are_no_matter():
    for settings in ({"bpm": 120, "swing": 1.0}, {"bpm": 100, "voice": 0.5, "noise": 0.03}):
        sound, known = piece(**settings)
        assert agreement(np.array(beats_of(sound).beats), known)[0] >= 0.95, settings


@pytest.mark.parametrize("bpm", [60, 72, 100, 140])
def test_notes_between_beats_are_no_beats(bpm):
    sound, known = played(bpm)
    found = beats_of(sound)
    assert agreement(np.array(found.beats), known)[0] >= 0.95
    assert found.bpm == pytest.approx(bpm, rel=0.01)
    assert agreement(np.array(found.bars), known[::4])[0] >= 0.9


@pytest.mark.parametrize("sound", [piece(60), piece(70, voice=0.5, noise=0.03), clicks(120), clicks(100, first=0.3)])
def test_bars_begin_where_a_note_begins_or_a_click_is_louder(sound):
    heard, known = sound
    assert agreement(np.array(beats_of(heard).bars), known[::4])[0] >= 0.9


def test_bars_are_every_fourth_beat_and_accents_lie_on_what_begins():
    found = beats_of(piece(110)[0])
    beats, bars = np.array(found.beats), np.array(found.bars)
    assert len(bars) == pytest.approx(len(beats) / 4, abs=1)
    assert set(bars) <= set(beats)
    assert np.diff(bars) == pytest.approx(4 * 60 / 110, abs=0.03)
    nearest = np.abs(np.array(found.accents)[:, None] - beats[None]).min(1)
    assert np.quantile(nearest, 0.4) < 0.03


def test_whole_numbers_and_a_later_beginning_make_no_difference():
    sound, known = piece(96, first=0.4)
    whole = (sound * 32767).astype(np.int16)
    one, two = (np.array(beats_of(s).beats) for s in (sound, whole))
    assert one == pytest.approx(two, abs=0.002)
    assert agreement(two, known)[0] >= 0.95


def test_in_silence_and_in_a_moment_there_are_none():
    for sound in (np.zeros((2, 5 * RATE), np.float32), piece(120, 1.0)[0]):
        assert beats_of(sound).beats == ()


def test_the_command_writes_them(tmp_path, capsys):
    out = tmp_path / "beats.json"
    assert main(["beats", str(FOOTAGE / "relay-tune.ogg"), "--json", str(out)]) == 0
    assert "beats a minute" in capsys.readouterr().out
    found = json.loads(out.read_text())
    assert found["bpm"] == pytest.approx(100, abs=0.5)
    assert set(found) == {"bpm", "beats", "bars", "accents"}
    assert agreement(np.array(found["beats"]), np.arange(0, 20, 0.6))[0] >= 0.95


def test_what_has_none_gets_a_sentence(tmp_path, capsys):
    broken = tmp_path / "broken.wav"
    broken.write_bytes(b"RIFF nothing")
    for path in (tmp_path / "gone.wav", broken):
        assert main(["beats", str(path)]) != 0
        assert capsys.readouterr().err.strip().endswith(".")
