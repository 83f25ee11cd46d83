"""Shapes: figures and strokes as large as they say, drawn on as far as they say; letters along paths."""

import math

import numpy as np
import pytest
import skia

from nervykite.core.change.edits import AddLayer, SetValue
from nervykite.core.common.errors import Refusal
from nervykite.core.craft.lettering.contour import contour
from nervykite.core.craft.lettering.curve import ArcLengthPath, through
from nervykite.core.craft.lettering.layout import Typesetting, laid
from nervykite.core.craft.lettering.paint import painted
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.picture.render import Renderer
from nervykite.core.kinds.sources.figure_shapes import (
    BoxShape,
    BubbleShape,
    OvalShape,
    PolygonShape,
    RingShape,
    StarShape,
    TicketShape,
)
from nervykite.core.kinds.sources.shape import DrawnShape, StrokeShape, length_of, part, stroked
from nervykite.core.kinds.sources.stroke_shapes import ArrowShape, BrushStrokeShape, PenShape, UnderlineShape
from nervykite.core.piece.model import Source
from nervykite.core.see.footage.planes import to_bgr

KINDS = [k for k in Source.family.all().values() if issubclass(k, DrawnShape)]
SIZE = 700


def paint(shape: DrawnShape) -> np.ndarray:
    """A shape on a square, premultiplied."""
    matrix = np.array([[1, 0, SIZE / 2], [0, 1, SIZE / 2], [0, 0, 1]])
    return painted(shape.now(), shape.look, matrix, (0, 0, SIZE, SIZE))


def covered(shape: DrawnShape) -> float:
    """How many pixels it covers."""
    return float(paint(shape)[..., 3].sum())


def extent(shape: DrawnShape) -> tuple[float, float]:
    """How wide and how high it is."""
    left, top, right, bottom = shape.outlines().box
    return right - left, bottom - top


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.title)
class TestAll:
    def test_it_is_drawn_on_from_nothing_to_all_of_it(self, kind):
        drawn = [covered(kind(progress=p)) for p in (0.0, 0.25, 0.5, 1.0)]
        assert drawn[0] == 0
        assert 0 < drawn[1] < drawn[2] <= drawn[3]
        assert drawn[3] == covered(kind())

    def test_it_is_the_same_again_and_lies_about_its_middle(self, kind):
        assert np.array_equal(paint(kind()), paint(kind()))
        left, top, right, bottom = kind().outlines().box
        wide, high = extent(kind())
        assert abs(left + right) < 0.3 * wide
        assert kind is BubbleShape or abs(top + bottom) < 0.6 * high

    def test_lines_go_around_it_and_hollow_it_is_lines_alone(self, kind):
        lined = kind(line=10, line_colour="#00FF00")
        green = paint(lined)
        assert covered(lined) > covered(kind(line=0)) + 100
        hollow = paint(lined.model_copy(update={"filled": "hollow"}))
        solid = paint(kind(line=0))[..., 3] > 0.99
        assert hollow[solid][..., 3].max() < 0.02
        assert (green[..., 3] >= hollow[..., 3] - 1e-4).all()


class TestFigures:
    def test_they_are_as_large_as_they_say(self):
        for shape in (BoxShape, OvalShape, StarShape, TicketShape, RingShape):
            one = shape(wide=300, high=200) if shape is not StarShape else StarShape(wide=300, high=200, tips=4)
            assert extent(one) == pytest.approx((300, 200), abs=1.5), shape
        assert covered(BoxShape(wide=300, high=200)) == pytest.approx(60_000, rel=1e-3)
        assert covered(OvalShape(wide=300, high=200)) == pytest.approx(math.pi * 150 * 100, rel=2e-3)
        six = PolygonShape(wide=200, high=200, sides=6)
        assert covered(six) == pytest.approx(3 * math.sqrt(3) / 2 * 100**2, rel=2e-3)

    def test_corners_are_rounded_and_boxes_slant(self):
        square, soft = BoxShape(wide=200, high=200), BoxShape(wide=200, high=200, corners=40)
        assert 0.5 * (4 - math.pi) * 40**2 < covered(square) - covered(soft) < 2 * (4 - math.pi) * 40**2
        slanted = BoxShape(wide=200, high=100, slant=45)
        assert covered(slanted) == pytest.approx(20_000, rel=1e-2)
        assert extent(slanted)[0] == pytest.approx(300, abs=1)

    def test_a_ring_goes_round_as_it_is_drawn(self):
        quarter = paint(RingShape(wide=400, high=400, thick=40, start=-90, progress=0.25))[..., 3]
        middle = SIZE // 2
        assert quarter[:middle, middle:].sum() > 0.97 * quarter.sum()
        assert quarter.sum() == pytest.approx(math.pi * (200**2 - 160**2) / 4, rel=0.02)

    def test_a_ticket_has_bites_and_holes(self):
        whole = TicketShape(bite=0, holes=0, stub=0.0)
        bitten = TicketShape(bite=30, holes=0, stub=0.7)
        assert covered(whole) - covered(bitten) == pytest.approx(4 * math.pi * 30**2 / 2, rel=0.05)
        assert covered(TicketShape(bite=30, holes=9, stub=0.7)) < covered(bitten) - 200

    def test_a_bubbles_tail_points_where_it_says(self):
        for said in ("spoken", "boxed", "shouted", "thought"):
            plain, tailed = (paint(BubbleShape(said=said, tail=t, tail_towards=0, line=0))[..., 3] for t in (0, 120))
            more = np.argwhere(tailed - plain > 0.5)
            assert len(more) > 100, said
            assert more[:, 1].mean() > SIZE / 2 + 200
            assert abs(more[:, 0].mean() - SIZE / 2) < 30


class TestStrokes:
    def test_part_of_a_path_is_that_much_of_its_length(self):
        path = skia.Path()
        path.moveTo(0, 0)
        path.lineTo(100, 0)
        path.moveTo(0, 50)
        path.lineTo(300, 50)
        assert sum(length_of(part(path, 0.5))) == pytest.approx(200)
        assert len(length_of(part(path, 0.2))) == 1

    def test_thickness_ends_and_dashes(self):
        line = through([(-100, 0), (100, 0)], smooth=False)
        bounds = {e: stroked(line, 20, e).computeTightBounds() for e in ("flat", "square", "round")}
        assert bounds["flat"].width() == pytest.approx(200, abs=0.1)
        assert bounds["square"].width() == pytest.approx(220, abs=0.1)
        assert bounds["round"].height() == pytest.approx(20, abs=0.1)
        dashed = PenShape(points=[(-200, 0), (200, 0)], thick=10, dashes=30, ends="flat")
        assert covered(dashed) < 0.8 * covered(dashed.model_copy(update={"dashes": 0.0}))

    def test_an_arrows_head_is_at_the_end_of_what_is_drawn(self):
        arrow = ArrowShape(long=400, bend=0, thick=20)
        for share in (0.5, 1.0):
            alpha = paint(arrow.model_copy(update={"progress": share}))[..., 3]
            columns = np.flatnonzero(alpha.sum(0) > 0.5)
            assert columns[-1] == pytest.approx(SIZE / 2 - 200 + 400 * share, abs=4)
            # Widest at its head.
            assert int(np.argmax(alpha.sum(0))) > columns[-1] - 100

    def test_underlines_are_as_long_as_they_say_in_each_way(self):
        for way in ("straight", "wave", "zigzag", "by hand"):
            assert extent(UnderlineShape(way=way, long=400, thick=10))[0] == pytest.approx(410, abs=14), way
        ways = [paint(UnderlineShape(seed=n))[..., 3] for n in (1, 2)]
        assert np.abs(ways[0] - ways[1]).max() > 0.5

    def test_a_brush_runs_dry_and_has_as_many_ways_as_chance_has(self):
        wet, dry = (covered(BrushStrokeShape(dry=d)) for d in (0.0, 1.0))
        assert dry < 0.93 * wet
        assert not np.array_equal(paint(BrushStrokeShape(seed=1)), paint(BrushStrokeShape(seed=2)))

    def test_a_closed_pen_path_is_a_line_or_filled_in(self):
        corners = [(-100, -100), (100, -100), (100, 100), (-100, 100)]
        closed = PenShape(points=corners, smooth=False, closed=True, solid=True)
        assert covered(closed) == pytest.approx(40_000, rel=1e-3)
        line = closed.model_copy(update={"solid": False, "thick": 10.0, "joins": "pointed"})
        assert covered(line) == pytest.approx(210**2 - 190**2, rel=1e-2)
        assert isinstance(closed, StrokeShape)
        with pytest.raises(Refusal, match="two points"):
            PenShape(points=[(5, 5), (5, 5)]).checked(None)


class TestCurves:
    def test_a_smooth_path_goes_through_its_points_and_makes_no_loops(self):
        points = [(0.0, 0.0), (100.0, 0.0), (104.0, 6.0), (100.0, 200.0)]
        path = through(points, smooth=True)
        measure = skia.PathMeasure(path, False)
        along = [measure.getPosTan(d)[0] for d in np.linspace(0, measure.getLength(), 4000)]
        for x, y in points:
            assert min(math.hypot(p.x() - x, p.y() - y) for p in along) < 0.2
        # A uniform curve would swing far beyond the two points that lie close together.
        assert max(p.x() for p in along) < 112

    def test_along_goes_on_straight_beyond_an_open_path_and_round_a_closed_one(self):
        line = ArcLengthPath(through([(0, 0), (100, 0)], smooth=False))
        beyond = line.matrix(150, 10).mapPoints([skia.Point(0, 0)])[0]
        assert (beyond.x(), beyond.y()) == pytest.approx((150, 10))
        square = ArcLengthPath(through([(0, 0), (100, 0), (100, 100), (0, 100)], smooth=False, closed=True))
        assert square.length == pytest.approx(400)
        again = [square.matrix(d, 0).mapPoints([skia.Point(0, 0)])[0] for d in (30, 430)]
        assert again[0].x() == pytest.approx(again[1].x())

    def test_letters_stand_on_their_path(self):
        circle = tuple((200 * math.cos(a), 200 * math.sin(a)) for a in np.linspace(-math.pi, math.pi, 25)[:-1])
        words = laid(Typesetting("IIIIIIIIII", "anton", size=40, shape="along", points=circle, closed=True))
        for letter in words.letters:
            box = letter.path.computeTightBounds()
            nearest = min(
                math.hypot(x, y) for x in (box.left(), box.right()) for y in (box.top(), box.bottom())
            )  # fmt: skip
            assert math.hypot(*letter.middle) == pytest.approx(200 + 0.5 * 40 * 0.86, abs=4)
            assert nearest > 190
        turned = laid(
            Typesetting("IIIIIIIIII", "anton", size=40, shape="along", points=circle, closed=True, shift=0.25)
        )
        assert turned.letters[0].middle != words.letters[0].middle

    def test_a_contour_runs_at_its_distance_clockwise_from_below(self):
        cover = np.zeros((300, 300), np.float32)
        cover[120:200, 100:180] = 1
        points = contour(cover, 20)
        far = [
            math.hypot(max(100 - x, 0, x - 180), max(120 - y, 0, y - 200)) for x, y in points
        ]  # fmt: skip
        assert min(far) > 17
        assert max(far) < 24
        assert points[0][1] > 210
        area = sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(points, [*points[1:], points[0]], strict=True)) / 2
        assert area > 0  # clockwise on screen
        assert contour(np.zeros((20, 20), np.float32), 4) == []


class TestAsALayer:
    def test_it_is_drawn_on_by_keys_and_then_is_one_sprite(self, reel):
        made = reel(size=(320, 240))
        add = AddLayer(source=BoxShape(wide=160, high=90, colour="#00FF00"), at=2)
        document = add.apply(made.document())
        for frame, drawn in ((2, 0.0), (12, 1.0)):
            edit = SetValue(layer=add.layer, channel="source.progress", frame=frame, value=[drawn], key=True)
            document = edit.apply(document)
        evaluation, renderer = Evaluation(document), Renderer(made.library())
        assert evaluation.at(2).layers == ()
        green = []
        for frame in (5, 12):
            rgb = to_bgr(renderer.render(Canvas.of(document), evaluation.at(frame)))[..., ::-1].astype(int)
            green.append(int((np.abs(rgb - (0, 255, 0)).max(-1) < 24).sum()))
        assert green[0] < green[1] == pytest.approx(160 * 90, rel=0.06)
        assert evaluation.at(12).layers[0].sprite.digest == evaluation.at(20).layers[0].sprite.digest
