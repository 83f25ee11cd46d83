"""Snags: each has a piece that has it and one that has not, and what mends it takes it away."""

from fractions import Fraction

import numpy as np
import pytest

from nervykite.core.change.edits import (
    AddCue,
    AddGround,
    AddLayer,
    AddShot,
    AddStandstill,
    AddTrack,
    ChangeCue,
    ChangeGround,
    ChangeLayer,
    ChangeLoudness,
    ChangeMatte,
    ChangeMix,
    HoldFrame,
    PinLayers,
    SetCanvas,
    SetKey,
    SetValue,
    SplitGround,
    SteadyGround,
)
from nervykite.core.change.snags.snag import Check, Inspection, snags_of
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.sound.faults import fault_of
from nervykite.core.piece.model import (
    Arrangement,
    CueTie,
    Framing,
    Key,
    Matte,
    Sounding,
    Source,
    Steady,
    Stop,
    Track,
    Travel,
)
from nervykite.core.piece.model.base import new_id

from ..conftest import box
from .test_ground import even, of

LAYER = "a" * 16


def piece(rate: int = 30):
    """A shot of 100×100 and 40 frames on a canvas of 160×160, without any snag: one carved cutout at rest."""
    document = of(even(40, Fraction(rate)), Fraction(30))
    project = document.project.model_copy(update={"width": 160, "height": 160})
    document = document.model_copy(update={"project": project})
    document = HoldFrame(item=project.ground[0].id, frame=10, layer=LAYER, name="Runner").apply(document)
    matte = Matte(pieces=[box(30, 30, 70, 70)], fringe=0.6)
    return ChangeMatte(hold=document.layer(LAYER).source.hold, matte=matte).apply(document)


def found(document, kind: str | None = None, alpha=lambda hold: None):
    snags = snags_of(Inspection(Evaluation(document), alpha))
    return [s for s in snags if kind is None or s.check == kind]


def mended(document, kind: str):
    """The document once all of its snags of a kind were mended; there have to be some."""
    snags = found(document, kind)
    assert snags
    for snag in snags:
        assert snag.fix is not None
        assert snag.fixes
        document = snag.fix.apply(document)
    return document


def tracked(document, doubtful: range):
    (shot,) = document.shots
    track = Track(
        shot=shot, ref=10, matrices=[np.eye(3).ravel().tolist()] * 40,
        confidence=[0.1 if n in doubtful else 1.0 for n in range(40)],
    )  # fmt: skip
    return AddTrack(track=track).apply(document), track


def test_a_piece_as_it_should_be_has_none():
    assert found(piece()) == []


def test_every_sort_is_told_in_a_sentence():
    for check in Check.family.all().values():
        assert check.title
        assert check.hint


def test_a_key_past_its_layers_end():
    document = ChangeLayer(layer=LAYER, until=20).apply(piece())
    key = Key(channel="opacity", tie="landing", offset=25, value=[0.5])
    document = SetKey(layer=LAYER, key=key).apply(document)
    (snag,) = found(document, "key beyond")
    assert snag.says == "A key lies outside of when Runner is seen."
    after = mended(document, "key beyond")
    assert found(after) == []
    assert after.layer(LAYER).keys == []
    inside = SetKey(layer=LAYER, key=key.model_copy(update={"offset": 5})).apply(piece())
    assert found(inside, "key beyond") == []


def test_a_layer_over_footage_that_was_trimmed_away():
    base = piece()
    document = ChangeGround(item=base.project.ground[0].id, first=20).apply(base)
    (snag,) = found(document, "waiting")
    assert "trimmed away" in snag.says
    assert found(mended(document, "waiting"), "waiting") == []


def test_a_copy_that_never_shows():
    clear = SetValue(layer=LAYER, channel="opacity", frame=12, value=[0]).apply(piece())
    assert found(mended(clear, "never seen")) == []
    away = SetValue(layer=LAYER, channel="position", frame=12, value=[900, 0]).apply(piece())
    (snag,) = found(away, "never seen")
    assert "beside the picture" in snag.says
    base = piece()
    uncarved = ChangeMatte(hold=base.layer(LAYER).source.hold, matte=Matte()).apply(base)
    (snag,) = found(uncarved, "never seen")
    assert (snag.step, snag.fix) == ("carve", None)
    hidden = ChangeLayer(layer=LAYER, visible=False).apply(uncarved)
    assert found(hidden) == []


@pytest.mark.parametrize("keyed", [False, True])
def test_a_cutout_off_its_landing(keyed):
    document = SetValue(layer=LAYER, channel="position", frame=10, value=[0.2, -0.1], key=keyed).apply(piece())
    if keyed:
        document = SetValue(layer=LAYER, channel="position", frame=30, value=[80, 0], key=True).apply(document)
        document = SetValue(layer=LAYER, channel="position", frame=10, value=[0.2, 0.1], key=True).apply(document)
    snags = found(document, "off landing")
    assert [s.frame for s in snags] == [10]
    after = mended(document, "off landing")
    assert found(after) == []
    assert np.array_equal(Evaluation(after).matrix(after.layer(LAYER), 10), np.eye(3))
    # What was moved on purpose is left alone.
    far = SetValue(layer=LAYER, channel="position", frame=10, value=[40, 0]).apply(piece())
    assert found(far, "off landing") == []


def test_a_layer_pinned_to_a_doubtful_track():
    document, track = tracked(piece(), range(20, 23))
    document = PinLayers(layers=[LAYER], track=track.id).apply(document)
    (snag,) = found(document, "doubtful track")
    assert (snag.frame, snag.layer) == (20, LAYER)
    assert "3 of its frames" in snag.says
    elsewhere, track = tracked(piece(), range(5))
    assert found(PinLayers(layers=[LAYER], track=track.id).apply(elsewhere), "doubtful track") == []
    steady, track = tracked(piece(), range(4, 5))
    steady = SteadyGround(item=steady.project.ground[0].id, steady=Steady(track=track.id)).apply(steady)
    assert "one of its frames" in found(steady, "doubtful track")[0].says


def test_a_doubtful_carried_matte():
    document = piece()
    hold = document.holds[document.layer(LAYER).source.hold]
    moving = document.layer(LAYER).model_copy(update={"source": Source.family["moving"](hold=hold.id)})

    def with_doubt(doubt: float):
        stops = [Stop(frame=n, pieces=hold.matte.pieces, doubt=doubt if n == 14 else 0) for n in (12, 14)]
        travel = Travel(first=8, past=20, stops=stops)
        holds = {hold.id: hold.model_copy(update={"travel": travel})}
        project = document.project.model_copy(update={"layers": [moving]})
        return document.model_copy(update={"holds": holds, "project": project})

    (snag,) = found(with_doubt(0.9), "doubtful matte")
    assert snag.step == "carve"
    assert "first at 14" in snag.says
    assert found(with_doubt(0.1), "doubtful matte") == []


def test_footage_that_is_drawn_larger_than_it_was_filmed():
    document = piece()
    wide = SetCanvas(width=400, height=200, rate=document.project.rate).apply(document)
    (snag,) = found(wide, "enlarged")
    assert "at 400 %" in snag.says
    assert mended(wide, "enlarged").project.ground[0].framing.mode == "fit"
    assert found(document, "enlarged") == []


@pytest.mark.parametrize(("first", "count"), [(20, 0), (21, 1), (25, 1), (39, 0)])
def test_footage_that_jumps_over_a_few_frames(first, count):
    document = SplitGround(at=20).apply(piece())
    after = document.project.ground[1]
    document = ChangeGround(item=after.id, first=first).apply(document)
    snags = found(document, "skips")
    assert len(snags) == count
    if count:
        assert snags[0].frame == 20
        assert ("frame 20." if first == 21 else "frames 20 to 24.") in snags[0].says


def test_footage_that_jumps_after_a_standstill():
    document = AddStandstill(at=15, frames=10, hold=False, rest=new_id()).apply(piece())
    assert found(document, "resumes") == []
    after = document.project.ground[-1]
    first = after.source.range[0]
    jumps = ChangeGround(item=after.id, first=first + 6).apply(document)
    (snag,) = found(jumps, "resumes")
    assert "6 frames on" in snag.says
    assert found(mended(jumps, "resumes"), "resumes") == []


def test_the_edge_of_what_was_filmed():
    document = piece()
    item = document.project.ground[0].id
    small = ChangeGround(item=item, framing=Framing(mode="hand", scale=0.9)).apply(document)
    assert found(mended(small, "edge shown"), "edge shown") == []
    aside = ChangeGround(item=item, framing=Framing(mode="hand", scale=1.2, across=0.2)).apply(document)
    assert found(mended(aside, "edge shown"), "edge shown") == []
    whole = ChangeGround(item=item, framing=Framing(mode="fit")).apply(document)
    assert found(whole, "edge shown") == []
    shaken, track = tracked(document, range(0))
    maps = [np.array([[1, 0, 4.0 * (n % 2)], [0, 1, 0], [0, 0, 1]]).ravel().tolist() for n in range(40)]
    shaken = AddTrack(track=track.model_copy(update={"matrices": maps})).apply(shaken)
    steady = Steady(track=track.id, how="still", fills=False)
    shaken = SteadyGround(item=item, steady=steady).apply(shaken)
    assert found(mended(shaken, "edge shown"), "edge shown") == []


def test_words_under_the_apps_buttons():
    def worded(y: float):
        document = of(even(40, Fraction(30)))
        document = SetCanvas(width=216, height=384, rate=Fraction(30)).apply(document)
        source = Source.family["lettering"](words="Salt Lane", high=24)
        document = AddLayer(source=source, at=0, frames=30, layer=LAYER).apply(document)
        return SetValue(layer=LAYER, channel="position", frame=5, value=[0, y]).apply(document)

    assert found(worded(0), "covered words") == []
    assert [s.layer for s in found(worded(150), "covered words")] == [LAYER]
    assert [s.layer for s in found(worded(-184), "covered words")] == [LAYER]


def test_frames_repeated_by_a_faster_piece():
    slow = piece(rate=24)
    (snag,) = found(slow, "repeated")
    assert "24 frames a second, the piece 30" in snag.says
    assert found(mended(slow, "repeated"), "repeated") == []
    assert found(piece(rate=60), "repeated") == []
    both = AddShot(shot=even(30, Fraction(30))).apply(slow)
    assert found(both, "repeated")[0].fix is None


def test_a_soft_matte_that_the_frame_cuts_off():
    alpha = np.zeros((100, 100), np.float32)
    alpha[60:, 30:70] = 1
    assert found(piece(), "cut off", lambda hold: alpha) == []
    alpha[:, 30:50] *= 0.5
    (snag,) = found(piece(), "cut off", lambda hold: alpha)
    assert "bottom edge" in snag.says


def test_an_old_background_in_an_edge():
    base = piece()
    hold = base.layer(LAYER).source.hold
    bare = ChangeMatte(hold=hold, matte=base.holds[hold].matte.model_copy(update={"fringe": 0.0})).apply(base)
    assert found(mended(bare, "fringe")) == []


def test_they_come_in_the_order_in_which_they_are_seen():
    document = piece(24)
    document = AddGround(shot=next(iter(document.shots))).apply(document)
    frames = [s.frame for s in found(document)]
    assert frames == sorted(frames)
    assert len(frames) == 2


def test_sounds_that_nobody_hears():
    document = AddCue(sound=Sounding.family["thud"](), tie=CueTie(offset=5), name="Thump").apply(piece())
    assert found(document, "unheard") == []
    (cue,) = document.project.cues
    late = ChangeCue(cue=cue.id, changes={"tie": {"offset": 400}}).apply(document)
    (snag,) = found(late, "unheard")
    assert snag.says == "Thump is not heard: the piece is over by then."
    assert mended(late, "unheard").project.cues == []
    mute = ChangeMix(changes={"hits": {"muted": True}}).apply(document)
    (snag,) = found(mute, "unheard")
    assert "all that sounds is muted" in snag.says
    after = mended(mute, "unheard")
    assert found(after) == []
    assert not after.project.mix.hits.muted


def two_takes(arrangement: str):
    """Two takes of one shot; the first frame of the second one, or the last of the first, as a cutout of its own."""
    document = piece()
    document = AddGround(shot=next(iter(document.shots))).apply(document)
    one, two = (g.id for g in document.project.ground)
    item, frame = (two, 0) if arrangement == "arrival" else (one, 39)
    document = HoldFrame(item=item, frame=frame, layer="b" * 16, name="Swapped").apply(document)
    matte = Matte(pieces=[box(30, 30, 70, 70)], fringe=0.6)
    document = ChangeMatte(hold=document.layer("b" * 16).source.hold, matte=matte).apply(document)
    return ChangeLayer(layer="b" * 16, arrangement=Arrangement.family[arrangement]()).apply(document)


@pytest.mark.parametrize(("arrangement", "lands"), [("ahead", 39), ("arrival", 40), ("departure", 40)])
def test_two_bodies_or_none_on_a_swap(arrangement, lands):
    document, layer = two_takes(arrangement), "b" * 16
    assert found(document, "swap") == []
    faded = SetKey(layer=layer, key=Key(channel="opacity", tie="landing", offset=0, value=[0])).apply(document)
    (snag,) = found(faded, "swap")
    assert "nobody is there" in snag.says
    assert snag.frame == min(lands, Evaluation(document).timeline.spans[layer].end - 1)
    assert found(mended(faded, "swap"), "swap") == []
    beside = SetValue(layer=layer, channel="position", frame=lands, value=[30, 0]).apply(document)
    (snag,) = found(beside, "swap")
    assert "30 pixels" in snag.says
    after = mended(beside, "swap")
    assert found(after, "swap") == []
    assert np.array_equal(Evaluation(after).matrix(after.layer(layer), lands), np.eye(3))
    # A hair beside it is told as what it is, and nothing else.
    hair = SetValue(layer=layer, channel="position", frame=lands, value=[0.2, 0]).apply(document)
    assert {s.check for s in found(hair)} == {"off landing"}
    assert found(mended(hair, "off landing")) == []


def test_a_copy_that_stays_may_lie_anywhere():
    moved = SetValue(layer=LAYER, channel="position", frame=10, value=[60, 0]).apply(piece())
    assert found(moved, "swap") == []


@pytest.mark.parametrize(
    ("detail", "says"),
    [
        ({10: 0.2, 11: 0.4}, "frame 11, 1 on, is crisper"),
        ({10: 0.2, 8: 0.3}, "frame 8, 2 back, is crisper"),
        ({10: 0.2, 11: 0.25}, None),
        ({10: 0.2, 20: 0.9}, None),
        ({10: 0.0, 11: 0.4}, None),
    ],
)
def test_a_frame_held_in_a_blur(detail, says):
    crisp = [detail.get(n, 0.1) for n in range(40)]
    snags = [s for s in snags_of(Inspection(Evaluation(piece()), detail=lambda shot: crisp)) if s.check == "blurred"]
    assert [says in s.says for s in snags] == ([True] if says else [])


def test_sound_that_was_recorded_too_loud_or_not_at_all():
    document = piece()
    (shot,) = document.shots.values()
    shot = shot.model_copy(update={"has_sound": True, "sound_file": "sound"})
    document = document.model_copy(update={"shots": {shot.id: shot}})
    for fault, says in (("clipped", "too loud"), ("silent", "silent from end to end"), (None, None)):
        snags = snags_of(Inspection(Evaluation(document), fault={"sound": fault}.get))
        assert [says in s.says for s in snags if s.check == "clipped"] == ([True] if says else [])
    muted = ChangeLoudness(items=[document.project.ground[0].id], changes={"muted": True}).apply(document)
    assert [
        s for s in snags_of(Inspection(Evaluation(muted), fault=lambda file: "clipped")) if s.check == "clipped"
    ] == []


def test_what_is_wrong_with_samples():
    t = np.arange(96_000) / 48_000
    wave = np.sin(2 * np.pi * 440 * t)
    assert fault_of(np.stack([wave, wave]) * 32_767) is None
    assert fault_of(np.clip(np.stack([0.1 * wave, 1.3 * wave]), -1, 1) * 32_767) == "clipped"
    click = np.zeros((2, 96_000))
    click[:, 1000:1010] = 32_767
    assert fault_of(click) is None
    assert fault_of(np.random.default_rng(1).integers(-3, 4, (2, 96_000), np.int16)) == "silent"
    assert fault_of(np.zeros((2, 0), np.int16)) == "silent"
