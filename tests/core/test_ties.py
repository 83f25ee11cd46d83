"""Ties: whatever happens to the ground, a free end keeps its distance to what it belongs to."""

from fractions import Fraction

import pytest

from nervykite.core.change.edits import AddGround, ChangeGround, ChangeLayer, HoldFrame, RemoveGround
from nervykite.core.common.errors import Refusal
from nervykite.core.piece.model import Tied
from nervykite.core.piece.timeline.timeline import Timeline


@pytest.fixture
def two(reel):
    """The same shot of 24 frames twice in the ground; the second one's frame 6 is held, at project frame 30."""
    document = reel().document()
    document = AddGround(shot=next(iter(document.shots))).apply(document)
    edit = HoldFrame(item=document.project.ground[1].id, frame=6)
    return edit.apply(document), edit.layer


def span(document, layer):
    found = Timeline(document).spans[layer]
    return found and (found.start, found.end)


def test_trimming_an_earlier_shot_leaves_a_trail_as_long_as_it_was(two):
    document, layer = two
    document = ChangeLayer(layer=layer, until=40).apply(document)
    assert span(document, layer) == (30, 40)
    shorter = ChangeGround(item=document.project.ground[0].id, first=10).apply(document)
    assert span(shorter, layer) == (20, 30)
    gone = RemoveGround(items=[document.project.ground[0].id]).apply(document)
    assert span(gone, layer) == (6, 16)


def test_a_layer_that_waits_does_not_become_empty(two):
    document, layer = two
    document = ChangeLayer(layer=layer, arrangement="ahead").apply(document)
    document = ChangeLayer(layer=layer, until=25).apply(document)
    assert span(document, layer) == (25, 30)
    shorter = ChangeGround(item=document.project.ground[0].id, past=4).apply(document)
    assert span(shorter, layer) == (5, 10)


def test_an_end_on_a_cut_or_at_the_pieces_end_stays_there(two):
    document, _ = two
    first = document.project.ground[0].id
    edit = HoldFrame(item=first, frame=10)
    document = edit.apply(document)
    on_cut = ChangeLayer(layer=edit.layer, until=24).apply(document)
    assert on_cut.layer(edit.layer).ends == Tied(to="item end", item=first)
    assert span(ChangeGround(item=first, past=20).apply(on_cut), edit.layer) == (10, 20)
    at_end = ChangeLayer(layer=edit.layer, until=48).apply(document)
    assert at_end.layer(edit.layer).ends == Tied(to="piece end")
    assert span(ChangeGround(item=document.project.ground[1].id, past=4).apply(at_end), edit.layer) == (10, 28)


def test_set_back_it_follows_the_piece(two):
    document, layer = two
    document = ChangeLayer(layer=layer, until=35).apply(document)
    document = ChangeLayer(layer=layer, clear=["until"]).apply(document)
    assert document.layer(layer).ends is None
    assert span(document, layer) == (30, 48)


def test_tied_to_footage_that_goes_it_keeps_its_length(two):
    document, layer = two
    last = document.project.ground[1].id
    document = AddGround(shot=next(iter(document.shots))).apply(document)
    tied = Tied(to="item end", item=document.project.ground[2].id, offset=-4)
    changed = document.layer(layer).model_copy(update={"ends": tied})
    document = document.model_copy(update={"project": document.project.model_copy(update={"layers": [changed]})})
    assert span(document, layer) == (30, 68)
    without = RemoveGround(items=[document.project.ground[2].id]).apply(document)
    assert without.layer(layer).ends == Tied(to="landing", offset=38)
    assert without.layer(layer).over == last


def test_another_rate_keeps_the_distance_in_frames(two):
    document, layer = two
    document = ChangeLayer(layer=layer, until=36).apply(document)
    project = document.project.model_copy(update={"rate": Fraction(15)})
    start, end = span(document.model_copy(update={"project": project}), layer)
    assert end - start == 6


def test_a_tie_names_a_ground_item_or_not():
    with pytest.raises(ValueError, match="names the item"):
        Tied(to="item end")
    with pytest.raises(ValueError, match="names the item"):
        Tied(to="landing", item="0" * 16)


def test_what_runs_along_has_no_end_to_drag(two):
    document, layer = two
    moving = document.layer(layer).source.family["moving"](hold=document.layer(layer).source.hold)
    changed = document.layer(layer).model_copy(
        update={"source": moving, "arrangement": moving and document.layer(layer).arrangement.family["along"]()}
    )
    document = document.model_copy(update={"project": document.project.model_copy(update={"layers": [changed]})})
    with pytest.raises(Refusal, match="no end to drag"):
        ChangeLayer(layer=layer, until=33).apply(document)
