"""Backdrops: each the same again, at any size, moving as it says; and what defines some of them."""

import numpy as np
import pytest

from nervykite.core.change.edits import AddLayer, SetValue
from nervykite.core.draw.picture.affected import affected
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.picture.render import Renderer
from nervykite.core.kinds.sources.backdrop import Backdrop
from nervykite.core.kinds.sources.bursts import RaysBackdrop, SpeedLinesBackdrop
from nervykite.core.kinds.sources.figure_shapes import OvalShape
from nervykite.core.kinds.sources.patterns import (
    ChecksBackdrop,
    DotsBackdrop,
    GradientBackdrop,
    GridBackdrop,
    StripesBackdrop,
)
from nervykite.core.kinds.sources.sky_take import TakeSource
from nervykite.core.kinds.sources.splashes import BlotBackdrop, BrushBackdrop, TornPaperBackdrop
from nervykite.core.kinds.sources.worked import plane_of
from nervykite.core.piece.model import Source
from nervykite.core.see.footage.planes import to_bgr

KINDS = [k for k in Source.family.all().values() if issubclass(k, Backdrop)]
CANVAS = (360, 640)


def paint(backdrop: Backdrop, seconds: float = 0.0, scale: float = 1.0) -> np.ndarray:
    size = round(CANVAS[0] * scale), round(CANVAS[1] * scale)
    matrix = np.diag([scale, scale, 1.0])
    return backdrop.painted(plane_of(backdrop, matrix, (0, 0, *size), CANVAS), seconds, CANVAS)


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.title)
class TestAll:
    def test_the_same_again_and_premultiplied(self, kind):
        one, two = paint(kind()), paint(kind())
        assert np.array_equal(one, two)
        assert one.min() >= 0
        assert one[..., 3].max() <= 1
        assert (one[..., :3].max(-1) <= one[..., 3] + 1e-5).all()
        assert one[..., 3].max() > 0.99

    def test_at_half_size_it_looks_like_half_of_it(self, kind):
        whole, half = paint(kind()), paint(kind(), scale=0.5)
        mean = whole.reshape(320, 2, 180, 2, 4).mean((1, 3))
        assert np.abs(mean - half).mean() < 0.03

    def test_it_moves_if_it_says_so(self, kind):
        one, later = (paint(kind(), kind().beat(n) / 30) for n in (0, 15))
        assert (np.abs(one - later).max() > 0.05) == kind().moves

    def test_another_middle_is_another_place(self, kind):
        if kind is GradientBackdrop:
            kind = lambda **m: GradientBackdrop(way="radial", **m)  # noqa: E731
        one, two = paint(kind()), paint(kind(across=0.3, down=0.35))
        assert np.abs(one - two).max() > 0.1


class TestWhatDefinesThem:
    def test_rays_are_as_many_as_wide_and_turned_as_they_say(self):
        rays = RaysBackdrop(count=8, thick=0.5, first="#000000", last="#FFFFFF", speed=0)
        share = paint(rays)[..., 0]
        turn = np.linspace(0, 2 * np.pi, 2000, endpoint=False)
        around = share[(320 + 120 * np.sin(turn)).astype(int), (180 + 120 * np.cos(turn)).astype(int)] > 0.5
        assert (np.diff(around.astype(int)) == 1).sum() in (7, 8)
        assert around.mean() == pytest.approx(0.5, abs=0.02)
        turned = paint(rays.model_copy(update={"speed": 45.0}), 1.0)[..., 0]
        assert np.abs(turned - share).mean() < 0.01

    def test_stripes_checks_dots_and_lines_come_again(self):
        for backdrop, by in (
            (StripesBackdrop(angle=90, wide=40, speed=0), (0, 40)),
            (ChecksBackdrop(angle=0, wide=30), (60, 0)),
            (GridBackdrop(wide=50), (0, 50)),
            (DotsBackdrop(angle=0, apart=40, grows=0), (80, 0)),
        ):
            picture = paint(backdrop)
            down, across = by
            moved = np.roll(picture, (down, across), (0, 1))[down:, across:]
            assert np.abs(moved - picture[down:, across:]).max() < 0.02
            assert picture[..., :3].std() > 0.05

    def test_stripes_move_by_their_speed(self):
        stripes = StripesBackdrop(angle=0, wide=100, speed=50)
        one, two = paint(stripes), paint(stripes, 1.0)
        assert np.abs(two[50:] - one[:-50]).max() < 0.02

    def test_gradients_end_in_their_colours(self):
        linear = paint(GradientBackdrop(first="#FF0000", last="#0000FF", three=False))
        assert linear[0, 180, :3] == pytest.approx([1, 0, 0], abs=0.01)
        assert linear[-1, 180, :3] == pytest.approx([0, 0, 1], abs=0.01)
        radial = paint(GradientBackdrop(way="radial", first="#FF0000", last="#0000FF", three=False))
        assert radial[320, 180, :3] == pytest.approx([1, 0, 0], abs=0.01)
        conic = paint(GradientBackdrop(way="conic", three=False))
        # It closes without a seam.
        assert np.abs(np.diff(conic[:, :100], axis=0)).max() < 0.05

    def test_speed_lines_leave_the_middle_clear_and_change_every_so_many_frames(self):
        lines = SpeedLinesBackdrop(clear=100, uneven=0.2, last="#000000", filled=False, every=3)
        picture = paint(lines)
        y, x = np.mgrid[:640, :360]
        far = np.hypot(x - 180, y - 320)
        assert picture[far < 78, 3].max() == 0
        assert 0.1 < picture[far > 200, 3].mean() < 0.9
        assert [lines.beat(n) for n in range(7)] == [0, 0, 0, 1, 1, 1, 2]

    def test_a_blot_is_about_as_large_as_it_says(self):
        calm = paint(BlotBackdrop(wide=100, ragged=0, splashes=0, drops=0))[..., 3]
        assert calm.sum() == pytest.approx(np.pi * 100**2, rel=0.02)
        wild = paint(BlotBackdrop(wide=100, ragged=1, splashes=1))[..., 3]
        assert wild.sum() > calm.sum() * 0.9
        assert wild[320 - 170 : 320 + 170, 10:350].sum() > 0.9 * wild.sum()

    def test_torn_paper_is_a_strip_with_a_pale_rim(self):
        paper = paint(TornPaperBackdrop(angle=0, wide=200, first="#FF0000", last="#FFFFFF", grain=0))
        column = paper[:, 180]
        solid = np.flatnonzero(column[:, 3] > 0.99)
        assert len(solid) == pytest.approx(200, abs=60)
        assert column[solid[2], :3].min() > 0.9
        assert column[solid[len(solid) // 2], 1] < 0.05

    def test_a_brush_draws_as_far_as_it_has_come(self):
        drawn = [paint(BrushBackdrop(wide=300, high=80, progress=p))[..., 3].sum() for p in (0, 0.3, 0.6, 1)]
        assert drawn[0] == 0
        assert drawn == sorted(drawn)
        assert drawn[1] == pytest.approx(0.3 * drawn[3], rel=0.35)


class TestAsALayer:
    def test_it_covers_the_canvas_and_what_moves_is_another_sprite_each_frame(self, reel):
        made = reel(size=(320, 240))
        add = AddLayer(source=RaysBackdrop(first="#00FF00", last="#00FF00"), at=2)
        document = add.apply(made.document())
        renderer = Renderer(made.library())
        shown = to_bgr(renderer.render(Canvas.of(document), Evaluation(document).at(5))).astype(int)
        assert np.abs(shown - (0, 255, 0)).max() < 8
        digests = [Evaluation(document).at(f).layers[0].sprite.digest for f in (4, 5)]
        assert digests[0] != digests[1]
        again = [Evaluation(document).at(f).key for f in (5, 4)]
        assert again == [Evaluation(document).at(f).key for f in (5, 4)]

    def test_what_stands_still_is_one_sprite_and_keys_draw_it_on(self, reel):
        made = reel(size=(320, 240))
        add = AddLayer(source=BrushBackdrop(), at=2)
        document = add.apply(made.document())
        evaluation = Evaluation(document)
        assert evaluation.at(4).layers[0].sprite is evaluation.at(9).layers[0].sprite
        for frame, drawn in ((2, 0.0), (12, 1.0)):
            edit = SetValue(layer=add.layer, channel="source.progress", frame=frame, value=[drawn], key=True)
            document = edit.apply(document)
        renderer = Renderer(made.library())
        red = []
        for frame in (2, 7, 12):
            rgb = to_bgr(renderer.render(Canvas.of(document), Evaluation(document).at(frame)))[..., ::-1].astype(int)
            red.append(int((np.abs(rgb - (0xD6, 0x3F, 0x22)).max(-1) < 24).sum()))
        assert red[0] < red[1] < red[2]


class TestFollowing:
    def test_its_middle_goes_where_another_layer_goes(self, reel):
        made = reel(size=(320, 240), frames=40)
        spot = AddLayer(source=OvalShape(wide=40, high=40), at=2)
        document = spot.apply(made.document())
        blot = BlotBackdrop(wide=40, ragged=0, splashes=0, drops=0, last="#00FF00", follows=spot.layer)
        document = AddLayer(source=blot, at=2).apply(document)
        for frame, x in ((2, -100.0), (22, 100.0)):
            edit = SetValue(layer=spot.layer, channel="position", frame=frame, value=[x, 20.0], key=True)
            document = edit.apply(document)
        evaluation, renderer = Evaluation(document), Renderer(made.library())
        for frame in (2, 12, 22):
            rgb = to_bgr(renderer.render(Canvas.of(document), evaluation.at(frame)))[..., ::-1].astype(int)
            green = np.abs(rgb - (0, 255, 0)).max(-1) < 40
            x = evaluation.keyed(document.layer(spot.layer)).value("position", frame)[0]
            assert np.flatnonzero(green.any(0)).mean() == pytest.approx(160 + x, abs=1.5)
            assert np.flatnonzero(green.any(1)).mean() == pytest.approx(140, abs=1.5)

    def test_frames_change_with_what_it_follows(self, reel):
        made = reel(size=(320, 240), frames=40)
        spot = AddLayer(source=OvalShape(wide=40, high=40), at=2, frames=6)
        document = AddLayer(source=RaysBackdrop(follows=spot.layer, speed=0), at=2).apply(spot.apply(made.document()))
        moved = SetValue(layer=spot.layer, channel="position", frame=2, value=[50.0, 0.0], key=False).apply(document)
        changed = affected(Evaluation(document), Evaluation(moved))
        assert any(a <= 20 < b for a, b in changed)


def test_a_take_that_repeats_begins_anew(reel):
    made = reel(size=(320, 240), frames=20)
    document = made.document()
    shot = document.project.ground[0].source.shot
    for repeats, frames in ((True, [0, 7, 2, 9, 5]), (False, [0, 7, 9, 9, 9])):
        source = TakeSource(shot=shot, first=0, past=10, repeats=repeats)
        assert [source.shows(document, None, t) for t in (0, 7, 12, 19, 25)] == frames
