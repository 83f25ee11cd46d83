"""Beats in the piece: where they fall, how they are put right, and moments that are brought onto them."""

import numpy as np
import pytest

from nervykite.core.change.edits import (
    AddAsset,
    AddCue,
    AddMoment,
    AddStandstill,
    ChangeCue,
    CorrectBeats,
    HoldFrame,
    HoldsOnBeats,
    SetKey,
)
from nervykite.core.common.errors import Refusal
from nervykite.core.piece.model import Asset, Counted, CueTie, Key
from nervykite.core.piece.model.base import new_id
from nervykite.core.piece.timeline.beats import accents_of_cue, beats_of, beats_of_cue, second_of
from nervykite.core.piece.timeline.timeline import Timeline

from .test_ground import even, of, seen

BED = "b" * 64
CUE = "c" * 16
TIMES = [round(0.1 + 0.5 * n, 3) for n in range(40)]


def piece(counted: Counted | None = None, **changes):
    """Ten seconds of footage at 30 frames a second under music of 120 beats a minute."""
    asset = Asset(
        id="d" * 16, kind="sound", name="Music", file=BED, seconds=20.0, beats=counted or Counted(beats=TIMES)
    )
    document = AddAsset(asset=asset).apply(of(even(300, 30)))
    sound = {"kind": "shelved", "asset": asset.id, "stored": BED}
    document = AddCue(sound=sound, tie=CueTie(), cue=CUE).apply(document)
    return ChangeCue(cue=CUE, changes=changes).apply(document) if changes else document


def frames(document) -> list[float]:
    return [b.frame for b in beats_of(Timeline(document))]


def counted_in(document) -> Counted:
    (cue,) = document.project.cues
    assert cue.counted is not None
    return cue.counted


def test_what_is_put_right_is_remembered_with_the_sound():
    document = piece()
    half = CorrectBeats(cue=CUE, times="half").apply(document)
    (asset,) = half.assets.values()
    assert asset.beats == counted_in(half)
    assert len(asset.beats.beats) == 20
    again = AddCue(sound=half.project.cues[0].sound, tie=CueTie(offset=30)).apply(half)
    assert [len(beats_of_cue(c, Timeline(again))) for c in again.project.cues] == [10, 9]


class TestWhere:
    def test_they_lie_in_the_piece_as_the_music_does(self):
        found = beats_of(Timeline(piece()))
        assert [b.frame for b in found[:3]] == pytest.approx([3, 18, 33])
        assert [b.bar for b in found[:5]] == [True, False, False, False, True]
        assert len(found) == 20

    @pytest.mark.parametrize(
        ("changes", "first", "gap"),
        [
            ({"skip": 0.35}, 7.5, 15),
            ({"speed": 50}, 6, 30),
            ({"tie": {"offset": 40}}, 43, 15),
            ({"lasts": 2.0}, 3, 15),
        ],
    )
    def test_skip_speed_and_place_move_them(self, changes, first, gap):
        found = frames(piece(**changes))
        assert found[0] == pytest.approx(first)
        assert np.diff(found) == pytest.approx(gap)
        assert max(found) < (60 if "lasts" in changes else 300)

    def test_music_that_goes_round_has_them_again(self):
        found = frames(piece(Counted(beats=[0.1, 0.6]), loops=True, lasts=10.0))
        document = piece(Counted(beats=[0.1, 0.6]), loops=True)
        assert len(found) == 2
        assert second_of(document.project.cues[0], Timeline(document), 33) == pytest.approx(1.1)

    def test_accents_are_told_as_far_as_they_are_heard(self):
        document = piece(Counted(beats=TIMES, accents=[0.1, 1.1, 4.0, 15.0]), skip=0.5, lasts=3.0)
        assert accents_of_cue(document.project.cues[0], Timeline(document)) == pytest.approx([18])

    def test_backwards_and_muted_there_are_none(self):
        assert frames(piece(reversed=True)) == []
        assert frames(piece(muted=True)) == []
        assert beats_of_cue(piece(muted=True).project.cues[0], Timeline(piece())) != []


class TestCorrecting:
    def test_taps_lay_them_evenly_with_the_first_on_a_bar(self):
        rng = np.random.default_rng(3)
        document = piece(Counted(beats=[1.0, 2.0, 3.0]))
        taps = (2.0 + 0.4 * np.arange(16) + rng.normal(0, 0.015, 16)) * 30
        counted = counted_in(CorrectBeats(cue=CUE, taps=taps.tolist()).apply(document))
        assert np.diff(counted.beats) == pytest.approx(0.4, abs=0.003)
        assert counted.bpm == pytest.approx(150, abs=1)
        bars = np.array(counted.beats)[counted.first :: 4]
        assert np.abs(bars - 2.0).min() < 0.02
        assert counted.beats[-1] > 19.4

    def test_one_is_dragged_and_all_go_along_or_none(self):
        document = piece()
        all_ = counted_in(CorrectBeats(cue=CUE, moved={"number": 4, "to": 2.2}).apply(document))
        assert all_.beats == pytest.approx([t + 0.1 for t in TIMES])
        one = counted_in(CorrectBeats(cue=CUE, moved={"number": 4, "to": 2.2, "alone": True}).apply(document))
        assert one.beats[4] == 2.2
        assert one.beats[:4] == TIMES[:4]
        # Earlier than the sound begins there is none; bars stay where they were.
        early = counted_in(CorrectBeats(cue=CUE, moved={"number": 4, "to": 1.9}).apply(document))
        assert early.beats[0] == pytest.approx(0.4)
        assert early.beats[early.first] == pytest.approx(1.9)
        with pytest.raises(Refusal, match="between the two beside it"):
            CorrectBeats(cue=CUE, moved={"number": 4, "to": 3.2, "alone": True}).apply(document)

    def test_twice_and_half_undo_each_other_and_bars_can_be_chosen(self):
        document = CorrectBeats(cue=CUE, first=6).apply(piece())
        assert counted_in(document).first == 2
        twice = CorrectBeats(cue=CUE, times="twice").apply(document)
        assert counted_in(twice).bpm == pytest.approx(240)
        back = counted_in(CorrectBeats(cue=CUE, times="half").apply(twice))
        assert back.beats == TIMES
        assert counted_in(CorrectBeats(cue=CUE, bar=3).apply(document)).bar == 3

    def test_where_there_are_none_a_sentence_says_so(self):
        document = piece()
        asset = document.assets["d" * 16].model_copy(update={"beats": None})
        bare = document.model_copy(update={"assets": {asset.id: asset}})
        with pytest.raises(Refusal, match="no beats yet"):
            CorrectBeats(cue=CUE, times="twice").apply(bare)
        with pytest.raises(Refusal, match="has beats"):
            HoldsOnBeats().apply(bare)
        with pytest.raises(Refusal, match="faster or slower"):
            CorrectBeats(cue=CUE, taps=[1, 2, 3]).apply(bare)
        assert frames(CorrectBeats(cue=CUE, taps=[10, 25, 40]).apply(bare))[:2] == pytest.approx([10, 25], abs=0.01)


def with_holds(*at: int):
    document, layers = piece(), []
    item = document.project.ground[0].id
    for frame in at:
        layers.append(new_id())
        document = HoldFrame(item=item, frame=frame, layer=layers[-1]).apply(document)
    return document, layers


def landings(document, layers) -> list[int]:
    spans = Timeline(document).spans
    return [spans[x].landing for x in layers]


class TestHolds:
    @pytest.mark.parametrize("every", [1, 2])
    def test_by_speed_every_landing_comes_to_a_beat(self, every):
        document, layers = with_holds(20, 41, 55, 90)
        moved = HoldsOnBeats(layers=layers, every=every).apply(document)
        assert landings(moved, layers) == [18 + 15 * every * n for n in range(4)]
        # All footage between the first and the last moment is still there, but for a frame or two.
        shown = seen(moved)
        assert [shown[f] for f in landings(moved, layers)] == [20, 41, 55, 90]
        assert sum(g.source.speed != 100 for g in moved.project.ground) >= 3

    def test_two_cutouts_of_one_frame_are_one_moment(self):
        document, layers = with_holds(20, 20, 41)
        moved = HoldsOnBeats(layers=layers).apply(document)
        assert landings(moved, layers) == [18, 18, 33]

    def test_by_trimming_nothing_is_played_faster(self):
        document, layers = with_holds(20, 60, 95)
        moved = HoldsOnBeats(layers=layers, every=2, by="trimming").apply(document)
        assert landings(moved, layers) == [18, 48, 78]
        assert {g.source.speed for g in moved.project.ground} == {100}
        with pytest.raises(Refusal, match="cannot be trimmed"):
            HoldsOnBeats(layers=layers, every=4, by="trimming").apply(document)

    def test_flagged_moments_come_as_well_and_keys_stay_with_theirs(self):
        document, layers = with_holds(40)
        shot = next(iter(document.shots))
        document = AddMoment(shot=shot, frame=70).apply(document)
        moment = document.shots[shot].moments[-1]
        key = Key(channel="opacity", tie="landing", offset=2, value=[0.5])
        document = SetKey(layer=layers[0], key=key).apply(document)
        moved = HoldsOnBeats(layers=layers, moments=[moment.id]).apply(document)
        assert landings(moved, layers) == [33]
        assert seen(moved)[48] == 70
        timeline = Timeline(moved)
        layer = moved.layer(layers[0])
        assert timeline.ties_of(layer).frame(layer.keys[0]) == 35

    def test_it_can_be_said_why_not(self):
        document, layers = with_holds(20, 40)
        with pytest.raises(Refusal, match="None of those moments"):
            HoldsOnBeats().apply(document)
        with pytest.raises(Refusal, match="no beat left"):
            HoldsOnBeats(layers=layers, every=40).apply(document)
        gone = document.project.ground[0]
        stood = AddStandstill(at=20, frames=10).apply(document)
        assert landings(HoldsOnBeats(layers=layers).apply(stood), layers) == [18, 33]
        assert gone.id in [g.id for g in stood.project.ground]
