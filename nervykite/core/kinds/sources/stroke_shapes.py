"""Shapes that are strokes: an arrow, an underline, one stroke of a brush, a pen path."""

import functools
import math
from typing import Annotated, ClassVar, Literal

import numpy as np
import skia
from pydantic import Field

from ...common.errors import Refusal
from ...craft.finishing.setting_fields import Seed, degrees, hue, percent, px
from ...craft.lettering.curve import Points, through
from ...craft.lettering.layout import Laid
from ...piece.model import Document
from ...piece.model.base import Colour
from ...piece.model.source import Source
from .inked import FILLED
from .shape import DrawnShape, High, StrokeShape, Wide, alone, how_many, length_of, part, polygon, stroked

Thick = Annotated[float, px("Thickness", 400, 0.5, step=0.5, usual=80)]
RED = "#D63F22"


class ArrowShape(StrokeShape):
    """An arrow, straight or bent, its head at the end of as much as is drawn."""

    kind: Literal["arrow"] = "arrow"
    title: ClassVar[str] = "Arrow"
    hint: ClassVar[str] = "An arrow, straight or bent"
    rank: ClassVar[int] = 47

    colour: Annotated[Colour, hue("Colour", when=FILLED)] = RED
    thick: Thick = 22.0
    ends: Annotated[Literal["round", "flat", "square"], Field(title="Ends")] = "flat"
    long: Annotated[float, px("Length", 4000, 8, usual=900)] = 420.0
    bend: Annotated[float, degrees("Bend", -300, 300)] = 50.0
    head: Annotated[float, percent("Head", 1, 8)] = 3.2
    both: Annotated[bool, Field(title="Both ends")] = False

    def course(self) -> skia.Path:
        return arc(self.long, self.bend)

    def drawn_to(self, share: float) -> skia.Path:
        whole = self.course()
        drawn, size = part(whole, share), self.head * self.thick
        measure = skia.PathMeasure(drawn, False)
        length = measure.getLength()
        size = min(size, length)
        shaft = skia.Path()
        first = 0.8 * size if self.both else 0.0
        measure.getSegment(first, max(first, length - 0.8 * size), shaft, True)
        found = stroked(shaft, self.thick, self.ends, self.joins, self.dashes)
        for far, way in ((length, 1), (0.0, -1)) if self.both else ((length, 1),):
            at, along = measure.getPosTan(far)
            found = _with(found, _head(at, along * way, size))
        return found


class UnderlineShape(StrokeShape):
    """A line below words: straight, a wave, or drawn by hand and back again."""

    kind: Literal["underline"] = "underline"
    title: ClassVar[str] = "Underline"
    hint: ClassVar[str] = "A line below words, as drawn by hand"
    rank: ClassVar[int] = 48

    colour: Annotated[Colour, hue("Colour", when=FILLED)] = RED
    thick: Thick = 14.0
    long: Annotated[float, px("Length", 4000, 8, usual=900)] = 460.0
    way: Annotated[Literal["by hand", "straight", "wave", "zigzag"], Field(title="Goes")] = "by hand"
    rows: Annotated[int, how_many("Strokes", 1, 6)] = 2
    swing: Annotated[float, px("Swing", 200, 0, usual=60)] = 12.0
    seed: Seed = 1

    def course(self) -> skia.Path:
        rng = np.random.default_rng(self.seed)
        x, apart = self.long / 2, 1.9 * self.thick
        if self.way == "straight":
            return _rows([[(-x, n * apart), (x, n * apart)] for n in range(self.rows)], smooth=False)
        if self.way in ("wave", "zigzag"):
            steps = max(4, round(self.long / (2.2 * self.swing + self.thick)))
            along = np.linspace(-x, x, steps + 1)
            waves = [
                [(float(u), n * (apart + self.swing) + self.swing * (1 if k % 2 else -1)) for k, u in enumerate(along)]
                for n in range(self.rows)
            ]
            return _rows(waves, smooth=self.way == "wave")
        # There and back again in one go, each time a little shorter and never quite straight.
        points: list[tuple[float, float]] = []
        for n in range(self.rows):
            reach = x * (1 - 0.09 * n)
            lean = self.swing * rng.uniform(-0.5, 0.5)
            row = [
                (
                    reach * u,
                    n * apart + lean * u - self.swing * (1 - u * u) * 0.5 + self.swing * rng.uniform(-0.18, 0.18),
                )
                for u in (-1.0, -0.4, 0.3, 1.0)
            ]
            points.extend(row if n % 2 == 0 else row[::-1])
        return through(points, smooth=True)


class BrushStrokeShape(DrawnShape):
    """One stroke of a broad brush: bristles that set in and run dry unevenly, drawn on along its length."""

    kind: Literal["brush-stroke"] = "brush-stroke"
    title: ClassVar[str] = "Brush stroke"
    hint: ClassVar[str] = "One stroke of a broad brush"
    rank: ClassVar[int] = 49

    colour: Annotated[Colour, hue("Colour", when=FILLED)] = RED
    wide: Wide = 560.0
    high: High = 130.0
    bend: Annotated[float, degrees("Bend", -200, 200)] = 12.0
    dry: Annotated[float, percent("Runs dry")] = 0.5
    seed: Seed = 1

    def figure(self) -> skia.Path:
        return self._stroke(1.0)

    def now(self) -> Laid:
        return alone(self._stroke(self.progress))

    def _stroke(self, share: float) -> skia.Path:
        return _bristles(self.wide, self.high, self.bend, self.dry, self.seed, share)


class PenShape(StrokeShape):
    """A path drawn with the pen on the picture, open or closed; closed it may be filled in."""

    kind: Literal["pen-path"] = "pen-path"
    title: ClassVar[str] = "Pen path"
    hint: ClassVar[str] = "Drawn with the pen on the picture"
    rank: ClassVar[int] = 50

    colour: Annotated[Colour, hue("Colour", when=FILLED)] = RED
    thick: Thick = 18.0
    points: Points = [(-160.0, 40.0), (-60.0, -60.0), (60.0, 50.0), (160.0, -40.0)]
    smooth: Annotated[bool, Field(title="Smooth", json_schema_extra={"keyable": False})] = True
    closed: Annotated[bool, Field(title="Closed", json_schema_extra={"keyable": False})] = False
    solid: Annotated[
        bool, Field(title="Filled in", json_schema_extra={"keyable": False, "when": {"closed": [True]}})
    ] = False

    @property
    def penned(self) -> bool:
        return True

    def checked(self, document: Document) -> Source:
        if self.course().isEmpty():
            raise Refusal("A pen path needs two points or more. Draw a longer one.")
        return super().checked(document)

    def course(self) -> skia.Path:
        return through(self.points, self.smooth, self.closed)

    def figure(self) -> skia.Path:
        return self.course() if self.closed and self.solid else super().figure()

    def now(self) -> Laid:
        return alone(self.figure(), self.progress) if self.closed and self.solid else super().now()


def arc(length: float, bend: float) -> skia.Path:
    """A path from left to right about the middle, so long, that turns by so many degrees, upwards in the middle."""
    turn = math.radians(bend)
    if abs(turn) < 1e-3:
        return through([(-length / 2, 0), (length / 2, 0)], smooth=False)
    radius = length / turn
    steps = max(6, round(abs(bend) / 12))
    middle = radius * (1 - math.cos(turn / 2)) / 2
    angles = [turn * (n / steps - 0.5) for n in range(steps + 1)]
    return through([(radius * math.sin(a), radius * (1 - math.cos(a)) - middle) for a in angles], smooth=True)


def _rows(rows: list[list[tuple[float, float]]], smooth: bool) -> skia.Path:
    found = skia.Path()
    for row in rows:
        found.addPath(through(row, smooth))
    return found


def _head(at: skia.Point, along: skia.Point, size: float) -> skia.Path:
    x, y = at.x(), at.y()
    u, v = along.x(), along.y()
    back = x - size * u, y - size * v
    half = 0.52 * size
    return polygon([(x, y), (back[0] - half * v, back[1] + half * u), (back[0] + half * v, back[1] - half * u)])


def _with(path: skia.Path, other: skia.Path) -> skia.Path:
    try:
        return skia.Op(path, other, skia.PathOp.kUnion_PathOp)
    except RuntimeError:
        path.addPath(other)
        return path


@functools.lru_cache(64)
def _bristles(wide: float, high: float, bend: float, dry: float, seed: int, share: float) -> skia.Path:
    """The outline of what all bristles of a brush cover once so much of its stroke is drawn."""
    if share <= 0:
        return skia.Path()
    rng = np.random.default_rng(seed)
    count = int(np.clip(high / 4.5, 9, 60))
    course = arc(wide, bend)
    length = length_of(course)[0]
    builder = skia.OpBuilder()
    slope = rng.uniform(-0.04, 0.04, 2)
    for n in range(count):
        across = (n + 0.5) / count - 0.5
        rim = abs(2 * across) ** 3
        begins = length * max(0.0, 0.02 + slope[0] * across + rng.uniform(0, 0.035) + 0.04 * rim * rng.uniform())
        ends = length * (1 - rng.gamma(1.2, 0.055 * dry + 0.006) - 0.05 * rim * rng.uniform() - slope[1] * across)
        gap = length * rng.uniform(0.55, 0.95), length * rng.gamma(1.0, 0.05 * dry)
        gaps = rng.uniform() < 0.55 * dry
        thick = high / count * rng.uniform(1.05, 1.6)
        # Bristles do not come along evenly.
        come = length * (share - 0.06 * rng.uniform() * min(1.0, 4 * (1 - share)))
        for first, past in ((begins, min(ends, gap[0])), (gap[0] + gap[1], ends)) if gaps else ((begins, ends),):
            past = min(past, come)
            if past > first:
                builder.add(_bristle(course, first, past, across * high, thick), skia.PathOp.kUnion_PathOp)
    return builder.resolve()


def _bristle(course: skia.Path, first: float, past: float, aside: float, thick: float) -> skia.Path:
    """The outline of what one bristle covers, beside the course of the brush."""
    measure = skia.PathMeasure(course, False)
    line = []
    for far in np.linspace(first, past, max(3, int((past - first) / 40))):
        at, along = measure.getPosTan(float(far))
        line.append((at.x() - aside * along.y(), at.y() + aside * along.x()))
    return stroked(through(line, smooth=True), thick, "round")
