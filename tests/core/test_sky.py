"""Everything that can lie in the sky: groups, pictures, takes, colours; framing; several layers at once."""

from fractions import Fraction

import cv2
import numpy as np
import pytest

from nervykite.core.change.edits import (
    AddAsset,
    AddColour,
    AddLayer,
    AddPicture,
    AddShot,
    ArrangeLayers,
    BringBack,
    ChangeGround,
    ChangeLayer,
    ChangeMatte,
    Dissolve,
    DuplicateLayer,
    ExchangeGround,
    FrameByHand,
    HoldFrame,
    MakeGroup,
    MoveGround,
    MoveLayer,
    PasteLayers,
    RemoveAsset,
    RemoveGround,
    RemoveLayer,
    SetKey,
    SetPlate,
    SetTravel,
    SetValue,
    Several,
    clip_of,
)
from nervykite.core.common.errors import Refusal
from nervykite.core.draw.picture.bands import Bands
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.draws import GroupDraw
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.picture.render import Renderer
from nervykite.core.kinds.sources.image import ImageSource
from nervykite.core.kinds.sources.plain_colour import ColourSource
from nervykite.core.kinds.sources.sky_take import TakeSource
from nervykite.core.piece.model import Asset, Document, Framing, Key, Matte, Project
from nervykite.core.piece.timeline.timeline import Timeline
from nervykite.core.see.footage.library import Library
from nervykite.core.see.footage.planes import to_bgr
from nervykite.core.see.footage.still import drawn as drawn_svg
from nervykite.core.see.footage.still import read_still

from ..conftest import box, held
from ..media import number_of
from .test_ground import even, of, span

BADGE = "ab" * 32


@pytest.fixture
def made(reel, tmp_path):
    """A reel of 40 numbered frames, and a renderer over it that has a badge: half red, half clear, 60 × 40."""
    one = reel(frames=40)
    badge = np.zeros((40, 60, 4), np.uint8)
    badge[:, :30] = (0, 0, 255, 255)
    cv2.imwrite(str(tmp_path / "badge.png"), badge)
    plate = np.full((one.shot.height, one.shot.width, 3), (40, 200, 90), np.uint8)
    cv2.imwrite(str(tmp_path / "plate.png"), plate[..., ::-1])
    files = {**one.files, BADGE: tmp_path / "badge.png", "cd" * 32: tmp_path / "plate.png"}
    one.folder = tmp_path
    one.renderer = Renderer(Library(lambda name: files[name]))
    return one


def drawn(made, document: Document, frame: int) -> np.ndarray:
    """A frame as uint8 BGR, drawn anew."""
    return to_bgr(made.renderer.render(Canvas.of(document), Evaluation(document).at(frame)))


def with_badge(document: Document, **more) -> tuple[Document, str]:
    """The document with a badge on the shelf, and in the sky from its first frame."""
    asset = Asset(kind="picture", name="Badge", file=BADGE, width=60, height=40)
    document = AddAsset(asset=asset).apply(document)
    edit = AddLayer(source=ImageSource.of(document, asset.id), at=0, **more)
    return edit.apply(document), edit.layer


def three(made) -> tuple[Document, list[str]]:
    """Cutouts of three frames, over one another in part."""
    document, ids = made.document(), []
    for n, frame in enumerate((2, 5, 9)):
        matte = Matte(pieces=[box(30 + 25 * n, 40 + 10 * n, 90 + 25 * n, 120 + 10 * n)])
        document, id_ = held(document, frame, matte)
        ids.append(id_)
    return document, ids


class TestGroups:
    def test_making_one_changes_no_pixel(self, made):
        document, ids = three(made)
        grouped = MakeGroup(layers=ids[1:]).apply(document)
        assert [x.name for x in grouped.project.layers][-1] == "Group 1"
        for frame in (3, 7, 20):
            assert (drawn(made, document, frame) == drawn(made, grouped, frame)).all()

    def test_what_it_does_it_does_to_all_of_it(self, made):
        document, ids = three(made)
        edit = MakeGroup(layers=ids)
        moved = SetValue(layer=edit.group, channel="position", frame=0, value=[14, -6]).apply(edit.apply(document))
        singly = document
        for id_ in ids:
            singly = SetValue(layer=id_, channel="position", frame=0, value=[14, -6]).apply(singly)
        assert (drawn(made, moved, 20) == drawn(made, singly, 20)).all()

    def test_it_fades_as_one(self, made):
        """Where its members lie over one another nothing shines through from one to the other."""
        document, ids = three(made)
        edit = MakeGroup(layers=ids)
        whole = drawn(made, document, 20).astype(float)
        bare = drawn(made, made.document(), 20).astype(float)
        faded = SetValue(layer=edit.group, channel="opacity", frame=0, value=[0.5]).apply(edit.apply(document))
        (draw,) = Evaluation(faded).at(20).layers
        assert isinstance(draw, GroupDraw)
        assert np.abs(drawn(made, faded, 20) - (whole + bare) / 2).max() <= 3
        assert np.abs(drawn(made, faded, 20) - (whole + bare) / 2).mean() < 0.3

    @pytest.mark.parametrize("mode", ["multiply", "screen", "difference", "plus-lighter", "luminosity"])
    def test_it_blends_as_one(self, made, mode):
        document, ids = three(made)
        one = MakeGroup(layers=ids[:1])
        apart = ChangeLayer(layer=ids[0], blend=mode).apply(document)
        together = ChangeLayer(layer=one.group, blend=mode).apply(one.apply(document))
        order = [x.id for x in together.project.layers]
        assert order.index(one.group) == 1
        assert np.abs(drawn(made, apart, 4).astype(int) - drawn(made, together, 4)).max() <= 3

    def test_a_member_blends_with_what_lies_in_the_group_alone(self, made):
        document, ids = three(made)
        edit = MakeGroup(layers=ids[1:])
        document = ChangeLayer(layer=ids[2], blend="multiply").apply(edit.apply(document))
        document = SetValue(layer=edit.group, channel="opacity", frame=0, value=[0.999]).apply(document)
        alone = RemoveLayer(layer=ids[1]).apply(document)
        plain = ChangeLayer(layer=ids[2], blend="normal").apply(alone)
        # With nothing of the group below it there is nothing to multiply with.
        assert np.abs(drawn(made, alone, 20).astype(int) - drawn(made, plain, 20)).max() <= 2
        assert np.abs(drawn(made, document, 20).astype(int) - drawn(made, alone, 20)).max() > 20

    def test_its_span_is_that_of_its_members_until_it_is_trimmed(self, made):
        document, ids = three(made)
        edit = MakeGroup(layers=ids)
        document = edit.apply(document)
        assert span(document, edit.group)[:2] == (2, 40)
        shorter = ChangeLayer(layer=edit.group, since=8, until=30).apply(document)
        assert span(shorter, edit.group)[:2] == (8, 30)
        assert Evaluation(shorter).at(7).layers == ()
        assert len(Evaluation(shorter).at(8).layers) == 2
        assert span(ChangeLayer(layer=edit.group, clear=["until"]).apply(shorter), edit.group)[:2] == (2, 40)

    @pytest.mark.parametrize("keyed", [False, True])
    def test_dissolving_moves_no_pixel(self, made, keyed):
        document, ids = three(made)
        document = SetValue(layer=ids[0], channel="rotation", frame=10, value=[20.0], key=True).apply(document)
        document = SetValue(layer=ids[0], channel="position", frame=20, value=[9.0, 4.0], key=True).apply(document)
        inner = MakeGroup(layers=ids[:2])
        document = inner.apply(document)
        outer = MakeGroup(layers=[inner.group, ids[2]])
        document = outer.apply(document)
        values = {"position": [11.0, -7.0], "scale": [1.3], "rotation": [12.0]}
        for channel, value in values.items():
            for group in (inner.group, outer.group):
                edit = SetValue(layer=group, channel=channel, frame=12, value=value, key=keyed)
                document = edit.apply(document)
        if keyed:
            document = SetValue(layer=inner.group, channel="scale", frame=30, value=[0.7], key=True).apply(document)
        free = Dissolve(group=outer.group).apply(document)
        free = Dissolve(group=inner.group).apply(free)
        assert {x.id for x in free.project.layers} == set(ids)
        for frame in (6, 12, 18, 29, 35):
            difference = np.abs(drawn(made, document, frame).astype(int) - drawn(made, free, frame))
            assert difference.max() <= 4, frame
            assert difference.mean() < 0.05, frame

    def test_what_is_see_through_as_a_whole_cannot_be_dissolved(self, made):
        document, ids = three(made)
        edit = MakeGroup(layers=ids)
        faded = SetValue(layer=edit.group, channel="opacity", frame=0, value=[0.5]).apply(edit.apply(document))
        with pytest.raises(Refusal, match="100 %"):
            Dissolve(group=edit.group).apply(faded)

    def test_into_it_and_out_of_it(self, made):
        document, ids = three(made)
        edit = MakeGroup(layers=ids[:2])
        document = edit.apply(document)
        document = MoveLayer(layers=[ids[2]], to=0, group=edit.group).apply(document)
        inside = [x.id for x in document.project.layers if x.group == edit.group]
        assert inside == [ids[2], ids[0], ids[1]]
        out = MoveLayer(layers=[ids[0], ids[1]], to=5).apply(document)
        assert [x.group for x in out.project.layers if x.id in ids[:2]] == [None, None]
        with pytest.raises(Refusal, match="into itself"):
            MoveLayer(layers=[edit.group], to=0, group=edit.group).apply(document)
        with pytest.raises(Refusal, match="no group"):
            MoveLayer(layers=[ids[1]], to=0, group=ids[0]).apply(out)

    def test_it_is_copied_and_removed_with_all_that_is_in_it(self, made):
        document, ids = three(made)
        edit = MakeGroup(layers=ids)
        document = edit.apply(document)
        copy = DuplicateLayer(layer=edit.group)
        twice = copy.apply(document)
        assert len([x for x in twice.project.layers if x.group == copy.copy_id]) == 3
        assert len(RemoveLayer(layer=edit.group).apply(twice).project.layers) == 4
        assert RemoveLayer(layer=edit.group).apply(document).holds == {}
        locked = ChangeLayer(layer=edit.group, locked=True).apply(document)
        with pytest.raises(Refusal, match="Group 1 is locked"):
            SetValue(layer=ids[0], channel="scale", frame=0, value=[2.0]).apply(locked)

    def test_sliding_it_slides_what_lies_free_in_it(self, made):
        document, badge = with_badge(made.document(), frames=10)
        document, held_ = held(document, 5, Matte(pieces=[box(30, 40, 90, 120)]))
        edit = MakeGroup(layers=[badge, held_])
        document = ChangeLayer(layer=edit.group, slide=7).apply(edit.apply(document))
        assert span(document, badge)[:2] == (7, 17)
        assert span(document, held_)[0] == 5


class TestSolo:
    def test_what_is_alone_is_all_that_is_seen(self, made):
        document, ids = three(made)
        edit = MakeGroup(layers=ids[:2])
        document = edit.apply(document)
        alone = ChangeLayer(layer=ids[0], solo=True).apply(document)
        assert [d.layer for d in Evaluation(alone).at(20).layers] == [ids[0]]
        group = ChangeLayer(layer=edit.group, solo=True).apply(document)
        assert [d.layer for d in Evaluation(group).at(20).layers] == ids[:2]


class TestPictures:
    def test_alpha_and_own_size_are_kept(self, made):
        document, badge = with_badge(made.document())
        bare, frame = drawn(made, made.document(), 4), drawn(made, document, 4)
        differ = np.abs(frame.astype(int) - bare).max(2) > 90  # chroma, at half the size, reaches a pixel farther
        ys, xs = np.flatnonzero(differ.any(1)), np.flatnonzero(differ.any(0))
        h, w = bare.shape[:2]
        assert (xs[0], ys[0]) == (w // 2 - 30, h // 2 - 20)
        assert xs[-1] == w // 2 - 1  # the right half is clear
        assert ys[-1] == h // 2 + 19
        assert frame[h // 2, w // 2 - 15, 2] > 230

    def test_what_is_larger_than_the_canvas_is_seen_whole(self, made):
        document = made.document()
        asset = Asset(kind="picture", name="Wide", file=BADGE, width=6000, height=4000)
        document = AddAsset(asset=asset).apply(document)
        document = AddLayer(source=ImageSource.of(document, asset.id), at=0).apply(document)
        assert document.project.layers[0].framing.mode == "fit"

    def test_in_the_ground_it_lasts_as_long_as_it_is_told(self, made):
        document, _ = with_badge(made.document())
        (asset,) = document.assets
        document = AddPicture(asset=asset, frames=12).apply(document)
        assert Timeline(document).length == 52
        frame = drawn(made, document, 45)
        assert frame[frame.shape[0] // 2, 4, 2] > 230
        assert frame[frame.shape[0] // 2, -4].max() < 10

    def test_what_is_in_use_stays_on_the_shelf(self, made):
        document, badge = with_badge(made.document())
        (asset,) = document.assets
        with pytest.raises(Refusal, match="Badge is in use"):
            RemoveAsset(asset=asset).apply(document)
        assert RemoveAsset(asset=asset).apply(RemoveLayer(layer=badge).apply(document)).assets == {}

    def test_a_picture_that_is_not_on_the_shelf_is_refused(self, made):
        document, _ = with_badge(made.document())
        forged = ImageSource(asset="0" * 16, file=BADGE, width=60, height=40)
        with pytest.raises(Refusal, match="shelf"):
            AddLayer(source=forged, at=0).apply(document)


class TestTakes:
    def take(self, made, **more) -> tuple[Document, str]:
        document = made.document()
        (shot,) = document.shots
        source = TakeSource(shot=shot, first=0, past=40, **more)
        edit = AddLayer(source=source, at=10)
        return edit.apply(document), edit.layer

    def number(self, made, document, frame):
        return number_of(made.renderer.render(Canvas.of(document), Evaluation(document).at(frame)).y)

    def test_it_plays_in_its_own_time(self, made):
        document, id_ = self.take(made)
        assert span(document, id_)[:2] == (10, 40)
        assert [self.number(made, document, f) for f in (9, 10, 15, 39)] == [9, 0, 5, 29]
        fast, _ = self.take(made, speed=200)
        assert [self.number(made, fast, f) for f in (10, 15, 29)] == [0, 10, 38]

    def test_it_freezes_at_a_moment_of_its_own_and_goes_on(self, made):
        document, id_ = self.take(made, freezes=5, rests=8)
        assert [self.number(made, document, f) for f in (14, 15, 16, 23, 24)] == [4, 5, 5, 5, 6]
        plain, id_ = self.take(made)
        source = plain.layer(id_).source.model_copy(update={"freezes": 5})
        for_good = ChangeLayer(layer=id_, source=source).apply(plain)
        assert {self.number(made, for_good, f) for f in range(15, 20)} == {5}
        with pytest.raises(Refusal, match="that it plays"):
            self.take(made, freezes=41)

    def test_within_a_still_shape_only_that_is_seen(self, made):
        document, hold = held(made.document(), 3, Matte(pieces=[box(40, 40, 100, 120)]))
        hold_id = document.layer(hold).source.hold
        (shot,) = document.shots
        edit = AddLayer(source=TakeSource(shot=shot, first=20, past=40, hold=hold_id), at=10)
        document = edit.apply(document)
        document = ChangeLayer(layer=hold, visible=False).apply(document)
        frame, live = drawn(made, document, 12), drawn(made, made.document(), 12)
        other = drawn(made, made.document(), 22)
        assert (frame[60:100, 50:90] == other[60:100, 50:90]).all()
        assert (frame[:30] == live[:30]).all()
        # The hold stays as long as the take needs it.
        assert hold_id in RemoveLayer(layer=hold).apply(document).holds

    def test_it_needs_footage_to_fly_over(self):
        with pytest.raises(Refusal, match="ground"):
            AddLayer(source=ColourSource(), at=0).apply(Document(project=Project(name="Empty")))


class TestEmptied:
    def test_the_plate_is_where_the_subject_was_in_the_light_of_that_frame(self, made):
        document, id_ = held(made.document(), 6, Matte(pieces=[box(50, 60, 100, 130)]))
        hold = document.layer(id_).source.hold
        document = SetPlate(hold=hold, plate="cd" * 32).apply(document)
        document = ChangeLayer(layer=id_, visible=False).apply(document)
        (item,) = document.project.ground
        emptied = ChangeGround(item=item.id, source=item.source.model_copy(update={"emptied": hold})).apply(document)
        # The plate: a flat patch in the place of the subject, a fifth darker than it is in that frame.
        before = drawn(made, document, 6)
        plate = before.copy()
        plate[50:140, 40:110] = 150
        cv2.imwrite(str(made.folder / "plate.png"), (plate * 0.8).astype(np.uint8))
        after = drawn(made, emptied, 6)
        assert np.abs(after[75:115, 65:85].astype(int) - 150).mean() < 12
        assert np.abs(before[75:115, 65:85].astype(int) - 150).mean() > 25
        assert (before[:, 130:] == after[:, 130:]).all()
        assert (drawn(made, document, 20) == drawn(made, emptied, 20)).all()  # its matte does not travel there
        # Another shot in its place has nobody of that hold to be emptied of.
        other = made.shot.model_copy(update={"id": "f" * 16, "name": "Other"})
        two = AddShot(shot=other).apply(emptied)
        assert ExchangeGround(item=item.id, shot=other.id).apply(two).project.ground[0].source.emptied is None
        with pytest.raises(Refusal, match="no plate"):
            bare = SetPlate(hold=hold, plate=None).apply(document)
            ChangeGround(item=item.id, source=item.source.model_copy(update={"emptied": hold})).apply(bare)


class TestFraming:
    def test_by_hand_it_lies_where_it_was_put(self, made):
        document = made.document()
        (item,) = document.project.ground
        bare = drawn(made, document, 8)
        moved = FrameByHand(item=item.id, across=20, down=-10).apply(document)
        h, w = bare.shape[:2]
        assert (drawn(made, moved, 8)[: h - 12, 22:] == bare[10:-2, 2 : w - 20]).all()
        assert drawn(made, moved, 8)[:, :18].max() < 4  # the background
        back = FrameByHand(item=item.id, across=-20, down=10).apply(moved)
        assert (drawn(made, back, 8) == bare).all()

    def test_mirrored_left_is_right(self, made):
        document = made.document()
        (item,) = document.project.ground
        mirrored = ChangeGround(item=item.id, framing=Framing(mirrored=True)).apply(document)
        bare, turned = drawn(made, document, 8).astype(int), drawn(made, mirrored, 8)
        assert np.abs(bare[:, ::-1] - turned).mean() < 2.5

    def test_turned_by_a_quarter_up_is_right(self, made):
        document = made.document()
        (item,) = document.project.ground
        turned = ChangeGround(item=item.id, framing=Framing(mode="hand", turn=90.0, scale=0.5)).apply(document)
        point = np.array([100.0, 20.0])
        from nervykite.core.see.footage.framing_matrix import fit_matrix

        size = item.source.size(document)
        matrix = fit_matrix(size, size, document.project.ground[0].framing)
        by_hand = fit_matrix(size, size, turned.project.ground[0].framing)
        centre = np.array(size) / 2
        away = (matrix @ [*point, 1])[:2] - centre
        assert (by_hand @ [*point, 1])[:2] - centre == pytest.approx([-away[1] / 2, away[0] / 2])

    @pytest.mark.parametrize(
        "framing",
        [
            Framing(mode="hand", across=0.11, down=-0.07, scale=1.31),
            Framing(mode="hand", scale=0.6, turn=17.0),
            Framing(mirrored=True),
            Framing(mode="hand", scale=1.7, turn=-33.0, mirrored=True, across=0.2),
        ],
        ids=["moved", "turned", "mirrored", "all"],
    )
    def test_a_cutout_over_its_own_frame_changes_nothing_however_that_lies(self, made, framing):
        document, id_ = held(made.document(), 6, Matte(pieces=[box(40.3, 50.7, 120, 140)], soften_out=6))
        (item,) = document.project.ground
        document = ChangeGround(item=item.id, framing=framing).apply(document)
        bare = ChangeLayer(layer=id_, visible=False).apply(document)
        one = made.renderer.render(Canvas.of(document), Evaluation(document).at(6))
        other = made.renderer.render(Canvas.of(bare), Evaluation(bare).at(6))
        assert len(Evaluation(document).at(6).layers) == 1
        for a, b in ((one.y, other.y), (one.u, other.u), (one.v, other.v)):
            assert np.abs(a.astype(int) - b).max() <= 1


class TestFree:
    def two(self) -> tuple[Document, list[str]]:
        document = of(even(40, Fraction(30)))
        document = AddShot(shot=even(30, Fraction(30))).apply(document)
        return document, [g.id for g in document.project.ground]

    def test_it_goes_along_with_what_it_begins_over(self):
        document, (first, second) = self.two()
        edit = AddLayer(source=ColourSource(), at=50, frames=10)
        document = edit.apply(document)
        assert span(document, edit.layer)[:2] == (50, 60)
        shorter = ChangeGround(item=first, past=25).apply(document)
        assert span(shorter, edit.layer)[:2] == (35, 45)
        swapped = MoveGround(item=second, to=0).apply(document)
        assert span(swapped, edit.layer)[:2] == (10, 20)
        gone = RemoveGround(items=[first]).apply(document)
        assert span(gone, edit.layer)[:2] == (10, 20)
        other = RemoveGround(items=[second]).apply(document)
        assert span(other, edit.layer) is not None  # it is not lost with the take it was over

    def test_ends_and_slides_stay_within_the_piece(self):
        document, _ = self.two()
        edit = AddLayer(source=ColourSource(), at=50, frames=10)
        document = edit.apply(document)
        late = ChangeLayer(layer=edit.layer, slide=500).apply(document)
        assert span(late, edit.layer)[:2] == (60, 70)
        early = ChangeLayer(layer=edit.layer, slide=-500).apply(document)
        assert span(early, edit.layer)[:2] == (0, 10)
        with pytest.raises(Refusal, match="within the ground"):
            ChangeLayer(layer=edit.layer, since=64).apply(document)

    def test_a_cutout_that_comes_to_lie_free_stays_where_it_was(self):
        document, (first, _) = self.two()
        edit = HoldFrame(item=first, frame=12)
        document = ChangeLayer(layer=edit.layer, until=30).apply(edit.apply(document))
        free = ChangeLayer(layer=edit.layer, arrangement="free").apply(document)
        assert span(free, edit.layer) == (12, 30, 12)
        earlier = ChangeLayer(layer=edit.layer, since=5).apply(free)
        assert span(earlier, edit.layer) == (5, 30, 12)  # its moment stays its moment
        all_of_it = ChangeLayer(layer=edit.layer, clear=["until"]).apply(free)
        assert span(all_of_it, edit.layer)[:2] == (0, 70)

    def test_pictures_have_no_moment_to_go_by(self):
        document, _ = self.two()
        edit = AddLayer(source=ColourSource(), at=5)
        with pytest.raises(Refusal, match="lies free"):
            ChangeLayer(layer=edit.layer, arrangement="trail").apply(edit.apply(document))


class TestSeveral:
    def five(self) -> tuple[Document, list[str]]:
        document = of(even(90, Fraction(30)))
        (item,) = document.project.ground
        ids = []
        for frame in (10, 16, 22, 28, 34):
            edit = HoldFrame(item=item.id, frame=frame)
            document = edit.apply(document)
            ids.append(edit.layer)
        return document, ids

    def test_leave_these_five_behind(self):
        document, ids = self.five()
        edit = ArrangeLayers(layers=ids[::-1], arrangement="trail", lasts=20, together=True, steps=True)
        document = edit.apply(document)
        assert [span(document, x)[:2] for x in ids] == [(n, 54) for n in (10, 16, 22, 28, 34)]
        assert [document.layer(x).pose.opacity for x in ids] == [0.2, 0.4, 0.6, 0.8, 1.0]

    def test_each_lasts_as_long_by_itself(self):
        document, ids = self.five()
        document = ArrangeLayers(layers=ids, arrangement="trail", lasts=20).apply(document)
        assert [span(document, x)[:2] for x in ids] == [(n, n + 20) for n in (10, 16, 22, 28, 34)]

    def test_these_five_wait_and_the_last_is_the_faintest(self):
        document, ids = self.five()
        document = ArrangeLayers(layers=ids, arrangement="ahead", lasts=8, together=True, steps=True).apply(document)
        assert [span(document, x)[:2] for x in ids] == [(2, n) for n in (10, 16, 22, 28, 34)]
        assert [document.layer(x).pose.opacity for x in ids] == [1.0, 0.8, 0.6, 0.4, 0.2]

    def test_one_step_of_several_or_none(self):
        document, ids = self.five()
        edit = Several(edits=[ChangeLayer(layer=x, tag="ghosts") for x in ids])
        assert edit.title(document) == "tag Cutout 1 ghosts and 4 more"
        assert {x.tag for x in edit.apply(document).project.layers} == {"ghosts"}
        with pytest.raises(Refusal):
            Several(edits=[RemoveLayer(layer=ids[0]), RemoveLayer(layer=ids[0])]).apply(document)


class TestWaiting:
    def test_what_was_trimmed_away_waits_and_can_be_brought_back(self):
        document = of(even(60, Fraction(30)))
        (item,) = document.project.ground
        edit = HoldFrame(item=item.id, frame=40)
        document = SetKey(layer=edit.layer, key=Key(channel="scale", tie="landing", offset=3, value=[2.0])).apply(
            edit.apply(document)
        )
        trimmed = ChangeGround(item=item.id, past=30).apply(document)
        assert span(trimmed, edit.layer) is None
        assert trimmed.layer(edit.layer) == document.layer(edit.layer)  # nothing of it is lost
        back = BringBack(layer=edit.layer).apply(trimmed)
        assert span(back, edit.layer)[0] == 40
        assert Timeline(back).length == 41

    def test_it_goes_over_another_take_that_shows_its_frame(self):
        document = of(even(60, Fraction(30)))
        (item,) = document.project.ground
        edit = HoldFrame(item=item.id, frame=40)
        document = edit.apply(document)
        from nervykite.core.change.edits import AddGround

        (shot,) = document.shots
        second = AddGround(shot=shot)
        document = ChangeGround(item=item.id, past=30).apply(second.apply(document))
        back = BringBack(layer=edit.layer).apply(document)
        assert back.layer(edit.layer).over == second.item
        assert span(back, edit.layer)[0] == 70


class TestPaste:
    def test_within_the_piece_it_shares_its_hold(self, made):
        document, ids = three(made)
        document = PasteLayers(clip=clip_of(document, ids[:1]), at=30).apply(document)
        copy = document.project.layers[-1]
        assert copy.source.hold == document.layer(ids[0]).source.hold
        assert span(document, copy.id) == span(document, ids[0])

    def test_into_another_piece_footage_mattes_and_pictures_come_along(self, made):
        document, ids = three(made)
        document, badge = with_badge(document, frames=9)
        group = MakeGroup(layers=[ids[0], badge])
        document = group.apply(document)
        clip = clip_of(document, [group.group])
        other = AddColour(source=ColourSource(lasting=50)).apply(Document(project=Project(name="Other")))
        there = PasteLayers(clip=clip, at=20).apply(other)
        copies = {x.name: x for x in there.project.layers}
        assert copies["Cutout 1"].group == copies["Badge"].group == copies["Group 1"].id
        assert set(there.shots) == set(document.shots)
        (hold,) = there.holds.values()
        assert hold.matte.pieces[0].nodes == document.holds[document.layer(ids[0]).source.hold].matte.pieces[0].nodes
        assert hold.id not in document.holds
        assert [a.file for a in there.assets.values()] == [BADGE]
        assert copies["Cutout 1"].arrangement.kind == "free"
        # The badge began first, two frames before the cutout: so they do here.
        assert span(there, copies["Badge"].id)[:2] == (20, 29)
        assert span(there, copies["Cutout 1"].id)[0] == 22
        frame = to_bgr(made.renderer.render(Canvas.of(there), Evaluation(there).at(24)))
        assert frame.std() > 5

    def test_where_its_footage_lies_it_hangs_over_that(self, made):
        document, ids = three(made)
        clip = clip_of(document, ids[:1])
        other = AddShot(shot=made.shot).apply(Document(project=Project(name="Other")))
        there = PasteLayers(clip=clip, at=30).apply(other)
        (copy,) = there.project.layers
        assert copy.over == there.project.ground[0].id
        assert span(there, copy.id)[0] == 2


def test_a_colour_covers_what_its_framing_says(made):
    document = made.document()
    edit = AddLayer(source=ColourSource(colour="#ff0000"), at=0)
    document = ChangeLayer(layer=edit.layer, framing=Framing(mode="hand", scale=0.5)).apply(edit.apply(document))
    frame = drawn(made, document, 3)
    h, w = frame.shape[:2]
    assert frame[h // 2, w // 2, 2] > 240
    bare = drawn(made, made.document(), 3)
    assert (frame[: h // 4 - 4] == bare[: h // 4 - 4]).all()


class TestDrawings:
    """Pictures without pixels of their own, and what is no use as one."""

    def svg(self, head: str, body: str = '<rect width="50" height="20" fill="#ff0000"/>') -> bytes:
        return f'<svg xmlns="http://www.w3.org/2000/svg" {head}>{body}</svg>'.encode()

    @pytest.mark.parametrize(
        ("head", "size"),
        [
            ('viewBox="0 0 100 50"', (2048, 1024)),
            ('width="60" height="120"', (1024, 2048)),
            ('width="100%" height="100%" viewBox="0 0 100 50"', (2048, 1024)),
        ],
    )
    def test_they_get_their_own_shape(self, head, size):
        assert drawn_svg(self.svg(head), "badge").shape == (size[1], size[0], 4)

    @pytest.mark.parametrize(
        ("body", "why"),
        [
            ("", "nothing to see"),
            ('<g id="a"><use href="#a"/></g>', "uses itself"),
            ("<g>" * 80 + "</g>" * 80, "deep"),
            ("<rect/>" * 6000, "more than 5000 elements"),
        ],
    )
    def test_what_cannot_be_drawn_says_why(self, body, why):
        with pytest.raises(Refusal, match=why):
            drawn_svg(self.svg('viewBox="0 0 9 9"', body), "badge")

    def test_a_view_box_that_is_none_is_refused(self):
        with pytest.raises(Refusal, match="nothing to see"):
            drawn_svg(self.svg('viewBox="0 0 inf 5"'), "badge")

    def test_what_doubles_itself_again_and_again_is_not_drawn(self):
        levels = "".join(
            f'<g id="n{n}"><use href="#n{n - 1}"/><use href="#n{n - 1}"/></g>' if n else '<g id="n0"><rect/></g>'
            for n in range(20)
        )
        with pytest.raises(Refusal, match="elements"):
            drawn_svg(self.svg('viewBox="0 0 9 9"', levels), "badge")

    def test_photographs_are_upright_and_opaque(self, tmp_path):
        picture = np.zeros((40, 60, 3), np.uint8)
        picture[:, :30, 2] = 255
        for name in ("photo.jpg", "photo.webp", "photo.png"):
            cv2.imwrite(str(tmp_path / name), picture)
            read = read_still(tmp_path / name, name)
            assert read.shape == (40, 60, 4)
            assert read[20, 10, 0] > 240
            assert (read[..., 3] == 255).all()
        grey = np.full((8, 8), 40_000, np.uint16)
        cv2.imwrite(str(tmp_path / "deep.png"), grey)
        assert read_still(tmp_path / "deep.png", "deep.png")[0, 0].tolist() == [156, 156, 156, 255]


def test_a_cutout_that_rests_in_its_own_way_is_not_taken_for_the_footage(made):
    """Only over its own frame has it the colours as filmed; elsewhere its edge is cleaned of the old background."""
    document, id_ = held(made.document(), 6, Matte(pieces=[box(40, 50, 120, 140)], fringe=0.8))
    at_home = Evaluation(document).at(6).layers[0]
    framed = ChangeLayer(layer=id_, framing=Framing(mode="hand", across=0.2)).apply(document)
    elsewhere = Evaluation(framed).at(6).layers[0]
    assert at_home.sprite.picture.matte.fringe == 0
    assert elsewhere.sprite.picture.matte.fringe == 0.8
    # The plate stays where she was lifted from.
    document = SetPlate(hold=document.layer(id_).source.hold, plate="cd" * 32).apply(framed)
    source = document.layer(id_).source.model_copy(update={"fill": True})
    behind, _ = Evaluation(ChangeLayer(layer=id_, source=source).apply(document)).at(6).layers
    assert behind.sprite.framing == document.project.ground[0].framing


def test_a_take_within_a_matte_that_travels_shows_that_of_its_frame(made):
    document, id_ = held(made.document(), 3, Matte(pieces=[box(20, 40, 60, 90)]))
    hold = document.layer(id_).source.hold
    (shot,) = document.shots
    document = SetTravel(hold=hold, range=(3, 6)).apply(document)
    moved = Matte(pieces=[box(80, 40, 120, 90)])
    document = ChangeMatte(hold=hold, matte=moved, frame=4).apply(document)
    take = TakeSource(shot=shot, first=3, past=10, hold=hold, shape="travels")
    edit = AddLayer(source=take, at=20)
    document = ChangeLayer(layer=id_, visible=False).apply(edit.apply(document))
    bare = {n: drawn(made, made.document(), n) for n in (20, 21, 23, 4)}
    first = drawn(made, document, 20)[50:80, 30:50].astype(int)
    assert np.abs(first - drawn(made, made.document(), 3)[50:80, 30:50]).max() < 2
    second = drawn(made, document, 21)
    assert (second[50:80, 90:110] == bare[4][50:80, 90:110]).all()
    assert (second[50:80, 25:50] == bare[21][50:80, 25:50]).all()
    assert (drawn(made, document, 23) == bare[23]).all()  # so far it has not travelled


def test_a_whole_frame_needs_no_matte(made):
    document, id_ = held(made.document(), 20)
    source = document.layer(id_).source
    document = ChangeLayer(layer=id_, source=source.model_copy(update={"whole": True})).apply(document)
    document = ChangeMatte(hold=source.hold, matte=Matte()).apply(document)
    shown = drawn(made, document, 30)
    assert np.abs(shown.astype(int) - drawn(made, made.document(), 20)).max() <= 1


class TestGlass:
    """A group that is put together by itself, against the standard's formulas worked out in plain NumPy."""

    @staticmethod
    def over(glass, rgba, opacity, blended=lambda b, s: s):
        """The standard's formula for a premultiplied source onto an isolated group."""
        source = rgba * opacity
        cover, under = source[..., 3:], glass[..., 3:]
        s = source[..., :3] / np.maximum(cover, 1e-6)
        b = glass[..., :3] / np.maximum(under, 1e-6)
        colour = (1 - under) * source[..., :3] + under * cover * blended(b, s) + (1 - cover) * glass[..., :3]
        return np.concatenate([colour, cover + under * (1 - cover)], 2)

    @pytest.mark.parametrize("mode", ["normal", "multiply", "screen"])
    def test_onto_nothing_and_onto_each_other(self, mode):
        from concurrent.futures import ThreadPoolExecutor

        from nervykite.core.draw.picture.draw import PlacedSprite
        from nervykite.core.draw.picture.glass import On, lay, put_together
        from nervykite.core.draw.picture.sprite import pack_rgba
        from nervykite.core.see.footage.planes import from_rgb

        rng = np.random.default_rng(4)
        size = (64, 48)

        def flat(alpha: float) -> np.ndarray:
            """A patch of one colour, which chroma at half the size cannot blur."""
            rgba = np.zeros((48, 64, 4), np.float32)
            rgba[8:40, 8:56] = [*(rng.random(3) * alpha), alpha]
            return rgba

        first, second = flat(0.7), flat(0.4)
        blends = {"normal": lambda b, s: s, "multiply": lambda b, s: b * s, "screen": lambda b, s: b + s - b * s}
        sprites = [PlacedSprite(pack_rgba(0, 0, x), np.eye(3), o) for x, o in ((first, 1.0), (second, 0.8))]
        expected = self.over(self.over(np.zeros((48, 64, 4)), first, 1.0), second, 0.8, blends[mode])
        with ThreadPoolExecutor(2) as pool:
            for bands in (1, 2):
                glass = put_together([On(sprites[0]), On(sprites[1], mode)], size, Bands(bands, pool))
                whole = np.zeros((48, 64, 4))
                left, top, right, bottom = glass.box
                whole[top:bottom, left:right] = glass.rgba
                inside = np.s_[10:38, 10:54]
                assert np.abs(whole[inside] - expected[inside]).max() < 0.012
                # A glass onto a glass is as its sprites would be.
                alone = [put_together([On(x)], size) for x in sprites]
                again = put_together([On(alone[0]), On(alone[1], mode)], size, Bands(bands, pool))
                assert np.abs(again.rgba - glass.rgba).max() < 1e-4
            backdrop = np.full((48, 64, 3), [0.2, 0.5, 0.7], np.float32)
            planes = from_rgb(backdrop)
            lay(planes, glass, 0.5, "normal", Bands(2, pool))
            flat_over = self.over(np.dstack([backdrop, np.ones((48, 64))]), expected, 0.5)[..., :3]
            shown = to_bgr(planes)[..., ::-1] / 255
            assert np.abs(shown[inside] - flat_over[inside]).max() < 0.02
