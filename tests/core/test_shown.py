"""What can be shown, and what no edit may leave: ids that are taken, places beyond all bounds."""

from fractions import Fraction
from typing import get_args

import numpy as np
import pytest

from nervykite.core.change.edits import (
    AddCue,
    AddGround,
    AddLayer,
    ChangeLayer,
    DetachSound,
    OneEdit,
    SetValue,
    Several,
)
from nervykite.core.change.edits.base import ids_of
from nervykite.core.common.errors import Refusal
from nervykite.core.kinds.sources.figure_shapes import BoxShape
from nervykite.core.piece.model import Behaviour, Document, Project, Shot
from nervykite.core.piece.model.base import new_id
from nervykite.core.piece.model.behaviour import Shifts
from nervykite.core.piece.motion.shifts import Looked
from nervykite.core.tell.shown import laid_out

TAKEN = "a" * 16


def document(frames: int = 30) -> Document:
    """A piece of a take with sound, and a box over it whose id is `TAKEN`."""
    shot = Shot(
        name="Take", file="a" * 64, proxy_file="b" * 64, sound_file="c" * 64, has_sound=True, width=200, height=300,
        rate=Fraction(30), variable=False, tick="1/30", ticks=list(range(frames + 1)),
    )  # fmt: skip
    made = Document(project=Project(name="Relay", width=200, height=300), shots={shot.id: shot})
    made = AddGround(shot=shot.id).apply(made)
    return AddLayer(source=BoxShape(), at=0, frames=10, layer=TAKEN).make(made)


def test_a_piece_is_laid_out_and_what_is_the_same_is_taken_over():
    first = laid_out(document())
    after = ChangeLayer(layer=TAKEN, name="Other").make(first.document)
    assert laid_out(after, first).length == first.length == 30


def test_an_empty_piece_is_laid_out():
    assert laid_out(Document(project=Project(name="Nothing"))).length == 0


def test_a_jolt_that_ends_before_it_begins_can_be_drawn():
    made = document(1)
    jolt = Behaviour(kind="jolt", after=-4)
    ground = [made.project.ground[0].model_copy(update={"behaviours": [jolt]})]
    made = made.model_copy(update={"project": made.project.model_copy(update={"ground": ground, "layers": []})})
    assert laid_out(made).at(0).ground is not None


def test_what_is_worked_out_beyond_all_bounds_is_refused():
    before = laid_out(document())
    layer = before.document.project.layers[0]
    far = layer.model_copy(update={"pose": layer.pose.model_copy(update={"position": (0.0, 2e6)})})
    after = before.document.model_copy(update={"project": before.document.project.model_copy(update={"layers": [far]})})
    with pytest.raises(Refusal, match="beyond what can be kept"):
        laid_out(after, before)


def bringing() -> list[type]:
    """The edits that give an id to what they make; of SetValue the key may be there, and changes."""
    kinds = [k for k in get_args(get_args(OneEdit)[0]) if k is not SetValue]
    return [k for k in kinds if any(f.default_factory is new_id for f in k.model_fields.values())]


@pytest.mark.parametrize("kind", bringing(), ids=lambda kind: kind.__name__)
def test_no_edit_names_what_is_new_as_what_is_there(kind):
    """Whatever else it says: the id is looked at first."""
    made = document()
    assert TAKEN in ids_of(made)
    for name, field in kind.model_fields.items():
        if field.default_factory is new_id:
            edit = kind.model_construct(
                **{n: new_id() for n, f in kind.model_fields.items() if f.default_factory is new_id}
            )
            edit = edit.model_copy(update={name: TAKEN})
            with pytest.raises(Refusal, match=f"id {TAKEN} already"):
                edit.make(made)


def test_a_sound_that_is_detached_takes_no_id_of_the_shelf():
    made = document()
    item = made.project.ground[0].id
    detached = DetachSound(item=item).make(made)
    (asset,) = detached.assets
    again = AddGround(shot=next(iter(made.shots))).make(detached)
    with pytest.raises(Refusal, match=f"id {asset} already"):
        DetachSound(item=again.project.ground[-1].id, asset=asset).make(again)


def test_of_several_edits_each_is_looked_at():
    hit = {"sound": {"kind": "tick"}, "cue": "c" * 16}
    twice = Several(edits=[AddCue(**hit), AddCue(**hit)])
    with pytest.raises(Refusal, match=f"id {'c' * 16} already"):
        twice.make(document())


class TestLooked:
    def test_what_is_asked_again_or_was_known_to_come_is_worked_out_once(self):
        asked: list[list[float]] = []

        def shifts(times: np.ndarray) -> Shifts:
            asked.append(times.tolist())
            return Shifts(times, -times, times * 0, times * 0 + 1, times * 0 + 1)

        looked = Looked(shifts)
        looked.ahead([1.0, 2.0, 3.0])
        assert [looked.at(t).across for t in (1.0, 2.0, 3.0, 4.0, 4.0)] == [1.0, 2.0, 3.0, 4.0, 4.0]
        looked.ahead([3.0, 4.0, 5.0])
        assert asked == [[1.0, 2.0, 3.0], [4.0], [5.0]]

    def test_no_more_is_kept_than_there_is_room_for(self):
        looked = Looked(lambda times: Shifts.none(len(times)), most=5)
        for n in range(20):
            looked.ahead([float(n), n + 0.5])
            assert looked.at(n + 0.5).scale == 1.0
        assert len(looked._known) <= 5
