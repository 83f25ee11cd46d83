"""Edits: what they do, what they are called, and what they refuse."""

import pytest

from nervykite.core.change.edits import (
    AddGround,
    AddMoment,
    ChangeGround,
    ChangeLayer,
    ChangeMatte,
    ChangeMoment,
    DuplicateLayer,
    HoldFrame,
    MoveLayer,
    PutAtRest,
    PutFound,
    RemoveGround,
    RemoveKey,
    RemoveLayer,
    RenameProject,
    SetKeys,
    SetLoop,
    SetTravel,
    SetValue,
    client_edit,
)
from nervykite.core.common.errors import Refusal
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.piece.model import Found, Key, Matte, Pose, Raster
from nervykite.core.piece.model.naming import free_name

from ..conftest import box, held

MATTE = Matte(pieces=[box(40, 30, 120, 90, name="Body")])


@pytest.fixture
def document(reel):
    return reel().document()


def test_first_shot_sets_the_canvas(reel):
    project = reel(size=(162, 90), rate=25).document().project
    assert (project.width, project.height, project.rate) == (162, 90, 25)


def test_holding_flags_the_moment_and_names_the_layer(document):
    document, layer = held(document, 6)
    document, second = held(document, 9)
    shot = next(iter(document.shots.values()))
    assert [m.frame for m in shot.moments] == [6, 9]
    assert [x.name for x in document.project.layers] == ["Cutout 1", "Cutout 2"]
    assert Evaluation(document).timeline.spans[layer].landing == 6


def test_a_value_holds_all_along_until_there_is_a_key(document):
    document, layer = held(document, 6, MATTE)
    for x in (10, 30):
        document = SetValue(layer=layer, channel="position", frame=15 + x, value=[x, 0]).apply(document)
    assert document.layer(layer).keys == []
    assert document.layer(layer).pose.position == (30, 0)
    key = Key(channel="position", tie="landing", offset=0, value=[0, 0])
    keys = [key, Key(channel="position", tie="end", offset=0, value=[5, 5])]
    document = SetKeys(layer=layer, keys=keys).apply(document)
    document = SetValue(layer=layer, channel="position", frame=22, value=[8, 8]).apply(document)
    assert [(k.tie, k.offset) for k in document.layer(layer).keys] == [("landing", 0), ("end", 0), ("end", -2)]
    document = RemoveKey(layer=layer, key=key.id).apply(document)
    assert len(document.layer(layer).keys) == 2
    document = PutAtRest(layer=layer).apply(document)
    assert (document.layer(layer).keys, document.layer(layer).pose) == ([], Pose())


def test_removing_a_layer_removes_a_hold_that_nothing_else_uses(document):
    document, layer = held(document, 6, MATTE)
    document = DuplicateLayer(layer=layer).apply(document)
    document = RemoveLayer(layer=layer).apply(document)
    assert len(document.holds) == 1
    document = RemoveLayer(layer=document.project.layers[0].id).apply(document)
    assert document.holds == {}


def test_order_of_layers(document):
    ids = []
    for frame in (4, 8, 12):
        document, layer = held(document, frame)
        ids.append(layer)
    document = MoveLayer(layers=[ids[0]], to=2).apply(document)
    assert [x.id for x in document.project.layers] == [ids[1], ids[2], ids[0]]


def test_trimmed_ground_takes_the_landing_along_and_loses_it_outside(document):
    document, layer = held(document, 10, MATTE)
    item = document.project.ground[0].id
    trimmed = ChangeGround(item=item, first=4).apply(document)
    assert Evaluation(trimmed).timeline.spans[layer].landing == 6
    lost = ChangeGround(item=item, first=11).apply(document)
    assert Evaluation(lost).timeline.spans[layer] is None
    assert Evaluation(lost).at(0).layers == ()


def test_a_shot_may_lie_in_the_ground_twice(document):
    shot = next(iter(document.shots))
    document, layer = held(document, 10, MATTE)
    document = AddGround(shot=shot).apply(document)
    evaluation = Evaluation(document)
    assert evaluation.length == 48
    assert evaluation.timeline.spans[layer].landing == 10
    assert RemoveGround(items=[document.project.ground[0].id]).apply(document).project.layers == []


class TestPutFound:
    """A found piece is put in, changed and taken out by edits that say nothing of the others."""

    ID = "a" * 16
    FOUND = Found(kind="marks", name="Body", raster=Raster(file="0" * 64, box=(0, 0, 9, 9)))

    @pytest.fixture
    def carved(self, document):
        document, layer = held(document, 6, MATTE)
        return document, document.layer(layer).source.hold

    def pieces(self, document, hold, frame=6):
        return [(p.id, p.name) for p in document.holds[hold].matte_at(frame).pieces]

    def put(self, hold, piece, frame=6):
        return PutFound(hold=hold, frame=frame, id=self.ID, piece=piece)

    def test_a_new_one_lies_over_the_others_under_a_name_of_its_own(self, carved):
        document, hold = carved
        edit = self.put(hold, self.FOUND)
        assert edit.title(document) == "find Body 2"
        ((body, _), new) = self.pieces(edit.apply(document), hold)
        assert body == MATTE.pieces[0].id
        assert new == (self.ID, "Body 2")

    def test_one_that_is_there_stays_in_its_place_and_goes_alone(self, carved):
        document, hold = carved
        document = self.put(hold, self.FOUND.model_copy(update={"name": "Sleeve"})).apply(document)
        above = [*document.holds[hold].matte.pieces, box(1, 1, 5, 5, name="Cap")]
        document = ChangeMatte(hold=hold, matte=Matte(pieces=above, grow=2.0)).apply(document)
        again = self.put(hold, self.FOUND.model_copy(update={"name": "Sleeve", "opacity": 0.5}))
        assert again.title(document) == "change Sleeve"
        document = again.apply(document)
        assert [n for _, n in self.pieces(document, hold)] == ["Body", "Sleeve", "Cap"]
        assert document.holds[hold].matte.pieces[1].opacity == 0.5
        document = self.put(hold, None).apply(document)
        assert [n for _, n in self.pieces(document, hold)] == ["Body", "Cap"]
        assert document.holds[hold].matte.grow == 2.0

    def test_at_a_frame_that_the_matte_travels_to_it_is_fixed_there_alone(self, carved):
        document, hold = carved
        document = SetTravel(hold=hold, range=(4, 10)).apply(document)
        document = self.put(hold, self.FOUND, frame=8).apply(document)
        assert self.pieces(document, hold, 8) == [(self.ID, "Body")]
        assert len(self.pieces(document, hold)) == 1
        with pytest.raises(Refusal, match="frames 4 to 9 only"):
            self.put(hold, self.FOUND, frame=12).apply(document)


def test_undo_names(document):
    assert RenameProject(name="  Wet   sand ").title(document) == "rename project to Wet sand"
    held_document, layer = held(document, 6)
    hold = held_document.layer(layer).source.hold
    assert ChangeMatte(hold=hold, matte=MATTE).title(held_document) == "draw Body"
    drawn = ChangeMatte(hold=hold, matte=MATTE).apply(held_document)
    assert ChangeMatte(hold=hold, matte=Matte()).title(drawn) == "remove Body"
    grown = MATTE.model_copy(update={"grow": 2.0})
    assert ChangeMatte(hold=hold, matte=grown).title(drawn) == "change edge of Cutout 1"
    moved = SetValue(layer=layer, channel="position", frame=3, value=[1, 2])
    assert moved.title(drawn) == "move Cutout 1"
    assert ChangeLayer(layer=layer, visible=False).title(drawn) == "hide Cutout 1"


def refused(document, layer):
    item, shot = document.project.ground[0].id, next(iter(document.shots))
    gone = "0" * 16
    yield HoldFrame(item=item, frame=99), "does not show frame 99"
    yield HoldFrame(item=gone, frame=1), "no longer in the ground"
    yield AddMoment(shot=shot, frame=24), "its last one is 23"
    yield AddMoment(shot=shot, frame=6), "flagged already"
    yield ChangeMoment(shot=shot, moment=gone, frame=2), "no longer there"
    yield ChangeGround(item=item, first=20, past=12), "keep at least one"
    yield ChangeLayer(layer=layer, until=3), "has to end after that"
    yield ChangeLayer(layer=layer, until=90), "within the ground"
    yield ChangeLayer(layer=gone, name="x"), "no longer there"
    yield SetLoop(loop=(5, 90)), "within the ground"
    yield SetValue(layer=layer, channel="opacity", frame=2, value=[3]), "Opacity goes from 0 to 1"
    yield ChangeMatte(hold=gone, matte=MATTE), "no longer there"


def test_what_does_not_fit_gets_a_sentence_and_changes_nothing(document):
    document, layer = held(document, 6, MATTE)
    before = document.model_dump_json()
    for edit, sentence in refused(document, layer):
        with pytest.raises(Refusal, match=sentence):
            edit.apply(document)
    locked = ChangeLayer(layer=layer, locked=True).apply(document)
    with pytest.raises(Refusal, match="is locked"):
        SetValue(layer=layer, channel="scale", frame=2, value=[2]).apply(locked)
    assert document.model_dump_json() == before


@pytest.mark.parametrize(
    "body",
    [
        {"kind": "rename project", "name": "   "},
        {"kind": "rename project", "name": "x", "more": 1},
        {"kind": "add shot"},
        {"kind": "set canvas", "width": 101, "height": 100, "rate": "30"},
        {"kind": "set canvas", "width": 100, "height": 100, "rate": "0/0"},
        {"kind": "set value", "layer": "../../etc", "channel": "scale", "frame": 0, "value": [1]},
        {"kind": "set value", "layer": "0" * 16, "channel": "scale", "frame": 0, "value": [float("nan")]},
    ],
)
def test_malformed_edits_are_not_accepted(body):
    with pytest.raises(ValueError):
        client_edit.validate_python(body)


def test_free_names():
    assert free_name("Leap", set()) == "Leap"
    assert free_name("Leap", {"Leap"}) == "Leap 2"
    assert free_name("Leap 2", {"Leap 2", "Leap 3"}) == "Leap 4"
