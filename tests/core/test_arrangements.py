"""Rule 3 for each arrangement: around the landing or the cut exactly one of live subject and cutout is in the place."""

from fractions import Fraction

import pytest

from nervykite.core.change.edits import (
    AddGround,
    AddShot,
    AddStandstill,
    ChangeGround,
    ChangeLayer,
    HoldFrame,
    MoveGround,
    RemoveGround,
    SplitGround,
)
from nervykite.core.common.errors import Refusal
from nervykite.core.piece.model import Document, Tied
from nervykite.core.piece.timeline.timeline import Timeline

from .test_ground import RATES, even, made, of, span

SOURCES = [*RATES, "variable"]


def shot_at(rate):
    if rate != "variable":
        return even(70, rate)
    gaps = [33, 21, 50, 34, 17, 33, 41] * 10
    return made([sum(gaps[:n]) for n in range(len(gaps) + 1)])


def two(source, rate) -> tuple[Document, list[str]]:
    """Two takes, one after the other, in a piece of a rate."""
    document = of(shot_at(source), rate)
    other = shot_at(source)
    document = AddShot(shot=other.model_copy(update={"name": "Take 2"})).apply(document)
    return document, [g.id for g in document.project.ground]


def shown(document: Document, frame: int) -> tuple[str, int]:
    found = Timeline(document).item_at(frame)
    return found.item.id, found.frame


@pytest.mark.parametrize("rate", RATES)
@pytest.mark.parametrize("source", SOURCES)
class TestNobodyTwiceNobodyMissing:
    def test_arrival(self, source, rate):
        document, (first, second) = two(source, rate)
        cut = Timeline(document).starts[second]
        edit = HoldFrame(item=second, frame=0, arrangement="arrival")
        document = edit.apply(document)
        start, end, landing = span(document, edit.layer)
        assert (start, end, landing) == (cut - 15, cut, cut)
        assert shown(document, end - 1)[0] == first  # the subject of the second take is there as a cutout alone
        assert shown(document, end) == (second, 0)  # and from the cut on alive, in the very frame that was held

    def test_departure(self, source, rate):
        document, (first, second) = two(source, rate)
        timeline = Timeline(document)
        cut, last = timeline.starts[second], int(timeline.tables[first][-1])
        edit = HoldFrame(item=first, frame=last, arrangement="departure")
        document = edit.apply(document)
        assert span(document, edit.layer) == (cut, cut + 15, cut)
        assert shown(document, cut - 1) == (first, last)
        assert shown(document, cut)[0] == second

    def test_standstill(self, source, rate):
        document, (first, _) = two(source, rate)
        edit = AddStandstill(at=9, frames=20, hold=True)
        document = edit.apply(document)
        start, end, _ = span(document, edit.layer)
        frame = shown(document, start)[1]
        assert end - start == 20
        assert {shown(document, f) for f in range(start, end)} == {(edit.item, frame)}
        assert shown(document, start - 1) == (first, frame)
        assert shown(document, end)[1] > frame

    def test_trail_and_ahead_over_what_was_cut(self, source, rate):
        document, (first, _) = two(source, rate)
        table = Timeline(document).tables[first]
        at = next(n for n in range(12, len(table)) if table[n] != table[n - 1])
        frame = int(table[at])
        trail, ahead = (HoldFrame(item=first, frame=frame, arrangement=kind) for kind in ("trail", "ahead"))
        document = ahead.apply(trail.apply(document))
        before = span(document, trail.layer), span(document, ahead.layer)
        assert before[0][0] == before[1][1] == at
        for cut in (at - 4, at, at + 1):
            try:
                split = SplitGround(at=cut).apply(document)
            except Refusal:  # in the middle of a frame that is seen twice
                continue
            assert (span(split, trail.layer), span(split, ahead.layer)) == before


class TestSuited:
    def test_only_the_first_frame_arrives_and_only_the_last_departs(self):
        document, (first, second) = two(Fraction(30), Fraction(30))
        with pytest.raises(Refusal, match="Hold frame 0"):
            HoldFrame(item=second, frame=5, arrangement="arrival").apply(document)
        with pytest.raises(Refusal, match="Hold frame 69"):
            HoldFrame(item=first, frame=5, arrangement="departure").apply(document)
        with pytest.raises(Refusal, match="Nothing lies before"):
            HoldFrame(item=first, frame=0, arrangement="arrival").apply(document)
        with pytest.raises(Refusal, match="Nothing lies after"):
            HoldFrame(item=second, frame=69, arrangement="departure").apply(document)
        with pytest.raises(Refusal, match="does not hang over a standstill"):
            HoldFrame(item=second, frame=5, arrangement="standstill").apply(document)

    def test_a_standstill_neither_arrives_nor_departs(self):
        edit = AddStandstill(at=9, frames=20, hold=True)
        document = edit.apply(two(Fraction(30), Fraction(30))[0])
        for kind in ("arrival", "departure"):
            with pytest.raises(Refusal, match="belongs to a standstill"):
                ChangeLayer(layer=edit.layer, arrangement=kind).apply(document)

    def test_a_trail_becomes_an_arrival(self):
        document, (_, second) = two(Fraction(30), Fraction(30))
        edit = HoldFrame(item=second, frame=0)
        document = edit.apply(document)
        document = ChangeLayer(layer=edit.layer, arrangement="arrival").apply(document)
        assert span(document, edit.layer) == (55, 70, 70)
        longer = ChangeLayer(layer=edit.layer, until=40).apply(document)
        assert longer.layer(edit.layer).starts == Tied(to="landing", offset=-30)
        assert span(longer, edit.layer) == (40, 70, 70)
        with pytest.raises(Refusal, match="has to begin before"):
            ChangeLayer(layer=edit.layer, until=70).apply(document)

    def test_it_waits_while_its_frame_is_not_the_first_any_more_and_comes_back(self):
        document, (first, second) = two(Fraction(30), Fraction(30))
        edit = HoldFrame(item=second, frame=0, arrangement="arrival")
        document = edit.apply(document)
        trimmed = ChangeGround(item=second, first=4).apply(document)
        assert span(trimmed, edit.layer) is None
        assert span(ChangeGround(item=second, first=0).apply(trimmed), edit.layer) == (55, 70, 70)
        alone = RemoveGround(items=[first]).apply(document)
        assert span(alone, edit.layer) is None
        again = AddGround(shot=document.item(first).source.shot).apply(alone)
        back = MoveGround(item=second, to=9).apply(again)
        assert span(back, edit.layer) == (55, 70, 70)
