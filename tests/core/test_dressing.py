"""Dressing a piece: washes, groups, the ground, finishes put on others, palettes and sets."""

import numpy as np
import pytest

from nervykite.core.change.edits import (
    AddLayer,
    AddStandstill,
    ChangeGround,
    ChangeLayer,
    DressLike,
    KeepSet,
    MakeGroup,
    MoveLayer,
    PutSet,
    RemoveSet,
    SetPalette,
    SetValue,
)
from nervykite.core.common.errors import Refusal
from nervykite.core.draw.picture.affected import affected
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.picture.render import Renderer
from nervykite.core.kinds.sources.wash import WashSource
from nervykite.core.piece.model import Finish, Matte
from nervykite.core.see.footage.planes import to_bgr

from ..conftest import box, held

DARK = Finish(kind="tone", settings={"exposure": -6})
INVERT = Finish(kind="invert")


@pytest.fixture
def scene(reel):
    """A cutout of a box over numbered footage, from its sixth frame on; what draws it; the layer's id."""
    made = reel(size=(320, 240))
    document, layer = held(made.document(), 6, Matte(pieces=[box(40, 40, 140, 140)]))
    renderer = Renderer(made.library())

    def drawn(of, frame=10):
        return to_bgr(renderer.render(Canvas.of(of), Evaluation(of).at(frame)))[..., ::-1].astype(int)

    return document, layer, drawn


def with_wash(document, *finishes, at=0, frames=None, **where):
    edit = AddLayer(source=WashSource(**where), at=at, frames=frames)
    document = edit.apply(document)
    return ChangeLayer(layer=edit.layer, finishes=list(finishes)).apply(document), edit.layer


class TestWash:
    def test_it_works_on_all_that_lies_below_and_on_nothing_above(self, scene):
        document, layer, drawn = scene
        plain = drawn(document)
        washed, wash = with_wash(document, DARK)
        assert drawn(washed).max() < 60
        below = MoveLayer(layers=[wash], to=0).apply(washed)
        seen = drawn(below)
        assert np.abs(seen[60:120, 60:120] - plain[60:120, 60:120]).max() <= 1
        assert seen[160:, 160:].max() < 60

    def test_only_in_its_span_and_as_opaque_as_it_is(self, scene):
        document, _, drawn = scene
        plain = drawn(document)
        washed, wash = with_wash(document, INVERT, at=8, frames=6)
        assert np.array_equal(drawn(washed, 7), drawn(document, 7))
        assert np.array_equal(drawn(washed, 14), drawn(document, 14))
        half = SetValue(layer=wash, channel="opacity", frame=10, value=[0.5]).apply(washed)
        assert np.abs(drawn(half) - 127).max() <= 4
        assert np.abs(drawn(washed) - (255 - plain)).mean() < 4
        assert affected(Evaluation(document), Evaluation(washed)) == [(8, 14)]

    @pytest.mark.parametrize("shape", ["box", "oval"])
    def test_in_a_shape_or_outside_of_it(self, scene, shape):
        document, _, drawn = scene
        plain = drawn(document)
        where = {"where": shape, "wide": 100, "high": 80, "soft": 0}
        inside, wash = with_wash(document, DARK, **where)
        seen = drawn(inside)
        assert seen[110:130, 150:170].max() < 60
        assert np.array_equal(seen[:70], plain[:70])
        outside = drawn(ChangeLayer(layer=wash, source=WashSource(**where, outside=True)).apply(inside))
        assert np.array_equal(outside[110:130, 150:170], plain[110:130, 150:170])
        assert outside[:70].max() < 60
        moved = SetValue(layer=wash, channel="position", frame=10, value=[0, 100]).apply(inside)
        assert np.array_equal(drawn(moved)[110:130, 150:170], plain[110:130, 150:170])

    def test_its_shape_can_grow_by_keys(self, scene):
        document, _, drawn = scene
        washed, wash = with_wash(document, INVERT, where="box", wide=40, high=40, soft=0)
        for frame, wide in ((6, 40.0), (16, 300.0)):
            washed = SetValue(layer=wash, channel="source.wide", frame=frame, value=[wide], key=True).apply(washed)
        changed = [(np.abs(drawn(washed, f) - drawn(document, f)).max(-1) > 20)[120].sum() for f in (6, 16)]
        assert changed[0] < 60 < 200 < changed[1]

    def test_within_what_another_layer_covers_wherever_that_goes(self, scene):
        document, layer, drawn = scene
        plain = drawn(document)
        inside, wash = with_wash(document, DARK, where="cover", of=layer)
        seen = drawn(inside)
        assert seen[60:120, 60:120].max() < 60
        assert np.array_equal(seen[160:], plain[160:])
        moved = SetValue(layer=layer, channel="position", frame=10, value=[120, 0]).apply(inside)
        seen = drawn(moved)
        assert seen[60:120, 180:240].max() < 60
        world = WashSource(where="cover", of=layer, outside=True)
        outside = ChangeLayer(layer=wash, source=world).apply(inside)
        seen = drawn(outside)
        assert np.abs(seen[60:120, 60:120] - plain[60:120, 60:120]).max() <= 1
        assert seen[160:].max() < 60
        # While what it goes by is not there, there is no inside, and all is outside.
        assert np.array_equal(drawn(inside, 3), drawn(document, 3))
        assert drawn(outside, 3).max() < 60

    def test_in_a_group_it_works_on_the_group_alone(self, scene):
        document, layer, drawn = scene
        plain = drawn(document)
        washed, wash = with_wash(document, DARK)
        grouped = MakeGroup(layers=[layer, wash]).apply(washed)
        seen = drawn(grouped)
        assert seen[60:120, 60:120].max() < 60
        assert np.array_equal(seen[160:], plain[160:])
        blended = ChangeLayer(layer=wash, blend="screen").apply(grouped)
        assert np.abs(drawn(blended)[60:120, 60:120] - plain[60:120, 60:120]).max() <= 8

    def test_within_what_its_own_group_covers(self, scene):
        document, layer, drawn = scene
        washed, wash = with_wash(document, DARK)
        group = MakeGroup(layers=[layer, wash])
        own = WashSource(where="cover", of=group.group)
        grouped = ChangeLayer(layer=wash, source=own).apply(group.apply(washed))
        assert drawn(grouped)[60:120, 60:120].max() < 60

    def test_blended_and_without_finishes(self, scene):
        document, _, drawn = scene
        washed, wash = with_wash(document, Finish(kind="flat-colour", settings={"colour": "#808080"}))
        multiplied = ChangeLayer(layer=wash, blend="multiply").apply(washed)
        assert np.abs(drawn(multiplied) - drawn(document) * 128 / 255).max() <= 4
        bare = ChangeLayer(layer=wash, finishes=[]).apply(washed)
        assert np.array_equal(drawn(bare), drawn(document))
        with pytest.raises(Refusal, match="needs an edge"):
            ChangeLayer(layer=wash, finishes=[Finish(kind="outline")]).apply(washed)


class TestWhatWears:
    def test_a_group_wears_what_goes_around_all_of_it(self, scene):
        document, layer, drawn = scene
        group = MakeGroup(layers=[layer])
        document = group.apply(document)
        outline = Finish(kind="outline", settings={"width": 10, "colour": "#00FF00"})
        seen = drawn(ChangeLayer(layer=group.group, finishes=[outline]).apply(document))
        assert np.abs(seen[90, 34] - [0, 255, 0]).max() < 12
        assert np.abs(seen[90, 90] - drawn(document)[90, 90]).max() <= 2

    def test_the_ground_and_a_moving_setting(self, scene):
        document, _, drawn = scene
        item = document.project.ground[0].id
        grain = Finish(kind="grain", settings={"amount": 1, "boils": 2})
        dressed = ChangeGround(item=item, finishes=[grain]).apply(document)
        evaluation = Evaluation(dressed)
        keys = [evaluation.at(n).ground.digest for n in range(6)]
        assert len(set(keys)) == 6  # the footage moves
        moments = [evaluation.at(n).ground.finishes[0].moment for n in range(6)]
        assert moments == [0, 0, 1, 1, 2, 2]
        assert np.abs(drawn(dressed) - drawn(document)).mean() > 2
        assert np.array_equal(drawn(dressed), drawn(dressed))

    def test_a_ground_that_stands_still_is_dressed_once(self, scene, monkeypatch):
        from nervykite.core.kinds.finishes.tone import Invert

        document, _, drawn = scene
        made = []
        real = Invert.dress
        monkeypatch.setattr(Invert, "dress", lambda self, *a: made.append(1) or real(self, *a))
        stands = AddStandstill(at=12, frames=5).apply(document)
        item = next(g for g in stands.project.ground if g.source.kind == "standstill")
        dressed = ChangeGround(item=item.id, finishes=[INVERT]).apply(stands)
        for frame in (12, 13, 16):
            drawn(dressed, frame)
        assert len(made) == 1

    def test_what_stands_still_is_one_sprite_and_what_boils_is_another_each_time(self, scene):
        document, layer, _ = scene
        still = ChangeLayer(layer=layer, finishes=[Finish(kind="outline")]).apply(document)
        evaluation = Evaluation(still)
        assert len({evaluation.at(n).layers[0].sprite.digest for n in range(8, 20)}) == 1
        boiling = Finish(kind="outline", settings={"rough": 0.5, "boils": 4})
        evaluation = Evaluation(ChangeLayer(layer=layer, finishes=[boiling]).apply(document))
        assert len({evaluation.at(n).layers[0].sprite.digest for n in range(8, 20)}) == 4

    def test_on_its_last_frame_scattered_whatever_its_length(self, scene):
        document, layer, drawn = scene
        scatter = Finish(kind="scatter", settings={"strength": 0, "fade": 1, "distance": 30})
        document = ChangeLayer(layer=layer, finishes=[scatter]).apply(document)
        channel, end = f"{scatter.id}.strength", Evaluation(document).timeline.spans[layer].end
        for frame, value in ((6, 0.0), (end - 1, 1.0)):
            edit = SetValue(layer=layer, channel=channel, frame=frame, value=[value], key=True)
            document = edit.apply(document)
        assert [k.tie for k in document.layer(layer).keys] == ["landing", "end"]
        bare = ChangeLayer(layer=layer, visible=False)
        for piece in (document, ChangeLayer(layer=layer, until=15).apply(document)):
            last = Evaluation(piece).timeline.spans[layer].end - 1
            assert np.abs(drawn(piece, last) - drawn(bare.apply(piece), last)).mean() < 1
            assert np.abs(drawn(piece, 6) - drawn(bare.apply(piece), 6)).max() <= 1


class TestKept:
    def test_put_on_others_with_their_keys(self, scene):
        document, layer, _ = scene
        other_edit = AddLayer(source={"kind": "colour"}, at=0)
        document = other_edit.apply(document)
        line = Finish(kind="outline")
        document = ChangeLayer(layer=layer, finishes=[line]).apply(document)
        document = SetValue(layer=layer, channel=f"{line.id}.width", frame=8, value=[9], key=True).apply(document)
        like = DressLike(layer=layer, to=[other_edit.layer])
        dressed = like.apply(document).layer(other_edit.layer)
        assert [f.kind for f in dressed.finishes] == ["outline"]
        assert dressed.finishes[0].id != line.id
        assert dressed.keys[0].channel == f"{dressed.finishes[0].id}.width"
        with pytest.raises(Refusal, match="needs an edge"):
            DressLike(layer=layer, to=[document.project.ground[0].id]).apply(document)

    def test_a_palette(self, scene):
        document, _, _ = scene
        kept = SetPalette(colours=["#aabbcc", "#AABBCC", "#010203"]).apply(document)
        assert kept.project.palette == ["#AABBCC", "#010203"]
        assert affected(Evaluation(document), Evaluation(kept)) == []

    def test_a_set_is_kept_put_on_and_forgotten(self, scene):
        document, layer, _ = scene
        with pytest.raises(Refusal, match="no finishes on it to keep"):
            KeepSet(layer=layer, called="Poster").apply(document)
        document = ChangeLayer(layer=layer, finishes=[Finish(kind="ink"), Finish(kind="outline")]).apply(document)
        keep = KeepSet(layer=layer, called="Poster")
        document = keep.apply(document)
        again = KeepSet(layer=layer, called="Poster").apply(document)
        assert [s.name for s in again.project.sets] == ["Poster", "Poster 2"]
        put = PutSet(layer=layer, set=keep.set)
        assert put.title(document).startswith("put Poster on ")
        worn = put.apply(document).layer(layer).finishes
        assert [f.kind for f in worn] == ["ink", "outline", "ink", "outline"]
        assert len({f.id for f in worn}) == 4
        with pytest.raises(Refusal, match="needs an edge"):
            PutSet(item=document.project.ground[0].id, set=keep.set).apply(document)
        assert RemoveSet(set=keep.set).apply(document).project.sets == []
        with pytest.raises(Refusal, match="no longer there"):
            RemoveSet(set="f" * 16).apply(document)
