"""Echoes: what is drawn beneath something of where it was a moment ago."""

import pytest

from nervykite.core.change.edits import ChangeLayer, MakeGroup, SetKeys, SetValue
from nervykite.core.draw.picture.affected import FrameKeys
from nervykite.core.draw.picture.draws import GroupDraw
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.piece.model import Finish, Key, Matte

from ..conftest import box, held

START = 6


def echo(**settings) -> Finish:
    return Finish(kind="echo", settings={"copies": 3, "every": 2, "opacity": 0.5, "fade": 0.5, **settings})


@pytest.fixture
def moving(reel):
    """A cutout that moves ten pixels a frame from its eighth frame to its twentieth, and its id."""
    document, layer = held(reel(size=(320, 240)).document(), START, Matte(pieces=[box(40, 40, 140, 140)]))
    keys = [Key(channel="position", tie="landing", offset=f - START, value=[x, 0]) for f, x in ((8, 0), (20, 120))]
    document = SetKeys(layer=layer, keys=keys).apply(document)
    return ChangeLayer(layer=layer, finishes=[echo()]).apply(document), layer


def places(document, frame) -> list[tuple[float, float]]:
    """Of each draw how far across it lies and how opaque it is, from the lowest up."""
    return [(round(d.matrix[2], 6), round(d.opacity, 6)) for d in Evaluation(document).at(frame).layers]


def test_they_lie_where_it_was_fainter_the_longer_ago(moving):
    document, _ = moving
    assert places(document, 16) == [(20, 0.125), (40, 0.25), (60, 0.5), (80, 1)]


def test_none_from_before_it_was_there_or_while_it_has_not_stirred(moving):
    document, layer = moving
    span = Evaluation(document).timeline.spans[layer]
    # It is there since its own frame; two frames before the ninth it had not moved yet, at the ninth it has.
    assert places(document, span.start) == [(0, 1)]
    assert places(document, 9) == [(0, 0.5), (10, 1)]
    # Once it rests its echoes run up to it, and then there is nothing left to see of them.
    assert places(document, 21) == [(70, 0.125), (90, 0.25), (110, 0.5), (120, 1)]
    late = ChangeLayer(layer=layer, finishes=[echo(copies=1)]).apply(document)
    assert places(late, 22) == [(120, 1)]


def test_between_two_frames_and_blended(moving):
    document, layer = moving
    document = ChangeLayer(layer=layer, finishes=[echo(copies=1, every=0.5, blend="screen")]).apply(document)
    below, own = Evaluation(document).at(16).layers
    assert (below.matrix[2], below.opacity, below.blend) == (75, 0.5, "screen")
    assert (own.matrix[2], own.blend) == (80, "normal")


def test_they_wear_what_it_wore_then(moving):
    document, layer = moving
    line = Finish(kind="outline", settings={"width": 2})
    document = ChangeLayer(layer=layer, finishes=[line, echo(copies=1, every=4)]).apply(document)
    grows = [Key(channel=f"{line.id}.width", tie="landing", offset=f - START, value=[w]) for f, w in ((8, 2), (20, 26))]
    document = SetKeys(layer=layer, keys=[*document.layer(layer).keys, *grows]).apply(document)
    below, own = Evaluation(document).at(16).layers
    assert [w.look.width for w in (below.sprite.finishes[0], own.sprite.finishes[0])] == [10, 18]
    assert len(own.sprite.finishes) == 1


def test_of_a_group_all_of_it_and_within_one_as_that_lies_now(moving):
    document, layer = moving
    made = MakeGroup(layers=[layer])
    grouped = made.apply(document)
    group = next(x for x in grouped.project.layers if x.source.gathers)
    # Its member's echo goes with the group, wherever that is now.
    shifted = SetValue(layer=group.id, channel="position", frame=16, value=[7, 0]).apply(grouped)
    assert [x for x, _ in places(shifted, 16)] == [27, 47, 67, 87]
    bare = ChangeLayer(layer=layer, finishes=[]).apply(grouped)
    whole = ChangeLayer(layer=group.id, finishes=[echo(copies=1)]).apply(bare)
    below, own = Evaluation(whole).at(16).layers
    solid = below.draws[0] if isinstance(below, GroupDraw) else below
    assert (solid.matrix[2], below.opacity, own.matrix[2]) == (60, 0.5, 80)


def test_switched_off_there_are_none(moving):
    document, layer = moving
    off = document.layer(layer).finishes[0].model_copy(update={"visible": False})
    document = ChangeLayer(layer=layer, finishes=[off]).apply(document)
    assert places(document, 16) == [(80, 1)]


def test_after_an_edit_no_frame_keeps_an_echo_of_how_it_was(moving):
    document, layer = moving
    known = FrameKeys(Evaluation(document))
    known.of(0, 40)
    changed = SetValue(layer=layer, channel="position", frame=8, value=[33, 0], key=True).apply(document)
    again = FrameKeys(Evaluation(changed), known)
    assert again.of(0, 40) == FrameKeys(Evaluation(changed)).of(0, 40)
