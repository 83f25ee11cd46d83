"""Shapes: figures and strokes, drawn by outlines as letters are, and drawn on."""

import math
from abc import abstractmethod
from typing import Annotated, Any, ClassVar, Literal

import skia
from pydantic import Field

from ...craft.finishing.setting_fields import hue, percent, px
from ...craft.lettering.layout import Laid, Letter, around
from ...piece.model import Document
from ...piece.model.base import Colour
from .inked import FILLED, Inked

Wide = Annotated[float, px("Width", 4000, 2, usual=900)]
High = Annotated[float, px("Height", 4000, 2, usual=900)]
Much = Annotated[float, percent("Drawn")]


def how_many(title: str, least: int, most: int, **more: Any) -> Any:
    """A whole number of things."""
    return Field(ge=least, le=most, title=title, json_schema_extra={"step": 1, **more})


class DrawnShape(Inked):
    """A figure about its middle, filled and with lines around it; `progress` is how much of it is drawn."""

    looks: ClassVar[str] = "shape"

    colour: Annotated[Colour, hue("Colour", when=FILLED)] = "#E0A11B"
    line: Annotated[float, px("Line", 80, 0, step=0.5, usual=30)] = 0.0
    progress: Much = 1.0

    @abstractmethod
    def figure(self) -> skia.Path:
        """Its outline."""

    def outlines(self) -> Laid:
        return alone(self.figure())

    def now(self) -> Laid:
        return alone(self.figure(), self.progress)

    def called(self, document: Document) -> str:
        return self.title


class StrokeShape(DrawnShape):
    """A stroke along a path, of one thickness or thinner towards its ends; drawn on from its first point."""

    groups: ClassVar[dict[str, tuple[str, ...]]] = {"Stroke": ("ends", "joins", "dashes"), **Inked.groups}

    thick: Annotated[float, px("Thickness", 400, 0.5, step=0.5, usual=80)] = 16.0
    ends: Annotated[Literal["round", "flat", "square"], Field(title="Ends")] = "round"
    joins: Annotated[Literal["round", "pointed", "cut off"], Field(title="Joins")] = "round"
    dashes: Annotated[float, px("Dashes", 400, 0, usual=100)] = 0.0

    @abstractmethod
    def course(self) -> skia.Path:
        """The path that it runs along."""

    def figure(self) -> skia.Path:
        return self.drawn_to(1.0)

    def now(self) -> Laid:
        return alone(self.drawn_to(self.progress)) if self.progress > 0 else alone(skia.Path())

    def drawn_to(self, share: float) -> skia.Path:
        """The outline of what it covers once so much of its length is drawn."""
        return stroked(part(self.course(), share), self.thick, self.ends, self.joins, self.dashes)


def part(path: skia.Path, share: float) -> skia.Path:
    """The first part of a path's length, over all of its contours."""
    if share >= 1:
        return path
    whole = sum(length_of(path))
    left, found = share * whole, skia.Path()
    measure = skia.PathMeasure(path, False)
    while left > 0:
        contour = skia.Path()
        measure.getSegment(0, min(left, measure.getLength()), contour, True)
        found.addPath(contour)
        left -= measure.getLength()
        if not measure.nextContour():
            break
    return found


def length_of(path: skia.Path) -> list[float]:
    """The length of each contour of a path."""
    measure = skia.PathMeasure(path, False)
    found = [measure.getLength()]
    while measure.nextContour():
        found.append(measure.getLength())
    return found


def stroked(path: skia.Path, thick: float, ends: str = "round", joins: str = "round", dashes: float = 0) -> skia.Path:
    """The outline of what a pen covers that goes along a path."""
    pen = skia.Paint(AntiAlias=True, Style=skia.Paint.kStroke_Style, StrokeWidth=thick)
    cap = {"round": skia.Paint.kRound_Cap, "flat": skia.Paint.kButt_Cap, "square": skia.Paint.kSquare_Cap}
    join = {"round": skia.Paint.kRound_Join, "pointed": skia.Paint.kMiter_Join, "cut off": skia.Paint.kBevel_Join}
    pen.setStrokeCap(cap[ends])
    pen.setStrokeJoin(join[joins])
    if dashes:
        # A dash is drawn its own length and its thickness apart, so that ends of any form leave room between.
        pen.setPathEffect(skia.DashPathEffect.Make([dashes, dashes * 0.7 + thick], 0))
    found = skia.Path()
    pen.getFillPath(path, found)
    # Where a stroke crosses itself it is one, so that lines go around it as a whole.
    try:
        return skia.Simplify(found)
    except RuntimeError:
        return found


def rounded(path: skia.Path, radius: float) -> skia.Path:
    """A path with its corners rounded."""
    if radius <= 0:
        return path
    found = skia.Path()
    paint = skia.Paint(Style=skia.Paint.kFill_Style)
    paint.setPathEffect(skia.CornerPathEffect.Make(radius))
    paint.getFillPath(path, found)
    return found


def polygon(points: list[tuple[float, float]]) -> skia.Path:
    """A closed path through corners."""
    path = skia.Path()
    path.addPoly([skia.Point(*p) for p in points], True)
    return path


def about(count: int, radius: tuple[float, float], turn: float = -90.0) -> list[tuple[float, float]]:
    """Places around the middle, evenly, the first one straight up."""
    angles = [math.radians(turn + 360 * n / count) for n in range(count)]
    return [(radius[0] * math.cos(a), radius[1] * math.sin(a)) for a in angles]


def alone(path: skia.Path, drawn: float = 1.0) -> Laid:
    """One outline, of which so much is drawn."""
    if path.isEmpty() or drawn <= 0:
        return Laid((), None)
    bounds = path.computeTightBounds()
    letters = (Letter(path, (bounds.centerX(), bounds.centerY()), 0, 0, 0, drawn=drawn),)
    return Laid(letters, around(letters))
