"""What an edit can have changed: never too little, and not much more."""

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from nervykite.core.change.edits import (
    AddGround,
    ChangeGround,
    ChangeLayer,
    ChangeMatte,
    ChangePiece,
    DuplicateLayer,
    HoldFrame,
    MoveLayer,
    RemoveGround,
    RemoveLayer,
    RenameProject,
    SetCanvas,
    SetValue,
)
from nervykite.core.common.errors import Refusal
from nervykite.core.draw.picture.affected import FrameKeys, affected, merged
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.piece.model import Behaviour, Finish, Framing, Matte
from nervykite.core.piece.timeline.timeline import Timeline

from ..conftest import box, held

MATTE = Matte(pieces=[box(40, 30, 120, 90)])


@pytest.fixture
def document(reel):
    """Two pieces of ground of 24 frames each, three layers."""
    document = reel().document()
    document = AddGround(shot=next(iter(document.shots))).apply(document)
    for frame in (4, 10):
        document, _ = held(document, frame, MATTE)
    edit = HoldFrame(item=document.project.ground[1].id, frame=8)
    document = edit.apply(document)
    return ChangeMatte(hold=document.layer(edit.layer).source.hold, matte=MATTE).apply(document)


def between(document, edit):
    return affected(Evaluation(document), Evaluation(edit.apply(document)))


def test_only_the_spans_of_what_changed(document):
    first, second, third = document.project.layers
    ground = document.project.ground
    assert between(document, RenameProject(name="Other")) == []
    assert between(document, ChangeLayer(layer=third.id, visible=False)) == [(32, 48)]
    assert between(document, SetValue(layer=second.id, channel="scale", frame=12, value=[2])) == [(10, 48)]
    assert between(document, ChangeLayer(layer=first.id, until=20)) == [(4, 48)]
    assert between(document, ChangeMatte(hold=third.source.hold, matte=Matte())) == [(32, 48)]
    blur = ChangeGround(item=ground[1].id, finishes=[Finish(kind="soft-blur")])
    assert between(document, blur) == [(24, 48)]
    assert between(document, ChangeGround(item=ground[1].id, past=20)) == [(4, 48)]
    assert between(document, SetCanvas(width=80, height=60, rate=30)) == [(0, 48)]


def test_what_moves_the_whole_piece_goes_by_how_long_that_is(document):
    shaken = ChangePiece(behaviours=[Behaviour(kind="drift", fade_out=8)]).apply(document)
    shorter = ChangeGround(item=document.project.ground[1].id, past=20)
    assert between(shaken, shorter) == [(0, 48)]
    hidden = ChangePiece(behaviours=[Behaviour(kind="drift", visible=False)]).apply(document)
    assert between(hidden, shorter) == [(4, 48)]


def random_edit(draw, document):
    layers, ground = document.project.layers, document.project.ground
    layer = draw(st.sampled_from([x.id for x in layers])) if layers else "0" * 16
    item = draw(st.sampled_from([g.id for g in ground]))
    frame = draw(st.integers(0, 40))
    return draw(
        st.sampled_from(
            [
                ChangeLayer(layer=layer, until=frame),
                ChangeLayer(layer=layer, arrangement="ahead"),
                ChangeLayer(layer=layer, visible=False),
                ChangeLayer(layer=layer, finishes=[Finish(kind="outline")]),
                SetValue(layer=layer, channel="position", frame=frame, value=[frame, 1]),
                SetValue(layer=layer, channel="opacity", frame=frame, value=[0.5], key=True),
                MoveLayer(layers=[layer], to=frame % 3),
                RemoveLayer(layer=layer),
                DuplicateLayer(layer=layer, separate=bool(frame % 2)),
                ChangeGround(item=item, first=frame % 7),
                ChangeGround(item=item, past=10 + frame % 14),
                ChangeGround(item=item, framing=Framing(mode="fit")),
                ChangeGround(item=item, finishes=[Finish(kind="soft-blur")]),
                RemoveGround(items=[item]) if len(ground) > 1 else RenameProject(name="Same"),
                HoldFrame(item=item, frame=frame),
            ]
        )
    )


@given(st.data())
@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_keys_that_are_taken_over_are_those_that_would_be_worked_out(document, data):
    """Through any walk of edits: keys and spans kept from before equal those of the document looked at afresh."""
    keys = FrameKeys(Evaluation(document))
    keys.of(0, 99)
    for _ in range(data.draw(st.integers(1, 5))):
        try:
            document = random_edit(data.draw, document).apply(document)
        except Refusal:
            continue
        timeline = Timeline(document, keys.evaluation.timeline)
        keys = FrameKeys(Evaluation(document, timeline), keys)
        fresh = Evaluation(document)
        assert timeline.spans == fresh.timeline.spans
        assert all((timeline.tables[g.id] == fresh.timeline.tables[g.id]).all() for g in document.project.ground)
        assert keys.of(0, 99) == [fresh.at(f).key for f in range(fresh.length)]


def test_ranges_that_touch_are_joined():
    assert merged([(5, 9), (0, 2), (9, 12), (3, 3), (1, 2)]) == [(0, 2), (5, 12)]
