"""The world behind a layer: washes that come and go, the frame without its subject, pushes against each other."""

import cv2
import numpy as np
import pytest

from nervykite.core.change.edits import AddCard, AddLayer, AddStandstill, ChangeMatte, MoveLayer, PutWorld, SetPlate
from nervykite.core.common.errors import Refusal
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.picture.render import Renderer
from nervykite.core.kinds.sources.hold import HoldSource
from nervykite.core.piece.model import Matte
from nervykite.core.piece.model.base import new_id
from nervykite.core.piece.timeline.timeline import Timeline
from nervykite.core.see.footage.planes import to_bgr

from ..conftest import box
from .test_sky import made  # noqa: F401

MATTE = Matte(pieces=[box(50, 60, 100, 130)])


@pytest.fixture
def stands(made):  # noqa: F811
    """Everything stands at frame 6 for twenty frames under a cutout; with a plate behind it."""
    layer = new_id()
    document = AddStandstill(at=6, frames=20, hold=True, layer=layer, rest=new_id()).apply(made.document())
    hold = document.layer(layer).source.hold
    document = ChangeMatte(hold=hold, matte=MATTE).apply(document)
    document = SetPlate(hold=hold, plate="cd" * 32).apply(document)
    plate = to_bgr(
        Renderer(made.library()).render(Canvas.of(made.document()), Evaluation(made.document()).at(6))
    ).copy()
    plate[50:140, 40:110] = 150
    cv2.imwrite(str(made.folder / "plate.png"), plate)
    made.files["cd" * 32] = made.folder / "plate.png"
    return made, document, layer


def shown(reel, document, frame: int) -> np.ndarray:
    return to_bgr(Renderer(reel.library()).render(Canvas.of(document), Evaluation(document).at(frame))).astype(int)


class TestWashes:
    @pytest.mark.parametrize("way", ["blurred", "darkened", "coloured"])
    def test_it_comes_and_goes_and_leaves_the_subject_alone(self, stands, way):
        reel, document, layer = stands
        put = PutWorld(layer=layer, way=way, strength=0.8)
        after = put.apply(document)
        span = Timeline(document).span(document.layer(layer))
        for frame in (span.start, span.end - 1):
            assert np.array_equal(shown(reel, after, frame), shown(reel, document, frame))
        middle = (span.start + span.end) // 2
        one, two = shown(reel, document, middle), shown(reel, after, middle)
        assert np.abs(one - two)[:, 110:].mean() > 2
        assert np.abs(one - two)[70:120, 60:90].max() <= 4
        order = [x.id for x in after.project.layers]
        assert order.index(put.made) == order.index(layer) - 1
        assert put.title(document) == f"put a {way} world behind {document.layer(layer).name}"

    @pytest.mark.parametrize("way", ["darkened", "empty", "moved"])
    def test_it_lies_below_the_card_and_the_logo_of_a_standstill(self, stands, way):
        _, document, layer = stands
        span = Timeline(document).span(document.layer(layer))
        where = {"x": 80, "y": 60, "wide": 80, "at": span.start, "frames": span.end - span.start}
        card = AddCard(card="strips", name="Mara", below=layer, **where)
        logo = AddLayer(source={"kind": "box"}, at=span.start, frames=5, above=None)
        early = AddLayer(source={"kind": "box"}, at=0, frames=span.end)
        for edit in (card, logo, early):
            document = edit.apply(document)
        # From the lowest: what was there before it stood, the logo, the card, the cutout.
        document = MoveLayer(layers=[early.layer], to=0).apply(document)
        document = MoveLayer(layers=[logo.layer], to=1).apply(document)
        put = PutWorld(layer=layer, way=way)
        order = [x.id for x in put.apply(document).project.layers if x.group is None]
        assert order == [early.layer, put.made, logo.layer, card.group, layer]

    def test_what_is_added_while_all_stands_is_there_for_as_long(self, stands):
        _, document, layer = stands
        span = Timeline(document).span(document.layer(layer))
        for at, frames, expected in (
            (span.start + 9, None, (span.start, span.end)),
            (span.start + 9, 4, (span.start + 9, span.start + 13)),
            (2, None, (2, Timeline(document).length)),
        ):
            add = AddLayer(source={"kind": "box"}, at=at, frames=frames)
            after = add.apply(document)
            there = Timeline(after).span(after.layer(add.layer))
            assert (there.start, there.end) == expected

    def test_in_two_frames_it_is_not_seen_and_does_no_harm(self, made):  # noqa: F811
        layer = new_id()
        document = AddStandstill(at=6, frames=2, hold=True, layer=layer, rest=new_id()).apply(made.document())
        after = PutWorld(layer=layer, way="darkened").apply(document)
        assert np.array_equal(shown(made, after, 6), shown(made, document, 6))


class TestHeld:
    def test_cut_out_it_is_the_frame_with_a_hole(self, stands):
        reel, document, layer = stands
        put = PutWorld(layer=layer, way="cut out")
        after = put.apply(document)
        around = after.layer(put.made)
        assert around.source.world
        (draw, _) = Evaluation(after).at(12).layers
        cover = Renderer(reel.library()).cover(Canvas.of(after, draft=True), [draw])
        assert cover[70:120, 60:90].max() < 0.02
        assert cover[:, 120:].min() > 0.98
        # Over its own frame nobody can tell.
        assert np.array_equal(shown(reel, after, 12), shown(reel, document, 12))

    def test_emptied_it_has_the_plate_in_the_subjects_place(self, stands):
        reel, document, layer = stands
        put = PutWorld(layer=layer, way="empty")
        after = put.apply(document)
        (draw, _) = Evaluation(after).at(12).layers
        renderer = Renderer(reel.library())
        cover = renderer.cover(Canvas.of(after, draft=True), [draw])
        assert cover.min() > 0.98
        alone = after.model_copy(
            update={"project": after.project.model_copy(update={"layers": [after.layer(put.made)]})}
        )
        empty, before = shown(reel, alone, 12), shown(reel, document, 12)
        assert np.abs(empty[75:115, 65:85] - 150).mean() < 16
        assert np.abs(before[75:115, 65:85] - 150).mean() > 25
        assert np.abs(empty - before)[:, 130:].max() <= 2

    def test_moved_world_and_subject_go_opposite_ways(self, stands):
        reel, document, layer = stands
        put = PutWorld(layer=layer, way="moved")
        after = put.apply(document)
        evaluation, span = Evaluation(after), Timeline(after).span(after.layer(layer))
        scales = {
            id_: [evaluation.keyed(after.layer(id_)).value("scale", f)[0] for f in (span.start, span.end - 1)]
            for id_ in (layer, put.made)
        }
        assert scales[layer][1] > scales[layer][0] + 0.03
        assert scales[put.made][1] < scales[put.made][0] - 0.03

    def test_it_says_what_is_missing(self, stands):
        reel, document, layer = stands
        hold = document.layer(layer).source.hold
        bare = SetPlate(hold=hold, plate=None).apply(document)
        for way in ("empty", "moved"):
            with pytest.raises(Refusal, match="no plate"):
                PutWorld(layer=layer, way=way).apply(bare)
        wash = PutWorld(layer=layer, way="blurred")
        with pytest.raises(Refusal, match="no cutout of a held frame"):
            PutWorld(layer=wash.made, way="cut out").apply(wash.apply(document))

    def test_uncarved_the_world_is_all_of_the_frame(self, made):  # noqa: F811
        layer = new_id()
        document = AddStandstill(at=6, frames=20, hold=True, layer=layer, rest=new_id()).apply(made.document())
        source = document.layer(layer).source.model_copy(update={"world": True})
        assert isinstance(source, HoldSource)
        assert source.picture(document, 6).digest.endswith(":6")
