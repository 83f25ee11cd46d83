"""Recipes: each makes a valid piece of whatever it is given, or says why not; another one takes its place."""

from fractions import Fraction

import numpy as np
import pytest

from nervykite.core.change.edits import (
    AddGround,
    AddMoment,
    ChangeMatte,
    ChangeMoment,
    HoldFrame,
    PutRecipe,
    RemoveMade,
    SetValue,
)
from nervykite.core.change.edits.putting_recipes import without_made
from nervykite.core.common.errors import Refusal
from nervykite.core.kinds.sources.rest import box_of
from nervykite.core.piece.model import Caught, Document, Matte, Recipe
from nervykite.core.piece.timeline.timeline import Timeline
from nervykite.core.see.catch.apexes import FrameProposal
from nervykite.core.see.catch.take import Take

from ..conftest import box
from .test_ground import even, of

KINDS = {name: kind for name, kind in Recipe.family.all().items() if kind.listed}


def ground(frames: int, takes: int = 2) -> Document:
    """Takes of one shot of so many frames, one after the other."""
    document = of(even(frames, Fraction(30)), Fraction(30))
    for _ in range(takes - 1):
        document = AddGround(shot=next(iter(document.shots))).apply(document)
    return document


def take(frames: int, seen: bool = True) -> Take:
    """Somebody who goes across all the time, with a peak every thirty frames; or nobody."""
    if not seen:
        return Take(range(frames), 30.0, (), np.zeros(frames, bool), np.zeros(frames))
    peaks = [FrameProposal(f, "top of the jump", 0.9, 0.5, 0.9 - f / 1e4) for f in range(frames // 2, frames, 30)]
    return Take(range(frames), 30.0, peaks, np.ones(frames, bool), np.linspace(0, 2, frames))


def put(document: Document, kind: str, frames: int, seen: bool = True, instead: str | None = None) -> Document:
    """What a recipe makes of it, every frame that is caught cut out."""
    recipe = KINDS[kind]()
    plain = document if instead is None else without_made(document, instead)
    items = [g.id for g in plain.project.ground]
    caught = [Caught(item=items[n], frame=f) for n, f in recipe.catch([take(frames, seen)] * recipe.takes)]
    for one in caught:
        if not any(h.frame == one.frame for h in document.holds.values()):
            edit = HoldFrame(item=_showing(document, one), frame=one.frame)
            document = edit.apply(document)
            held = document.layer(edit.layer).source.hold
            document = ChangeMatte(hold=held, matte=Matte(pieces=[box(30, 20, 60, 90)])).apply(document)
    return PutRecipe(recipe=recipe, caught=caught, instead=instead).apply(document)


def _showing(document: Document, one: Caught) -> str:
    """The piece of the ground that shows what was caught, until what an earlier recipe parted is one again."""
    timeline = Timeline(document)
    items = [g.id for g in document.project.ground if not g.source.stands and one.frame in timeline.tables[g.id]]
    return one.item if one.item in items else items[0]


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize(("frames", "seen"), [(90, True), (90, False), (300, True), (9, True), (2, True)])
def test_any_recipe_on_any_footage_ends_in_a_piece_that_can_be_laid_out(kind, frames, seen):
    if (kind, frames) == ("spin-under", 2):
        with pytest.raises(Refusal, match="it has to end later, within the ground"):
            put(ground(frames), kind, frames, seen)
        return
    document = put(ground(frames), kind, frames, seen)
    timeline = Timeline(document)
    (made,) = document.project.made
    assert made.layers
    for layer in document.project.layers:
        span = timeline.span(layer)
        assert span is not None
        assert 0 <= span.start < span.end <= timeline.length
    assert {c.id for c in document.project.cues} == set(made.cues)
    Document.model_validate(document.model_dump())


@pytest.mark.parametrize("kind", KINDS)
def test_what_it_made_goes_again_and_leaves_the_ground_as_it_was(kind):
    before = ground(90)
    document = put(before, kind, 90)
    after = RemoveMade(made=document.project.made[0].id).apply(document)
    assert after.project.ground == before.project.ground
    assert after.project.layers == []
    assert after.project.cues == []
    assert after.project.made == []


def test_each_takes_the_place_of_the_one_before_and_keeps_what_was_cut_out():
    before = ground(90)
    document, made, mattes = before, None, {}
    for kind in (*KINDS, *KINDS):
        document = put(document, kind, 90, instead=made)
        (one,) = document.project.made
        made = one.id
        assert set(one.layers) == {x.id for x in document.project.layers}
        for one in (h for h in document.holds.values() if h.id not in document.project.made[0].holds):
            pieces = one.matte.pieces
            # A frame that was cut out once is never cut out again.
            assert not pieces or mattes.setdefault(one.frame, pieces) == pieces
    after = RemoveMade(made=made).apply(document)
    assert after.project.ground == before.project.ground


def test_a_cutout_with_which_something_was_done_is_left_alone():
    document = ground(90)
    hold = HoldFrame(item=document.project.ground[0].id, frame=45, name="Mine")
    document = hold.apply(document)
    document = SetValue(layer=hold.layer, channel="scale", frame=45, value=[2]).apply(document)
    mine = document.layer(hold.layer)
    caught = [Caught(item=document.project.ground[0].id, frame=45)]
    after = PutRecipe(recipe=KINDS["trail"](), caught=caught).apply(document)
    assert after.layer(hold.layer) == mine
    (other,) = (x for x in after.project.layers if x.id != hold.layer)
    assert other.source.hold == mine.source.hold
    gone = RemoveMade(made=after.project.made[0].id).apply(after)
    assert gone.project.layers == [mine]


def test_frames_that_do_not_fit_it_are_refused():
    document = ground(90)
    item = document.project.ground[0].id
    two = [Caught(item=item, frame=f) for f in (10, 20)]
    for kind, caught, says in (
        ("trail", [], "at least one"),
        ("name-strips", two, "one frame"),
        ("drop-on-the-cut", two, "one frame"),
        ("trail", [Caught(item="f" * 16, frame=3)], "no longer in the ground"),
        ("trail", [Caught(item=item, frame=400)], "does not show frame 400"),
    ):
        with pytest.raises(Refusal, match=says):
            PutRecipe(recipe=KINDS[kind](), caught=caught).apply(document)
    with pytest.raises(Refusal, match="no longer there"):
        PutRecipe(recipe=KINDS["trail"](), caught=two, instead="f" * 16).apply(document)
    with pytest.raises(Refusal, match="needs a name"):
        PutRecipe(recipe=KINDS["name-arch"](name=" "), caught=two[:1]).apply(document)


class TestTakes:
    def test_so_many_frames_around_the_best(self):
        assert take(90).around(3, 10) == [35, 45, 55]
        assert take(90).around(20, 10) == list(range(5, 90, 10))
        assert take(2).around(3, 10) == [1]

    def test_by_distance_they_are_as_far_from_each_other(self):
        way = np.concatenate([np.zeros(30), np.linspace(0, 3, 30), np.full(30, 3.0)])
        one = Take(range(90), 30.0, (), np.ones(90, bool), way)
        frames = one.by_distance(4)
        steps = np.diff(way[frames])
        assert np.allclose(steps, 1, atol=0.15)
        assert take(90, seen=False).by_distance(3) == [0, 44, 89]

    def test_peaks_are_apart(self):
        assert take(300).peaks(3, 0.9) == [150, 180, 210]
        assert take(300).peaks(3, 1.1) == [150, 210, 270]

    def test_frames_that_the_piece_does_not_show_are_not_chosen(self):
        part = Take(range(20, 40), 30.0, take(90).found, np.ones(90, bool), np.linspace(0, 2, 90))
        assert 20 <= part.best < 40
        assert all(20 <= f < 40 for f in part.around(9, 3))

    def test_frames_that_cut_the_subject_off_are_left_alone_if_there_are_others(self):
        there, way = np.ones(90, bool), np.linspace(0, 2, 90)
        late = Take(range(90), 30.0, take(90).found, there, way, frozenset(range(52, 90)))
        assert late.around(3, 10) == [31, 41, 51]
        assert late.around(7, 12) == [9, 21, 33, 45, 57, 69, 81]  # not without some of them

    def test_a_moment_leaves_time_for_what_follows_it(self):
        peaks = [FrameProposal(f, "turn", 0.9, 0.5, 1 - n / 10) for n, f in enumerate((85, 40, 20))]
        one = Take(range(90), 30.0, peaks, np.ones(90, bool), np.linspace(0, 2, 90))
        assert (one.best, one.moment(4), one.moment(36), one.moment(60)) == (85, 85, 40, 20)
        assert one.moment(75) == 14  # none of them leaves so much: as near to the best as can be
        assert one.moment(200) == one.moment(100) == 85  # nor does the take
        first = Take(range(90), 30.0, [FrameProposal(0, "turn", 0.9, 0.5, 1), *peaks[:1]], np.ones(90, bool))
        assert first.moment(30) == 0

    def test_a_row_begins_on_a_beat_where_the_take_shows_one(self):
        one = take(90)
        on = Take(one.frames, one.rate, one.found, one.there, one.way, beats=(0, 18, 36, 54, 72))
        assert on.from_a_beat(3, 9) == [36, 45, 54]
        assert on.from_a_beat(8, 9) == [18, 27, 36, 45, 54, 63, 72, 81]
        assert on.from_a_beat(12, 9) == on.around(12, 9, begun=True)
        assert one.from_a_beat(3, 9) == one.around(3, 9, begun=True)

    def test_two_takes_are_asked_for(self):
        with pytest.raises(Refusal, match="needs two takes"):
            KINDS["drop-on-the-cut"]().catch([take(30)])


@pytest.mark.parametrize("kind", [k for k in KINDS if k.startswith("name-")])
@pytest.mark.parametrize("shape", [(320, 180), (180, 320)])
def test_a_name_lies_within_the_canvas_and_beside_the_subject_on_a_wide_one(kind, shape):
    before = ground(90)
    width, height = shape
    project = before.project.model_copy(update={"width": width, "height": height})
    document = put(before.model_copy(update={"project": project}), kind, 90)
    card = next(x for x in document.project.layers if x.source.gathers)
    left, top, right, bottom = box_of(document, card)
    assert -1 <= left < right <= width + 1
    assert -1 <= top < bottom <= height + 1
    if width > height:
        cutout = next(x for x in document.project.layers if getattr(x.source, "hold", None))
        body = box_of(document, cutout)
        across = min(right, body[2]) - max(left, body[0])
        down = min(bottom, body[3]) - max(top, body[1])
        assert across <= 2 or down <= 2


class TestFlags:
    def test_those_that_were_set_for_it_go_with_it(self):
        before = ground(90)
        (shot,) = before.shots.values()
        mine = AddMoment(shot=shot.id, frame=12, name="Mine").apply(before)
        item = mine.project.ground[0].id
        caught = [Caught(item=item, frame=f) for f in (12, 45, 55)]
        made = PutRecipe(recipe=KINDS["trail"](), caught=caught).apply(mine)
        frames = lambda d: [m.frame for m in next(iter(d.shots.values())).moments]  # noqa: E731
        assert frames(made) == [12, 45, 55]
        other = PutRecipe(recipe=KINDS["pops"](), caught=caught[:2], instead=made.project.made[0].id).apply(made)
        gone = RemoveMade(made=other.project.made[0].id).apply(other)
        assert frames(gone) == [12]

    def test_those_that_somebody_tagged_or_uses_stay(self):
        document = ground(90)
        (shot,) = document.shots
        item = document.project.ground[0].id
        caught = [Caught(item=item, frame=f) for f in (35, 45, 55)]
        document = PutRecipe(recipe=KINDS["trail"](), caught=caught).apply(document)
        first = next(m for m in document.shots[shot].moments if m.frame == 35)
        document = ChangeMoment(shot=shot, moment=first.id, tag="best").apply(document)
        document = HoldFrame(item=item, frame=55, name="My own").apply(document)
        gone = RemoveMade(made=document.project.made[0].id).apply(document)
        assert [m.frame for m in gone.shots[shot].moments] == [35, 55]


def test_copies_are_numbered_as_they_follow_one_another():
    document = ground(90)
    item = document.project.ground[0].id
    for frame in (55, 35, 45):
        document = HoldFrame(item=item, frame=frame).apply(document)
    caught = [Caught(item=item, frame=f) for f in (35, 45, 55)]
    made = PutRecipe(recipe=KINDS["trail"](), caught=caught).apply(document)
    names = {made.holds[x.source.hold].frame: x.name for x in made.project.layers}
    assert names == {35: "Cutout 1", 45: "Cutout 2", 55: "Cutout 3"}


class TestSaid:
    def said(self, kind: str, frames: int, found: bool = True, **settings) -> list[str]:
        document = ground(frames)
        recipe = KINDS[kind](**settings)
        caught = [Caught(item=document.project.ground[0].id, frame=f) for _, f in recipe.catch([take(frames)])]
        made = PutRecipe(recipe=recipe, caught=caught, found=found).apply(document).project.made
        return made[0].said

    @pytest.mark.parametrize("kind", ["trail", "waiting-figures", "quick-trail"])
    def test_fewer_than_were_asked_for(self, kind):
        (sentence,) = self.said(kind, 30, many=4, every=12)
        assert "not of 4" in sentence
        assert self.said(kind, 90, many=4, every=12) == []
        assert self.said(kind, 30, found=False, many=4, every=12) == []  # somebody chose them

    def test_a_copy_that_hangs_for_less(self):
        document = ground(30, takes=1)
        caught = [Caught(item=document.project.ground[0].id, frame=26)]
        after = PutRecipe(recipe=KINDS["become-the-copy"](lasts=1.2), caught=caught).apply(document)
        (sentence,) = after.project.made[0].said
        assert sentence.startswith("It hangs for 4 of 36 frames: the footage goes on for no longer.")
        caught = [Caught(item=document.project.ground[0].id, frame=10)]
        after = PutRecipe(recipe=KINDS["become-the-copy"](lasts=0.5), caught=caught).apply(document)
        assert after.project.made[0].said == []


def test_frames_in_which_all_of_the_subject_is_seen_come_first():
    peaks = [FrameProposal(f, "turn", 0.9, 0.5, 1 - f / 100) for f in (10, 30, 50, 70)]
    there, way = np.ones(90, bool), np.linspace(0, 2, 90)
    plain = Take(range(90), 30.0, peaks, there, way)
    assert (plain.best, plain.peaks(2, 0.3)) == (10, [10, 30])
    some = Take(range(90), 30.0, peaks, there, way, frozenset({10, 30}))
    assert (some.best, some.peaks(2, 0.3)) == (50, [50, 70])
    assert some.peaks(3, 0.3) == [10, 50, 70]
    assert Take(range(90), 30.0, peaks, there, way, frozenset(range(90))).best == 10


def test_spaced_frames_keep_their_distances_where_there_is_room():
    whole = take(90)
    assert np.diff(whole.spaced([0, 10, 25])).tolist() == [10, 15]
    assert take(12).spaced([0, 10, 20]) == [0, 6, 11]
    assert take(12).spaced([0, 5], begun=True)[0] > 0
