"""Cues: heard on the frame that they are tied to, whatever is done to the ground; mixed to the sample."""

import numpy as np
import pytest

from nervykite.core.change.edits import (
    AddAsset,
    AddCue,
    AddStandstill,
    ChangeCue,
    ChangeLayer,
    PutMove,
    RemoveAsset,
    RemoveCues,
    RemoveGround,
    RemoveLayer,
    SoundMove,
    SplitGround,
)
from nervykite.core.common.errors import Refusal
from nervykite.core.craft.synthesis.sample_rate import RATE
from nervykite.core.draw.sound.mix import Mixer, mix
from nervykite.core.draw.sound.plan import plan_of
from nervykite.core.kinds.hits.passing import Whoosh
from nervykite.core.kinds.hits.small import Tick
from nervykite.core.piece.model import Asset, CueTie, PutOn
from nervykite.core.piece.model.base import new_id
from nervykite.core.piece.timeline.timeline import Timeline

from ..conftest import held
from .test_flying import MATTE

FILE = "ab" * 32
RAMP = np.vstack([np.linspace(-0.5, 0.5, RATE), np.linspace(0.5, -0.5, RATE)]).astype(np.float32)


def sound_of(file: str) -> np.ndarray:
    assert file == FILE
    return RAMP


def heard(document, first: int = 0, past: int | None = None) -> np.ndarray:
    return mix(plan_of(Timeline(document)), sound_of, first, past)


@pytest.fixture
def silent(reel):
    """Two seconds of footage that is silent, with a cutout held at frame 20."""
    return held(reel(frames=60).document(), 20, MATTE)


@pytest.fixture
def bed(silent):
    """The same with a sound of one second on its shelf."""
    document, layer = silent
    asset = Asset(kind="sound", name="Ramp", file=FILE, seconds=1.0)
    return AddAsset(asset=asset).apply(document), layer, {"kind": "shelved", "asset": asset.id, "stored": FILE}


def begins(document) -> float:
    """The project frame at which something is first heard."""
    loud = np.abs(heard(document)).max(0) > 0.02
    return float(np.argmax(loud) / RATE * 30) if loud.any() else -1


class TestTies:
    @pytest.mark.parametrize(("tie", "frame"), [("start", 20), ("landing", 20)])
    def test_it_is_heard_where_its_layer_is(self, silent, tie, frame):
        document, layer = silent
        document = AddCue(sound=Tick(), tie=CueTie(to=tie, layer=layer)).apply(document)
        assert begins(document) == pytest.approx(frame, abs=0.1)

    def test_a_standstill_before_it_takes_it_along(self, silent):
        document, layer = silent
        document = AddCue(sound=Tick(), tie=CueTie(layer=layer, offset=3)).apply(document)
        assert begins(document) == pytest.approx(23, abs=0.1)
        later = AddStandstill(at=5, frames=12).apply(document)
        assert begins(later) == pytest.approx(35, abs=0.1)

    def test_a_cut_and_the_pieces_start_are_ties_too(self, silent):
        document, _ = silent
        split = SplitGround(at=30).apply(document)
        second = split.project.ground[1].id
        on_cut = AddCue(sound=Tick(), tie=CueTie(item=second)).apply(split)
        assert begins(on_cut) == pytest.approx(30, abs=0.1)
        absolute = AddCue(sound=Tick(), tie=CueTie(offset=7)).apply(document)
        assert begins(absolute) == pytest.approx(7, abs=0.1)

    def test_its_main_moment_lies_on_the_frame(self, silent):
        document, layer = silent
        whoosh = Whoosh(lasts=0.6, peak=0.5)
        document = AddCue(sound=whoosh, tie=CueTie(layer=layer)).apply(document)
        power = np.convolve((heard(document) ** 2).sum(0), np.ones(2400), "same")
        assert np.argmax(power) / RATE * 30 == pytest.approx(20, abs=2.5)
        assert begins(document) == pytest.approx(20 - 0.3 * 30, abs=2)

    def test_it_stays_where_it_is_heard_when_what_it_was_tied_to_goes(self, silent):
        document, layer = silent
        document = AddCue(sound=Tick(), tie=CueTie(layer=layer, offset=2)).apply(document)
        (cue,) = RemoveLayer(layer=layer).apply(document).project.cues
        assert cue.tie.item == document.project.ground[0].id
        assert begins(RemoveLayer(layer=layer).apply(document)) == pytest.approx(22, abs=0.1)
        split = SplitGround(at=10).apply(document)
        gone = RemoveGround(items=[split.project.ground[1].id]).apply(split)
        assert gone.project.cues[0].tie.layer is None
        assert Timeline(gone).cue(gone.project.cues[0]) is not None

    def test_what_waits_for_its_footage_is_not_heard(self, silent):
        document, layer = silent
        with pytest.raises(ValueError, match="not to both"):
            CueTie(layer=layer, item=layer)
        with pytest.raises(ValueError, match="only a layer"):
            CueTie(to="landing")
        with pytest.raises(Refusal, match="no longer there"):
            AddCue(sound=Tick(), tie=CueTie(layer="f" * 16)).apply(document)


class TestMixing:
    def test_parts_make_the_whole_to_the_bit(self, bed):
        document, layer, sound = bed
        document = AddCue(sound=sound, tie=CueTie(offset=4)).apply(document)
        document = AddCue(sound=Tick(), tie=CueTie(layer=layer)).apply(document)
        mixer = Mixer(plan_of(Timeline(document)), sound_of)
        whole = mixer.samples(0, 2 * RATE)
        edges = [0, 1, 4801, 30_000, 30_001, 77_777, 2 * RATE]
        parts = [mixer.samples(a, b) for a, b in zip(edges, edges[1:], strict=False)]
        assert np.array_equal(np.concatenate(parts, 1), whole)

    def test_a_file_is_heard_as_it_is_but_for_its_ends(self, bed):
        document, _, sound = bed
        document = AddCue(sound=sound, tie=CueTie(offset=15)).apply(document)
        part = heard(document)[:, RATE // 2 : RATE // 2 + RATE]
        assert np.abs(part[:, 200:-200] - RAMP[:, 200:-200]).max() < 1e-6
        assert abs(part[0, 0]) < 0.01

    def test_gain_pan_skip_length_fades_reverse_and_loop(self, bed):
        document, _, sound = bed
        add = AddCue(sound=sound, tie=CueTie())
        document = add.apply(document)

        def with_(**changes) -> np.ndarray:
            return heard(ChangeCue(cue=add.cue, changes=changes).apply(document))

        plain = heard(document)
        mid = slice(20_000, 28_000)
        assert with_(gain=-6.0206)[:, mid] == pytest.approx(plain[:, mid] / 2, abs=1e-4)
        left = with_(pan=-1)
        assert np.abs(left[1]).max() < 1e-6
        assert left[0, mid] == pytest.approx(np.sqrt(2) * plain[0, mid], abs=1e-4)
        assert with_(skip=0.25)[0, 1000] == pytest.approx(RAMP[0, 13_000], abs=1e-5)
        assert np.abs(with_(lasts=0.5)[:, 24_001:]).max() == 0
        faded = with_(fade_in=15)
        assert abs(faded[0, 12_000]) == pytest.approx(abs(plain[0, 12_000]) / 2, rel=0.01)
        assert with_(reversed=True)[0, 10_000] == pytest.approx(RAMP[0, RATE - 1 - 10_000], abs=1e-5)
        looped = with_(loops=True)
        assert looped[0, RATE + 20_000] == pytest.approx(RAMP[0, 20_000], abs=1e-5)
        assert np.abs(with_(muted=True)).max() == 0
        # No step anywhere that the sound itself does not have.
        for one in (left, faded, looped):
            assert np.abs(np.diff(one, axis=1)).max() < 0.02

    def test_the_key_follows_what_is_heard(self, bed):
        document, _, sound = bed
        add = AddCue(sound=sound, tie=CueTie())
        one = add.apply(document)
        two = ChangeCue(cue=add.cue, changes={"gain": -3.0}).apply(one)
        keys = {plan_of(Timeline(d)).key for d in (document, one, two)}
        assert len(keys) == 3
        muted = ChangeCue(cue=add.cue, changes={"muted": True}).apply(one)
        assert plan_of(Timeline(muted)).key == plan_of(Timeline(document)).key


class TestEdits:
    def test_wrong_changes_get_a_sentence(self, bed):
        document, _, sound = bed
        add = AddCue(sound=sound)
        document = add.apply(document)
        for changes in ({"gain": 900}, {"nonsense": 1}, {"id": "x"}, {"sound": {"kind": "nothing"}}):
            with pytest.raises(Refusal):
                ChangeCue(cue=add.cue, changes=changes).apply(document)
        with pytest.raises(Refusal, match="no longer there"):
            RemoveCues(cues=["f" * 16]).apply(document)

    def test_a_sound_in_use_stays_on_the_shelf(self, bed):
        document, _, sound = bed
        add = AddCue(sound=sound)
        used = add.apply(document)
        with pytest.raises(Refusal, match="in use"):
            RemoveAsset(asset=sound["asset"]).apply(used)
        free = RemoveCues(cues=[add.cue]).apply(used)
        assert RemoveAsset(asset=sound["asset"]).apply(free).assets == {}
        with pytest.raises(Refusal, match="not on this project's shelf"):
            AddCue(sound={**sound, "asset": new_id()}).apply(document)

    def test_a_move_is_sounded_in_one_press(self, silent):
        document, layer = silent
        document = PutMove(layers=[layer], side="in", move=PutOn(kind="drop", settings={"lasts": 12})).apply(document)
        edit = SoundMove(layer=layer)
        sounded = edit.apply(document)
        kinds = [c.sound.kind for c in sounded.project.cues]
        assert kinds == ["shutter", "whoosh", "thud"]
        thud = sounded.project.cues[2]
        assert Timeline(sounded).cue(thud) == 20 + 7  # where it touches down, before it gives way
        # Slid, it takes its sounds along.
        longer = ChangeLayer(layer=layer, until=50).apply(sounded)
        assert Timeline(longer).cue(thud) == 27
        assert [c.id for c in edit.apply(document).project.cues] == [c.id for c in sounded.project.cues]
