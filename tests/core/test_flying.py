"""What a maker does to motion: moves, behaviours, many keys at once, slow pushes; and what stays as it was."""

import numpy as np
import pytest

from nervykite.core.change.edits import (
    AddMoment,
    AddStandstill,
    ChangeGround,
    ChangeKeys,
    ChangeLayer,
    ChangePiece,
    ChosenKeys,
    Dissolve,
    DuplicateLayer,
    IntoKeys,
    KeysApart,
    MakeGroup,
    MirrorExit,
    MoveKeys,
    PasteKeys,
    PutAtRest,
    PutMove,
    RemoveGround,
    RemoveKeys,
    RemoveMoment,
    ReverseKeys,
    SetKey,
    SetValue,
    SlowPush,
    SplitGround,
    SpreadKeys,
    StaggerKeys,
)
from nervykite.core.change.edits.copying import copied
from nervykite.core.common.errors import Refusal
from nervykite.core.draw.picture.affected import affected
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.picture.render import Renderer
from nervykite.core.piece.model import Behaviour, BehaviourKind, Bezier, Blur, Key, Matte, MoveKind, PutOn, Spring
from nervykite.core.piece.timeline.timeline import Timeline
from nervykite.core.see.footage.framing_matrix import fit_matrix
from nervykite.core.see.footage.planes import to_bgr
from nervykite.core.tell.curves import motion_of
from nervykite.core.tell.rehearsal import rehearsal

from ..conftest import box, held
from ..media import number_of
from .test_sky import made, three  # noqa: F401

MATTE = Matte(pieces=[box(30, 40, 90, 160)])


@pytest.fixture
def flown(reel):
    """A cutout held at frame 10 of forty."""
    return held(reel(frames=40).document(), 10, MATTE)


def at(document, layer, frame):
    """A layer's matrix and opacity at a frame."""
    evaluation = Evaluation(document)
    found = document.layer(layer)
    return evaluation.matrix(found, frame), evaluation.keyed(found).opacity(frame)


def frames(document, layer, made_=None):
    """The frames of a layer's keys by channel, of one side's move alone if asked."""
    found = document.layer(layer)
    ties, by = Timeline(document).ties_of(found), {}
    for key in found.keys:
        if made_ in (None, key.made):
            by.setdefault(key.channel, []).append(ties.frame(key))
    return {c: sorted(f) for c, f in by.items()}


def corners(document, layer, frame):
    """Where the corners of a layer's box are at a frame: 2×4."""
    evaluation, found = Evaluation(document), document.layer(layer)
    left, top, right, bottom = evaluation.box(found, frame)
    moved = evaluation.matrix(found, frame) @ evaluation.rest(found)
    return (moved @ np.array([[left, right, left, right], [top, top, bottom, bottom], [1, 1, 1, 1]]))[:2]


class TestMoves:
    @pytest.mark.parametrize("kind", sorted(MoveKind.family.all()))
    def test_each_ends_at_rest_and_begins_elsewhere(self, flown, kind):
        document, layer = flown
        for side in MoveKind.family[kind].sides:
            there = PutMove(layers=[layer], side=side, move={"kind": kind}).apply(document)
            rest, gone = (36, 10) if side == "in" else (10, 39)
            matrix, opacity = at(there, layer, rest if kind != "swell" else 10)
            assert np.abs(matrix - np.eye(3)).max() < 1e-9
            assert opacity == 1
            matrix, opacity = at(there, layer, gone)
            assert np.abs(matrix - np.eye(3)).max() > 1e-3 or opacity == 0 or kind == "swell"
            assert {k.made for k in there.layer(layer).keys} == {side}
            assert there.layer(layer).blur.shutter > 0

    @pytest.mark.parametrize(("kind", "axis", "beyond"), [("drop", 1, -1), ("rise", 1, 1), ("sweep", 0, -1)])
    def test_those_that_come_from_outside_begin_just_out_of_the_picture(self, flown, kind, axis, beyond):
        document, layer = flown
        document = SetValue(layer=layer, channel="position", frame=10, value=[7, 9]).apply(document)
        there = PutMove(layers=[layer], side="in", move={"kind": kind}).apply(document)
        edge = corners(there, layer, 10)[axis]
        side = (document.project.width, document.project.height)[axis]
        # Sweep leans as it comes, which takes a corner a little further in or out.
        assert (edge.max() if beyond < 0 else edge.min() - side) == pytest.approx(
            0, abs=22 if kind == "sweep" else 1e-6
        )
        assert np.abs(corners(there, layer, 30) - corners(document, layer, 30)).max() < 1e-6

    def test_a_second_one_takes_the_place_of_the_first(self, flown):
        document, layer = flown
        own = Key(channel="rotation", tie="end", offset=-3, value=[5.0])
        document = SetKey(layer=layer, key=own).apply(document)
        for kind in ("drop", "twirl"):
            document = PutMove(layers=[layer], side="in", move={"kind": kind}).apply(document)
        assert own in document.layer(layer).keys
        assert set(frames(document, layer, "in")) == {"rotation", "scale", "opacity"}
        assert document.layer(layer).entrance.kind == "twirl"
        # The turn it makes ends in the turn that was keyed.
        assert at(document, layer, 25)[0][1, 0] == pytest.approx(np.sin(np.radians(5)))
        off = PutMove(layers=[layer], side="in", move=None).apply(document)
        assert (off.layer(layer).keys, off.layer(layer).entrance) == ([own], None)

    def test_on_a_short_layer_it_takes_the_time_that_there_is(self, flown):
        document, layer = flown
        short = ChangeLayer(layer=layer, until=14).apply(document)
        there = PutMove(layers=[layer], side="out", move={"kind": "fade"}).apply(short)
        assert frames(there, layer) == {"opacity": [10, 13]}

    def test_an_exit_swells_back_from_what_the_entrance_made(self, flown):
        document, layer = flown
        for side in ("in", "out"):
            document = PutMove(layers=[layer], side=side, move=PutOn(kind="swell", settings={"amount": 0.2})).apply(
                document
            )
        sizes = [Evaluation(document).keyed(document.layer(layer)).number("scale", f) for f in (10, 25, 39)]
        assert sizes == pytest.approx([1, 1.2, 1])

    def test_bounces_are_parabolas_each_as_high_as_the_last_times_the_square(self, flown):
        document, layer = flown
        move = PutOn(kind="rebound", settings={"lasts": 29, "bounciness": 0.5, "bounces": 2})
        there = PutMove(layers=[layer], side="in", move=move).apply(document)
        keyed = Evaluation(there).keyed(there.layer(layer))
        down = [keyed.position(10 + t)[1] for t in np.linspace(0, 29, 200)]
        high = min(down)
        # A fall of 1, bounces of 1 and 0.5: 2.5 in all.
        fall = [keyed.position(10 + t)[1] for t in np.linspace(0, round(29 / 2.5), 12)]
        assert fall == pytest.approx([high * (1 - (n / 11) ** 2) for n in range(12)], abs=1e-3 * abs(high))
        assert min(down[100:150]) == pytest.approx(high * 0.25, rel=0.05)

    def test_several_come_one_after_the_other(self, made):  # noqa: F811
        document, ids = three(made)
        there = PutMove(layers=ids, side="in", move={"kind": "fade"}, stagger=3).apply(document)
        assert [frames(there, i)["opacity"][0] - at_ for i, at_ in zip(ids, (2, 5, 9), strict=True)] == [0, 3, 6]
        far = PutMove(layers=ids, side="in", move={"kind": "fade"}, stagger=4, by="distance").apply(document)
        assert [frames(far, i)["opacity"][0] - at_ for i, at_ in zip(ids, (2, 5, 9), strict=True)] == [0, 4, 8]

    def test_an_arrival_lands_on_its_cut(self, reel):
        document, _ = held(reel(frames=40).document(), 20, MATTE)
        document = SplitGround(at=20).apply(document)
        layer = document.project.layers[0].id
        document = ChangeLayer(layer=layer, arrangement="arrival").apply(document)
        there = PutMove(layers=[layer], side="in", move={"kind": "drop"}).apply(document)
        span = Timeline(there).span(there.layer(layer))
        assert span.end == 20
        # It touches down on the cut, and would give way after it.
        assert frames(there, layer)["position"] == [13, 20, 21, 25]
        assert np.abs(at(there, layer, 19)[0] - np.eye(3)).max() > 0
        with_stagger = PutMove(layers=[layer], side="in", move=PutOn(kind="drop", settings={"lasts": 90})).apply(
            document
        )
        assert frames(with_stagger, layer)["position"][0] == span.start

    def test_leaving_the_way_it_came(self, flown):
        document, layer = flown
        with pytest.raises(Refusal, match="does not come in any way yet"):
            MirrorExit(layers=[layer]).apply(document)
        there = PutMove(layers=[layer], side="in", move={"kind": "pop"}).apply(document)
        there = MirrorExit(layers=[layer]).apply(there)
        for n in range(9):
            came, went = at(there, layer, 10 + n), at(there, layer, 39 - n)
            assert np.abs(came[0] - went[0]).max() < 1e-6
            assert came[1] == pytest.approx(went[1])
        shorter = ChangeLayer(layer=layer, until=32).apply(there)
        assert at(shorter, layer, 31)[1] == pytest.approx(at(there, layer, 39)[1])

    def test_at_rest_takes_moves_away(self, flown):
        document, layer = flown
        there = PutMove(layers=[layer], side="in", move={"kind": "drop"}).apply(document)
        rest = PutAtRest(layer=layer).apply(there).layer(layer)
        assert (rest.keys, rest.entrance) == ([], None)

    def test_locked_layers_stay(self, flown):
        document, layer = flown
        locked = ChangeLayer(layer=layer, locked=True).apply(document)
        with pytest.raises(Refusal, match="is locked"):
            PutMove(layers=[layer], side="in", move={"kind": "drop"}).apply(locked)
        assert len(rehearsal(locked, locked.layer(layer), "in").shown) == len(MoveKind.family.all())

    def test_a_move_that_is_not_there(self):
        with pytest.raises(ValueError, match="there is no move “moonwalk”"):
            PutOn(kind="moonwalk")


class TestManyKeys:
    @pytest.fixture
    def keyed(self, flown):
        document, layer = flown
        for offset, value in ((0, 0.0), (6, 40.0), (12, 90.0)):
            key = Key(channel="rotation", tie="start", offset=offset, value=[value], easing=Bezier(x1=0.4, y2=0.9))
            document = SetKey(layer=layer, key=key).apply(document)
        return document, layer

    def test_drawn_out_and_moved(self, keyed):
        document, layer = keyed
        moved = MoveKeys(of=[ChosenKeys(layer=layer)], frames=2, stretch=2, around=10).apply(document)
        assert frames(moved, layer) == {"rotation": [12, 24, 36]}
        one = document.layer(layer).keys[1].id
        raised = MoveKeys(of=[ChosenKeys(layer=layer, keys=[one])], add={"rotation": [5]}).apply(document)
        assert [k.value for k in raised.layer(layer).keys] == [[0], [45], [90]]
        with pytest.raises(Refusal, match="Opacity goes from 0 to 1"):
            faint = SetKey(layer=layer, key=Key(channel="opacity", tie="start", offset=0, value=[0.5])).apply(document)
            MoveKeys(of=[ChosenKeys(layer=layer)], add={"opacity": [0.6]}).apply(faint)

    def test_reversed_twice_is_what_it_was(self, keyed):
        document, layer = keyed
        once = ReverseKeys(of=[ChosenKeys(layer=layer)]).apply(document)
        for n in range(13):
            forth, back = at(document, layer, 10 + n)[0], at(once, layer, 22 - n)[0]
            assert np.abs(forth - back).max() < 1e-6
        twice = ReverseKeys(of=[ChosenKeys(layer=layer)]).apply(once)
        for n in range(13):
            assert np.abs(at(document, layer, 10 + n)[0] - at(twice, layer, 10 + n)[0]).max() < 1e-6

    def test_spread_over_all_of_the_span_and_tied_to_its_ends(self, keyed):
        document, layer = keyed
        spread = SpreadKeys(of=[ChosenKeys(layer=layer)]).apply(document)
        assert frames(spread, layer) == {"rotation": [10, 24, 39]}
        assert [k.tie for k in spread.layer(layer).keys] == ["start", "landing", "end"]
        shorter = ChangeLayer(layer=layer, until=34).apply(spread)
        assert frames(shorter, layer)["rotation"][-1] == 33
        with pytest.raises(Refusal, match="single key"):
            SpreadKeys(of=[ChosenKeys(layer=layer, keys=[document.layer(layer).keys[0].id])]).apply(document)

    def test_pasted_on_others(self, keyed):
        document, layer = keyed
        copy = DuplicateLayer(layer=layer)
        document = copy.apply(document)
        document = ChangeLayer(layer=copy.copy_id, until=30).apply(document)
        bare = PutAtRest(layer=copy.copy_id).apply(document)
        keys = [*document.layer(layer).keys, Key(channel="opacity", tie="end", offset=-1, value=[0.0])]
        pasted = PasteKeys(layers=[copy.copy_id], keys=keys).apply(bare)
        assert frames(pasted, copy.copy_id) == {"rotation": [10, 16, 22], "opacity": [29]}
        again = PasteKeys(layers=[copy.copy_id], keys=keys[:1]).apply(pasted)
        assert frames(again, copy.copy_id) == {"rotation": [10], "opacity": [29]}
        with pytest.raises(Refusal, match="has none of what was copied"):
            strange = keys[0].model_copy(update={"channel": f"{'f' * 16}.width"})
            PasteKeys(layers=[copy.copy_id], keys=[strange]).apply(bare)

    def test_removed_and_staggered(self, keyed):
        document, layer = keyed
        copy = DuplicateLayer(layer=layer)
        document = copy.apply(document)
        late = StaggerKeys(layers=[layer, copy.copy_id], frames=4).apply(document)
        assert frames(late, copy.copy_id)["rotation"][0] == 14
        gone = RemoveKeys(of=[ChosenKeys(layer=layer, keys=[document.layer(layer).keys[1].id])]).apply(document)
        assert frames(gone, layer) == {"rotation": [10, 22]}
        with pytest.raises(Refusal, match="no longer there"):
            RemoveKeys(of=[ChosenKeys(layer=layer, keys=["f" * 16])]).apply(document)

    def test_one_easing_for_all(self, keyed):
        document, layer = keyed
        sprung = ChangeKeys(of=[ChosenKeys(layer=layer)], easing=Spring()).apply(document)
        assert all(k.easing == Spring() for k in sprung.layer(layer).keys)

    def test_only_a_path_is_bent(self, keyed):
        document, layer = keyed
        with pytest.raises(Refusal, match="Only keys of a path"):
            ChangeKeys(of=[ChosenKeys(layer=layer)], bend=(-4, 0, 4, 0)).apply(document)


def test_across_and_down_are_set_one_after_the_other(flown):
    document, layer = flown
    for put in (None, "pop"):
        if put:
            document = PutMove(layers=[layer], side="in", move={"kind": put}).apply(document)
            document = MirrorExit(layers=[layer]).apply(document)
        for channel, value in (("across", 40), ("down", -30)):
            document = SetValue(layer=layer, channel=channel, frame=20, value=[value], shift=True).apply(document)
        assert at(document, layer, 20)[0][:2, 2] == pytest.approx(at(flown[0], layer, 20)[0][:2, 2] + (40, -30))


class TestApart:
    def test_there_and_back_nothing_moves_otherwise(self, flown):
        document, layer = flown
        for offset, value in ((0, [0, -90]), (8, [20, 10]), (16, [0, 0])):
            key = Key(channel="position", tie="start", offset=offset, value=value, easing=Bezier(x1=0.3, y1=0.9))
            document = SetKey(layer=layer, key=key).apply(document)
        apart = KeysApart(layer=layer, apart=True).apply(document)
        assert frames(apart, layer) == {"across": [10, 18, 26], "down": [10, 18, 26]}
        together = KeysApart(layer=layer, apart=False).apply(apart)
        for frame in range(8, 30):
            assert np.abs(at(document, layer, frame)[0] - at(apart, layer, frame)[0]).max() < 1e-9
            assert np.abs(at(document, layer, frame)[0] - at(together, layer, frame)[0]).max() < 1e-9

    def test_each_has_keys_of_its_own(self, flown):
        document, layer = flown
        apart = KeysApart(layer=layer, apart=True).apply(document)
        for frame, value in ((10, 0.0), (20, 50.0)):
            edit = SetValue(layer=layer, channel="across", frame=frame, value=[value], key=True)
            apart = edit.apply(apart)
        assert frames(apart, layer) == {"across": [10, 20]}
        moved = SetValue(layer=layer, channel="position", frame=15, value=[30, 7]).apply(apart)
        assert frames(moved, layer) == {"across": [10, 15, 20]}
        assert moved.layer(layer).pose.position[1] == 7

    def test_where_they_lie_together_one_of_the_two_is_a_position(self, flown):
        document, layer = flown
        moved = SetValue(layer=layer, channel="down", frame=15, value=[7.0]).apply(document)
        assert moved.layer(layer).pose.position == (0, 7)


class TestTies:
    def test_a_key_tied_to_a_moment_goes_with_it_and_outlives_it(self, flown):
        document, layer = flown
        shot = next(iter(document.shots))
        document = AddMoment(shot=shot, frame=18).apply(document)
        moment = next(m for m in document.shots[shot].moments if m.frame == 18)
        key = Key(channel="rotation", tie="start", offset=10, value=[9.0])
        document = SetKey(layer=layer, key=key).apply(document)
        tied = ChangeKeys(of=[ChosenKeys(layer=layer)], tie="moment", to=moment.id).apply(document)
        assert frames(tied, layer) == {"rotation": [20]}
        assert tied.layer(layer).keys[0].offset == 2
        item = tied.project.ground[0].id
        later = ChangeGround(item=item, first=4).apply(tied)
        assert frames(later, layer) == {"rotation": [16]}
        gone = RemoveMoment(shot=shot, moment=moment.id).apply(later)
        assert frames(gone, layer) == {"rotation": [16]}
        assert gone.layer(layer).keys[0].tie == "landing"

    def test_a_key_tied_to_a_cut(self, flown):
        document, layer = flown
        document = SplitGround(at=25).apply(document)
        cut = document.project.ground[1].id
        key = Key(channel="opacity", tie="start", offset=3, value=[1.0])
        document = SetKey(layer=layer, key=key).apply(document)
        for wrong in ("f" * 16, document.project.layers[0].id):
            with pytest.raises(Refusal, match="does not lie where"):
                ChangeKeys(of=[ChosenKeys(layer=layer)], tie="cut", to=wrong).apply(document)
        tied = ChangeKeys(of=[ChosenKeys(layer=layer)], tie="cut", to=cut).apply(document)
        assert frames(tied, layer)["opacity"] == [13]
        longer = AddStandstill(at=20, frames=6).apply(tied)
        assert frames(longer, layer)["opacity"] == [19]
        copy = copied(longer, "Again")
        assert frames(copy, copy.project.layers[0].id)["opacity"] == [19]
        assert copy.project.layers[0].keys[0].to == copy.project.ground[-1].id
        gone = RemoveGround(items=[cut]).apply(tied)
        assert frames(gone, layer)["opacity"] == [13]


SHAKE = Behaviour(kind="jolt", settings={"amplitude": 30, "rotation": 3}, seed=4)


class TestBehaviours:
    @pytest.mark.parametrize("kind", sorted(BehaviourKind.family.all()))
    def test_the_same_in_any_order_and_another_with_another_seed(self, flown, kind):
        document, layer = flown

        def seen(seed, order):
            one = Behaviour(kind=kind, seed=seed)
            evaluation = Evaluation(ChangeLayer(layer=layer, behaviours=[one]).apply(document))
            found = {f: evaluation.at(f).key for f in order}
            return [found[f] for f in range(10, 40)]

        forth = seen(1, range(10, 40))
        assert forth == seen(1, reversed(range(10, 40)))
        assert len(set(forth)) > 12
        if kind in ("jolt", "drift", "flicker"):
            assert forth != seen(2, range(10, 40))

    def test_a_jolt_dies_out_to_the_last_bit(self, flown):
        document, layer = flown
        there = ChangeLayer(layer=layer, behaviours=[SHAKE]).apply(document)
        far = [np.abs(at(there, layer, f)[0] - np.eye(3)).max() for f in range(10, 40)]
        assert far[0] > 10
        assert max(far[16:]) < max(far[:4]) / 8
        long = ChangeLayer(
            layer=layer, behaviours=[Behaviour(kind="jolt", settings={"decay": 4, "amplitude": 20, "scale": 0})]
        ).apply(document)
        assert (at(long, layer, 39)[0] == np.eye(3)).all()
        assert Evaluation(long).at(39).key == Evaluation(document).at(39).key

    def test_a_pendulum_turns_about_its_pivot(self, flown):
        document, layer = flown
        hang = Behaviour(kind="sway", settings={"angle": 20, "across": 0.5, "down": 0.0})
        there = ChangeLayer(layer=layer, behaviours=[hang]).apply(document)
        top = [corners(there, layer, f)[:, :2].mean(1) for f in range(10, 40)]
        assert np.ptp(top, axis=0).max() < 1e-6
        assert np.ptp([corners(there, layer, f)[0].mean() for f in range(10, 40)]) > 10

    def test_it_comes_and_goes_and_can_have_keys(self, flown):
        document, layer = flown
        drift = Behaviour(kind="drift", settings={"amplitude": 60}, fade_in=10, fade_out=10)
        there = ChangeLayer(layer=layer, behaviours=[drift]).apply(document)
        assert (at(there, layer, 10)[0] == np.eye(3)).all()
        assert np.abs(at(there, layer, 25)[0] - np.eye(3)).max() > 1
        for frame, value in ((10, 0.0), (39, 0.0)):
            strength = SetValue(layer=layer, channel=f"{drift.id}.strength", frame=frame, value=[value], key=True)
            there = strength.apply(there)
        assert (at(there, layer, 25)[0] == np.eye(3)).all()
        off = ChangeLayer(layer=layer, behaviours=[]).apply(there)
        assert off.layer(layer).keys == []

    def test_flicker_is_for_what_flies(self, flown):
        document, _ = flown
        with pytest.raises(Refusal, match="Flicker is for what flies"):
            ChangeGround(item=document.project.ground[0].id, behaviours=[Behaviour(kind="flicker")]).apply(document)
        with pytest.raises(Refusal, match="Flicker is for what flies"):
            ChangePiece(behaviours=[Behaviour(kind="flicker")]).apply(document)

    def test_turned_into_keys_nothing_moves_otherwise(self, flown):
        document, layer = flown
        behaviours = [SHAKE, Behaviour(kind="breathe")]
        there = ChangeLayer(layer=layer, behaviours=behaviours).apply(document)
        there = SetValue(layer=layer, channel="position", frame=10, value=[5, 6]).apply(there)
        keyed = IntoKeys(layer=layer, behaviour=SHAKE.id).apply(there)
        assert [b.kind for b in keyed.layer(layer).behaviours] == ["breathe"]
        for frame in range(10, 40):
            assert np.abs(at(there, layer, frame)[0] - at(keyed, layer, frame)[0]).max() < 1e-3

    @pytest.mark.parametrize("of", ["item", "piece"])
    def test_the_edge_of_the_picture_never_shows(self, reel, of):
        """Footage of one light colour over black: no black is ever to be seen."""
        one = reel(frames=24)
        document = one.document()
        project = document.project
        behaviours = [
            Behaviour(kind="jolt", settings={"amplitude": 25, "rotation": 6}, seed=3),
            Behaviour(kind="drift", settings={"amplitude": 12, "rotation": 3}, seed=5),
        ]
        if of == "item":
            document = ChangeGround(item=project.ground[0].id, behaviours=behaviours).apply(document)
        else:
            document = ChangePiece(behaviours=behaviours).apply(document)
        evaluation = Evaluation(document)
        item = document.project.ground[0]
        larger = evaluation.lying(item).larger if of == "item" else evaluation.shaking.larger
        assert 1.05 < larger < 2
        shot = document.shots[one.shot.id]
        tightest = 1e9
        for time in np.arange(0, 24, 0.25):
            framing = evaluation.framing_at(item, time)
            if of == "piece":
                framing = evaluation.shaking.framing(framing, (shot.width, shot.height), time)
            back = np.linalg.inv(fit_matrix((shot.width, shot.height), (project.width, project.height), framing))
            canvas = np.array([[0, project.width, 0, project.width], [0, 0, project.height, project.height], [1] * 4])
            x, y, _ = back @ canvas
            room = min(x.min(), y.min(), shot.width - x.max(), shot.height - y.max())
            assert room > -0.01
            tightest = min(tightest, room)
        assert tightest < 3  # and it is no larger than it has to be

    def test_what_has_come_to_rest_lies_as_it_did(self, reel):
        document = reel(frames=90).document()
        item = document.project.ground[0]
        jolt = [Behaviour(kind="jolt", settings={"amplitude": 25, "decay": 4})]
        evaluation = Evaluation(ChangeGround(item=item.id, behaviours=jolt).apply(document))
        lies = [evaluation.framing_at(evaluation.document.project.ground[0], f) for f in (0, 8, 80)]
        assert lies[0].scale > lies[1].scale > 1.01
        assert lies[2] == item.framing
        steps = [evaluation.framing_at(evaluation.document.project.ground[0], t).scale for t in range(14, 90)]
        assert max(a - b for a, b in zip(steps, steps[1:], strict=False)) < 0.02

    def test_what_lies_over_a_shaking_ground_still_lands_in_it(self, reel):
        """Rule 2, while the ground itself shakes."""
        one = reel(frames=24)
        document, layer = held(one.document(), 10, Matte(pieces=[box(0, 0, 160, 120)]))
        bare = document.model_copy(update={"project": document.project.model_copy(update={"layers": []})})
        item, renderer = document.project.ground[0].id, Renderer(one.library())
        drift = [Behaviour(kind="drift", settings={"amplitude": 12}, seed=5)]
        shaken = [ChangeGround(item=item, behaviours=drift).apply(d) for d in (document, bare)]
        with_, without = (to_bgr(renderer.render(Canvas.of(d), Evaluation(d).at(10))).astype(int) for d in shaken)
        assert np.abs(with_ - without).max() <= 3
        assert number_of(to_bgr(renderer.render(Canvas.of(shaken[1]), Evaluation(shaken[1]).at(14)))) is not None

    def test_cut_in_two_by_a_standstill_and_closed_again(self, reel):
        document = reel(frames=30).document()
        item = document.project.ground[0].id
        drift = [Behaviour(kind="drift", settings={"amplitude": 12}, fade_in=6, fade_out=6)]
        document = ChangeGround(item=item, behaviours=drift).apply(document)
        edit = AddStandstill(at=12, frames=5)
        stands = edit.apply(document)
        before, after = Evaluation(document), Evaluation(stands)
        for frame in (0, 5, 12):
            assert after.at(frame).key == before.at(frame).key
        for frame in (13, 20, 29):
            assert after.at(frame + 5).key == before.at(frame).key
        closed = RemoveGround(items=[edit.item]).apply(stands)
        assert closed.project == document.project


class TestPushes:
    def test_the_ground_goes_from_window_to_window(self, reel):
        one = reel(frames=30)
        document, layer = held(one.document(), 10, MATTE)
        item = document.project.ground[0].id
        start, end = {"size": 1.0}, {"size": 0.5, "across": 0.1, "down": -0.1}
        pushed = SlowPush(of=[{"item": item}], start=start, end=end).apply(document)
        evaluation = Evaluation(pushed)
        first, last = (evaluation.framing_at(pushed.project.ground[0], f) for f in (0, 29))
        assert (first.scale, first.across, first.down) == (1, 0, 0)
        assert (last.scale, last.across, last.down) == pytest.approx((2, -0.2, 0.2))
        # What was held lies in the picture as it was when it landed.
        assert evaluation.framing(pushed.layer(layer)) == evaluation.framing_at(pushed.project.ground[0], 10)

    def test_two_opposite_ones_in_one_go(self, reel):
        one = reel(frames=30)
        document, layer = held(one.document(), 10, MATTE)
        item = document.project.ground[0].id
        windows = {"start": {"size": 1.0}, "end": {"size": 0.8}}
        pushed = SlowPush(of=[{"item": item}, {"layer": layer, "opposite": True}], **windows).apply(document)
        sizes = [Evaluation(pushed).keyed(pushed.layer(layer)).number("scale", f) for f in (10, 29)]
        assert sizes == pytest.approx([1.25, 1])
        assert np.abs(at(pushed, layer, 29)[0] - np.eye(3)).max() < 1e-9


class TestGroups:
    def test_what_a_moving_group_does_its_members_do_themselves(self, made):  # noqa: F811
        document, ids = three(made)
        edit = MakeGroup(layers=ids)
        there = edit.apply(document)
        there = PutMove(layers=[edit.group], side="in", move={"kind": "unfold"}).apply(there)
        there = ChangeLayer(layer=edit.group, behaviours=[Behaviour(kind="sway")]).apply(there)
        there = SetValue(layer=ids[0], channel="shear", frame=5, value=[12]).apply(there)
        bare = Dissolve(group=edit.group).apply(there)
        one, other = Evaluation(there), Evaluation(bare)
        for frame in (3, 6, 9, 20, 39):
            for id_ in ids:
                first, second = there.layer(id_), bare.layer(id_)
                moved = one.within(first, frame) @ one.matrix(first, frame)
                shown = one.timeline.span(first)
                if shown.start <= frame < shown.end and abs(np.linalg.det(moved)) > 1e-3:
                    assert np.abs(moved - other.matrix(second, frame)).max() < 1e-4


class TestAsked:
    def test_curves_pass_through_their_keys_and_pace_is_their_slope(self, flown):
        document, layer = flown
        there = PutMove(layers=[layer], side="in", move={"kind": "settle"}).apply(document)
        motion = motion_of(Evaluation(there), there.layer(layer))
        scale = next(c for c in motion.curves if c.channel == "scale")
        values = {motion.first + n * motion.step: v[0] for n, v in enumerate(scale.amount)}
        assert (values[10], values[26]) == pytest.approx((1.1, 1.0))
        times = sorted(values)
        inner = [n for n, t in enumerate(times) if 12 < t < 24]
        for n in inner[::7]:
            slope = (values[times[n + 1]] - values[times[n - 1]]) / (2 * motion.step) * float(document.project.rate)
            assert scale.pace[n][0] == pytest.approx(slope, rel=0.08, abs=0.02)
        assert motion.path_first == 10
        assert len(motion.path) == 17
        assert [k.frame for k in motion.path_keys] == [10, 26]

    def test_each_move_is_shown_over_its_time(self, flown):
        document, layer = flown
        put = PutOn(kind="fade", settings={"lasts": 5})
        shown = {s.kind: s for s in rehearsal(document, document.layer(layer), "in", put).shown}
        assert shown["fade"].opacities == pytest.approx([0, 0, 0, 0.2, 0.4, 0.6, 0.8, 1, 1, 1, 1, 1])
        assert len(shown["drop"].matrices) == 12 + 7
        always = rehearsal(document, document.layer(layer), "always")
        assert {s.kind for s in always.shown} == set(BehaviourKind.family.all())

    def test_each_move_stands_on_a_frame_that_tells_of_it_framed_on_the_thing(self, flown):
        document, layer = flown
        own = document.layer(layer)
        posed = own.model_copy(update={"pose": own.pose.model_copy(update={"position": (40, -60), "scale": 0.5})})
        layers = [posed if x.id == layer else x for x in document.project.layers]
        document = document.model_copy(update={"project": document.project.model_copy(update={"layers": layers})})
        # What leaves stands on a frame in which it is under way, not where it was before.
        leaving = {s.kind: s for s in rehearsal(document, posed, "out").shown}
        assert all(s.matrices[s.still] != s.matrices[0] or s.opacities[s.still] < 1 for s in leaving.values())
        found = rehearsal(document, posed, "in")
        left, top, right, bottom = found.box
        width, height = found.home[2] - found.home[0], found.home[3] - found.home[1]
        assert (width, height) == pytest.approx(((right - left) / 2, (bottom - top) / 2))
        for one in found.shown:
            a, b, c, d, e, f = one.matrices[one.still]
            x, y = (left + right) / 2, (top + bottom) / 2
            at = a * x + c * y + e, b * x + d * y + f
            middle = (found.home[0] + found.home[2]) / 2, (found.home[1] + found.home[3]) / 2
            assert max(abs(at[0] - middle[0]), abs(at[1] - middle[1])) < 0.5 * max(width, height), one.kind
            assert one.opacities[one.still] >= 0.3, one.kind
            # It is not simply as it will be.
            assert one.matrices[one.still] != one.matrices[-1] or one.opacities[one.still] < 1, one.kind

    def test_an_edit_of_motion_makes_only_its_own_frames_stale(self, flown):
        document, layer = flown
        there = PutMove(layers=[layer], side="in", move={"kind": "drop"}).apply(document)
        assert affected(Evaluation(document), Evaluation(there)) == [(10, 40)]
        blurred = ChangePiece(blur=Blur(shutter=180)).apply(there)
        assert affected(Evaluation(there), Evaluation(blurred)) == [(0, 40)]


def test_before_its_first_key_a_layer_is_not_what_it_is_after_its_last(flown):
    document, layer = flown
    for frame, x in ((14, 0.0), (20, 40.0)):
        edit = SetValue(layer=layer, channel="position", frame=frame, value=[x, 0.0], key=True)
        document = edit.apply(document)
    evaluation = Evaluation(document)
    before, after = (evaluation.at(f).layers[0] for f in (12, 25))
    assert before.matrix != after.matrix
    assert after.matrix[2] == 40.0
