"""The ground, cut and put together in every way: which frames show, and what is tied to them."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nervykite.core.change.edits import (
    AddColour,
    AddGround,
    AddShot,
    AddStandstill,
    ChangeGround,
    ChangeLayer,
    DuplicateGround,
    ExchangeGround,
    HoldFrame,
    MoveGround,
    RemoveGround,
    SetKey,
    SlipGround,
    SplitGround,
)
from nervykite.core.common.errors import Refusal
from nervykite.core.kinds.sources.plain_colour import ColourSource
from nervykite.core.kinds.sources.shot_source import ShotSource
from nervykite.core.piece.model import Document, Finish, Key, Project, Shot
from nervykite.core.piece.timeline import clock
from nervykite.core.piece.timeline.timeline import Timeline

RATES = [Fraction(24), Fraction(25), Fraction(30000, 1001), Fraction(30), Fraction(60)]
rates = st.sampled_from(RATES)
steps = st.lists(st.integers(4, 90), min_size=6, max_size=60)


def made(ticks: list[int], tick: str = "1/1000", rate: Fraction = Fraction(30)) -> Shot:
    return Shot(
        name="Clip", file="f", proxy_file="p", width=100, height=100, rate=rate, variable=False, tick=tick, ticks=ticks
    )


def even(frames: int, rate: Fraction) -> Shot:
    return made([n * rate.denominator for n in range(frames + 1)], f"1/{rate.numerator}", rate)


def of(shot: Shot, rate: Fraction = Fraction(30)) -> Document:
    """A project with the shot on its ground, at a rate."""
    document = AddShot(shot=shot).apply(Document(project=Project(name="Test")))
    return document.model_copy(update={"project": document.project.model_copy(update={"rate": rate})})


def seen(document: Document) -> list[int | None]:
    """The source frame of each project frame; None where a colour is shown."""
    timeline = Timeline(document)
    shown = [timeline.item_at(f) for f in range(timeline.length)]
    return [None if s is None or s.item.source.footage(document) is None else s.frame for s in shown]


def span(document: Document, layer: str) -> tuple[int, int, int] | None:
    found = Timeline(document).spans[layer]
    return found and (found.start, found.end, found.landing)


class TestClock:
    @given(steps, rates, st.data())
    @settings(max_examples=150)
    def test_frames_before_are_counted_as_the_table_has_them(self, gaps, rate, data):
        shot = made([0, *np.cumsum(gaps).tolist()])
        first = data.draw(st.integers(0, shot.frames - 2))
        past = data.draw(st.integers(first + 1, shot.frames))
        table = clock.conform(shot, first, past, rate)
        for frame in range(first, past + 1):
            assert clock.before(shot, first, past, rate, frame) == int((table < frame).sum())


class TestSplit:
    @given(steps, rates, st.lists(st.integers(0, 200), min_size=1, max_size=6), st.sampled_from([100, 50, 130, 400]))
    @settings(max_examples=150, deadline=None)
    def test_the_parts_show_what_the_whole_did(self, gaps, rate, places, speed):
        document = of(made([0, *np.cumsum(gaps).tolist()]), rate)
        item = document.project.ground[0]
        document = ChangeGround(item=item.id, source=item.source.model_copy(update={"speed": speed})).apply(document)
        whole = seen(document)
        for place in places:
            try:
                document = SplitGround(at=place % len(whole)).apply(document)
            except Refusal:
                continue
            assert seen(document) == whole
        timeline = Timeline(document)
        assert timeline.length == sum(g.source.lasts(document) for g in document.project.ground) == len(whole)
        for g in document.project.ground:
            assert len(timeline.tables[g.id]) == g.source.lasts(document)

    def test_layers_and_ends_go_with_the_part_that_shows_them(self):
        document = of(even(60, Fraction(30)))
        item = document.project.ground[0].id
        early, late, waiting = (HoldFrame(item=item, frame=f) for f in (10, 40, 45))
        for edit in (early, late, waiting):
            document = edit.apply(document)
        document = ChangeLayer(layer=early.layer, until=60).apply(document)
        document = ChangeLayer(layer=waiting.layer, arrangement="ahead").apply(document)
        before = {x: span(document, x) for x in (early.layer, late.layer, waiting.layer)}
        edit = SplitGround(at=30)
        cut = edit.apply(document)
        assert {x: span(cut, x) for x in before} == before
        assert [cut.layer(x.layer).over for x in (early, late, waiting)] == [item, edit.item, edit.item]
        shorter = ChangeGround(item=edit.item, past=50).apply(cut)
        assert span(shorter, early.layer) == (10, 50, 10)  # it is tied to the end of what is now the second part

    def test_a_moment_that_falls_between_two_shown_frames_stays_with_what_is_shown_for_it(self):
        """Of 60 frames a second every other one is shown in 30; the held one may be one of the others."""
        document = of(even(120, Fraction(60)), Fraction(30))
        edit = HoldFrame(item=document.project.ground[0].id, frame=21)
        document = edit.apply(document)
        assert span(document, edit.layer)[2] == 10
        for at in (10, 11):
            cut = SplitGround(at=at).apply(document)
            assert span(cut, edit.layer)[2] == 10

    def test_keys_of_finishes_stay_where_they_are(self):
        document = of(even(60, Fraction(30)))
        item = document.project.ground[0].id
        blur = Finish(kind="soft-blur")
        document = ChangeGround(item=item, finishes=[blur]).apply(document)
        for tie, offset in (("start", 4), ("end", -6)):
            key = Key(channel=f"{blur.id}.radius", tie=tie, offset=offset, value=[3.0])
            document = SetKey(item=item, key=key).apply(document)
        cut = SplitGround(at=30).apply(document)
        timeline = Timeline(cut)
        for part in cut.project.ground:
            ties = timeline.ties_of(part)
            assert [ties.frame(k) for k in part.keys] == [4, 54]
        assert cut.project.ground[0].finishes[0].id != cut.project.ground[1].finishes[0].id

    @pytest.mark.parametrize(("at", "sentence"), [(0, "cut there already"), (60, "nothing in the ground there")])
    def test_where_nothing_can_be_cut(self, at, sentence):
        with pytest.raises(Refusal, match=sentence):
            SplitGround(at=at).apply(of(even(60, Fraction(30))))

    def test_a_frame_that_is_seen_twice_is_not_cut_through(self):
        document = of(even(24, Fraction(24)), Fraction(30))
        table = seen(document)
        twice = next(n for n in range(1, len(table)) if table[n] == table[n - 1])
        cut = SplitGround(at=twice).apply(document)
        assert seen(cut) == table
        assert Timeline(cut).tables[cut.project.ground[1].id][0] == table[twice]


class TestStandstill:
    """Rule 6: frames … m, m (held n times), m+1 …; none lost, none twice; removed, the piece is what it was."""

    @given(steps, rates, st.integers(0, 200), st.integers(1, 50), st.sampled_from([100, 50, 200]))
    @settings(max_examples=150, deadline=None)
    def test_rule_6_standstill_is_seamless(self, gaps, rate, place, frames, speed):
        document = of(made([0, *np.cumsum(gaps).tolist()]), rate)
        item = document.project.ground[0]
        document = ChangeGround(item=item.id, source=item.source.model_copy(update={"speed": speed})).apply(document)
        whole = seen(document)
        at = place % len(whole)
        last = max(n for n, f in enumerate(whole) if f == whole[at])
        edit = AddStandstill(at=at, frames=frames)
        stands = edit.apply(document)
        assert seen(stands) == whole[: last + 1] + [whole[at]] * frames + whole[last + 1 :]
        assert RemoveGround(items=[edit.item]).apply(stands) == document

    @pytest.mark.parametrize("rate", RATES)
    @pytest.mark.parametrize("source", [Fraction(24), Fraction(30000, 1001), Fraction(30), Fraction(60)])
    def test_at_every_rate(self, rate, source):
        document = of(even(70, source), rate)
        whole = seen(document)
        for at in (0, 7, len(whole) - 1):
            edit = AddStandstill(at=at, frames=12)
            stands = edit.apply(document)
            assert len(seen(stands)) == len(whole) + 12
            assert [f for n, f in enumerate(seen(stands)) if not edit_covers(stands, edit.item, n)] == whole
            assert RemoveGround(items=[edit.item]).apply(stands) == document

    def test_what_comes_after_moves_and_comes_back(self):
        document = of(even(90, Fraction(30)))
        item = document.project.ground[0].id
        blur = Finish(kind="soft-blur")
        document = ChangeGround(item=item, finishes=[blur]).apply(document)
        document = SetKey(item=item, key=Key(channel=f"{blur.id}.radius", tie="start", offset=0, value=[0])).apply(
            document
        )
        document = SetKey(item=item, key=Key(channel=f"{blur.id}.radius", tie="end", offset=0, value=[9])).apply(
            document
        )
        holds = [HoldFrame(item=item, frame=f) for f in (10, 40, 60)]
        for hold in holds:
            document = hold.apply(document)
        document = ChangeLayer(layer=holds[0].layer, until=90).apply(document)
        document = ChangeLayer(layer=holds[1].layer, until=70).apply(document)
        edit = AddStandstill(at=40, frames=24)
        stands = edit.apply(document)
        assert [span(stands, h.layer) for h in holds] == [(10, 114, 10), (40, 70, 40), (84, 114, 84)]
        standing = stands.item(edit.item)
        assert standing.finishes[0].settings["radius"] == pytest.approx(4.0)  # as it was blurred in that very frame
        assert RemoveGround(items=[edit.item]).apply(stands) == document

    def test_with_a_cutout_of_its_own_frame(self):
        document = of(even(60, Fraction(30)))
        edit = AddStandstill(at=20, frames=15, hold=True)
        stands = edit.apply(document)
        assert span(stands, edit.layer) == (21, 36, 21)
        longer = ChangeGround(item=edit.item, source=stands.item(edit.item).source.lengthened(40)).apply(stands)
        assert span(longer, edit.layer) == (21, 61, 21)
        gone = RemoveGround(items=[edit.item]).apply(longer)
        assert gone.project == document.project

    def test_cut_in_two_its_cutout_stays_with_the_first_part(self):
        edit = AddStandstill(at=20, frames=15, hold=True)
        stands = edit.apply(of(even(60, Fraction(30))))
        cut = SplitGround(at=26).apply(stands)
        assert seen(cut) == seen(stands)
        assert span(cut, edit.layer) == (21, 26, 21)

    def test_a_standstill_in_what_was_cut_leaves_that_cut_open(self):
        document = SplitGround(at=30).apply(of(even(60, Fraction(30))))
        edit = AddStandstill(at=40)
        stands = edit.apply(document)
        assert len(stands.project.ground) == 4
        assert RemoveGround(items=[edit.item]).apply(stands) == document

    def test_two_of_them_taken_out_at_once(self):
        document = of(even(60, Fraction(30)))
        first, second = AddStandstill(at=20), AddStandstill(at=70)
        stands = second.apply(first.apply(document))
        assert RemoveGround(items=[first.item, second.item]).apply(stands) == document
        assert RemoveGround(items=[second.item]).apply(stands) == first.apply(document)

    def test_what_stands_already(self):
        edit = AddStandstill(at=20)
        stands = edit.apply(of(even(60, Fraction(30))))
        with pytest.raises(Refusal, match="stands still there already"):
            AddStandstill(at=25).apply(stands)
        with pytest.raises(Refusal, match="stands still already"):
            AddStandstill(at=0).apply(AddColour(at=0).apply(stands))

    def test_a_changed_half_is_not_closed_over(self):
        edit = AddStandstill(at=20)
        stands = edit.apply(of(even(60, Fraction(30))))
        dressed = ChangeGround(item=edit.rest, finishes=[Finish(kind="soft-blur")]).apply(stands)
        open_ = RemoveGround(items=[edit.item]).apply(dressed)
        assert len(open_.project.ground) == 2
        assert seen(open_) == list(range(60))


def edit_covers(document: Document, item: str, frame: int) -> bool:
    timeline = Timeline(document)
    return timeline.starts[item] <= frame < timeline.end_of(item)


class TestTakes:
    def three(self) -> Document:
        document = of(even(30, Fraction(30)))
        shot = next(iter(document.shots))
        for _ in range(2):
            document = AddGround(shot=shot).apply(document)
        return document

    def test_reordered_with_what_hangs_on_it(self):
        document = self.three()
        ids = [g.id for g in document.project.ground]
        edit = HoldFrame(item=ids[2], frame=12)
        document = edit.apply(document)
        moved = MoveGround(item=ids[2], to=0).apply(document)
        assert [g.id for g in moved.project.ground] == [ids[2], ids[0], ids[1]]
        assert span(moved, edit.layer)[2] == 12
        assert MoveGround(item=ids[2], to=9).apply(moved) == document

    def test_duplicated_and_removed(self):
        document = self.three()
        ids = [g.id for g in document.project.ground]
        hold = HoldFrame(item=ids[1], frame=12)
        document = hold.apply(document)
        copy = DuplicateGround(item=ids[1]).apply(document)
        assert Timeline(copy).length == 120
        assert span(copy, hold.layer) == (42, 120, 42)
        assert len(copy.project.layers) == 1
        fewer = RemoveGround(items=[ids[0], ids[2]]).apply(document)
        assert [g.id for g in fewer.project.ground] == [ids[1]]
        assert span(fewer, hold.layer) == (12, 30, 12)

    def test_slipped_under_its_place(self):
        document = of(even(60, Fraction(30)))
        item = document.project.ground[0].id
        document = ChangeGround(item=item, first=20, past=40).apply(document)
        document = AddGround(shot=next(iter(document.shots))).apply(document)
        slipped = SlipGround(item=item, by=-15).apply(document)
        assert seen(slipped)[:20] == list(range(5, 25))
        assert Timeline(slipped).length == Timeline(document).length
        with pytest.raises(Refusal, match="by -20 to 20 frames"):
            SlipGround(item=item, by=21).apply(document)

    @given(st.sampled_from([10, 25, 50, 75, 150, 200, 400, 800]), rates)
    @settings(max_examples=60, deadline=None)
    def test_speed(self, speed, rate):
        document = of(even(120, Fraction(60)), rate)
        item = document.project.ground[0]
        faster = ChangeGround(item=item.id, source=item.source.model_copy(update={"speed": speed})).apply(document)
        table = np.array(seen(faster))
        assert len(table) == max(1, round(2 * rate * 100 / speed))
        assert (np.diff(table) >= 0).all()
        assert table[0] == 0
        step = Fraction(60 * speed, 100) / rate
        assert abs(table - np.arange(len(table)) * float(step)).max() <= 1

    def test_sixty_in_thirty_as_slow_motion_shows_every_frame(self):
        document = of(even(120, Fraction(60)), Fraction(30))
        item = document.project.ground[0]
        slow = ChangeGround(item=item.id, source=item.source.model_copy(update={"speed": 50})).apply(document)
        assert seen(slow) == list(range(120))

    def test_exchanged_for_another_take(self):
        document = of(even(60, Fraction(30)))
        other = even(40, Fraction(30)).model_copy(update={"name": "Take 2"})
        document = AddShot(shot=other).apply(document)
        item = document.project.ground[0].id
        document = ChangeGround(item=item, first=20, past=50).apply(document)
        swapped = ExchangeGround(item=item, shot=other.id).apply(document).item(item).source
        assert (swapped.shot, swapped.first, swapped.past) == (other.id, 20, 40)

    def test_a_colour_lasts_as_long_as_it_is_told(self):
        document = self.three()
        edit = AddColour(source=ColourSource(lasting=12, colour="#AA5500"), at=1)
        document = edit.apply(document)
        assert seen(document)[28:44] == [28, 29] + [None] * 12 + [0, 1]
        assert Timeline(SplitGround(at=35).apply(document)).length == 102
        with pytest.raises(Refusal, match="cannot lie"):
            ChangeGround(item=edit.item, source={"kind": "hold", "hold": "0" * 16}).apply(document)

    def test_what_a_part_was_cut_from_is_forgotten_when_it_is_trimmed_beyond_it(self):
        document = of(even(60, Fraction(30)))
        item = document.project.ground[0].id
        document = ChangeGround(item=item, first=10, past=50).apply(document)
        edit = SplitGround(at=20)
        cut = edit.apply(document)
        assert cut.item(item).source.part == (10, 50)
        assert ChangeGround(item=item, past=28).apply(cut).item(item).source.part == (10, 50)
        assert ChangeGround(item=item, first=0).apply(cut).item(item).source.part is None


def test_the_loop_stays_where_the_length_does():
    document = of(even(60, Fraction(30)))
    document = document.model_copy(update={"project": document.project.model_copy(update={"loop": (5, 20)})})
    item = document.project.ground[0]
    quiet = ChangeGround(item=item.id, source=ShotSource.model_validate({**item.source.model_dump(), "heard": "off"}))
    assert quiet.apply(document).project.loop == (5, 20)
    assert SplitGround(at=30).apply(document).project.loop == (5, 20)
    assert ChangeGround(item=item.id, past=40).apply(document).project.loop is None


class TestCalled:
    def test_pieces_of_one_file_are_numbered_in_order(self):
        document = of(even(40, Fraction(30)))
        whole = document.project.ground[0]
        assert document.called(whole) == "Clip"
        parted = SplitGround(at=10).apply(document)
        parted = AddColour().apply(parted)
        names = [parted.called(x) for x in parted.project.ground]
        assert names[:2] == ["Clip 1", "Clip 2"]
        assert not names[2].startswith("Clip")
        turned = MoveGround(item=whole.id, to=1).apply(parted)
        assert turned.called(whole) == "Clip 2"
        assert RemoveGround(items=[whole.id]).title(turned) == "remove Clip 2"
        assert RemoveGround(items=[whole.id]).apply(turned).ground_names()[turned.project.ground[0].id] == "Clip"
