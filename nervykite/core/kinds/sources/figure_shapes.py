"""Shapes that are figures: box, oval, polygon, star, ring, ticket, speech bubble."""

import math
from typing import Annotated, ClassVar, Literal

import skia
from pydantic import Field

from ...craft.finishing.setting_fields import degrees, hue, percent, px
from ...piece.model.base import Colour
from .inked import FILLED
from .shape import DrawnShape, High, StrokeShape, Wide, about, how_many, polygon, rounded

Round = Annotated[float, px("Round corners", 2000, usual=120)]


class BoxShape(DrawnShape):
    """A box, its corners sharp or round, upright or slanted."""

    kind: Literal["box"] = "box"
    title: ClassVar[str] = "Box"
    hint: ClassVar[str] = "A box, upright or slanted"
    rank: ClassVar[int] = 40

    wide: Wide = 420.0
    high: High = 150.0
    corners: Round = 0.0
    slant: Annotated[float, degrees("Slant", -70, 70)] = 0.0

    def figure(self) -> skia.Path:
        x, y = self.wide / 2, self.high / 2
        aside = y * math.tan(math.radians(self.slant))
        box = polygon([(aside - x, -y), (aside + x, -y), (x - aside, y), (-x - aside, y)])
        return rounded(box, min(self.corners, x, y))


class OvalShape(DrawnShape):
    """An oval or a circle."""

    kind: Literal["oval"] = "oval"
    title: ClassVar[str] = "Oval"
    hint: ClassVar[str] = "An oval or a circle"
    rank: ClassVar[int] = 41

    wide: Wide = 360.0
    high: High = 360.0

    def figure(self) -> skia.Path:
        return skia.Path.Oval(skia.Rect.MakeLTRB(-self.wide / 2, -self.high / 2, self.wide / 2, self.high / 2))


class PolygonShape(DrawnShape):
    """A figure of as many equal sides."""

    kind: Literal["polygon"] = "polygon"
    title: ClassVar[str] = "Polygon"
    hint: ClassVar[str] = "Three, five, six equal sides"
    rank: ClassVar[int] = 42

    wide: Wide = 360.0
    high: High = 360.0
    sides: Annotated[int, how_many("Sides", 3, 40)] = 6
    corners: Round = 0.0

    def figure(self) -> skia.Path:
        return rounded(polygon(about(self.sides, (self.wide / 2, self.high / 2))), self.corners)


class StarShape(DrawnShape):
    """A star, or a badge with many teeth."""

    kind: Literal["star"] = "star"
    title: ClassVar[str] = "Star"
    hint: ClassVar[str] = "A star, or a badge with many teeth"
    rank: ClassVar[int] = 43

    wide: Wide = 380.0
    high: High = 380.0
    tips: Annotated[int, how_many("Tips", 3, 80)] = 5
    inner: Annotated[float, percent("Inner", 0.05, 0.98)] = 0.45
    corners: Round = 0.0

    def figure(self) -> skia.Path:
        outer = about(self.tips, (self.wide / 2, self.high / 2))
        inner = about(self.tips, (self.inner * self.wide / 2, self.inner * self.high / 2), -90 + 180 / self.tips)
        return rounded(polygon([p for pair in zip(outer, inner, strict=True) for p in pair]), self.corners)


class RingShape(StrokeShape):
    """A ring, whole or dashed; drawn on it goes round."""

    kind: Literal["ring"] = "ring"
    title: ClassVar[str] = "Ring"
    hint: ClassVar[str] = "A ring that goes round as it is drawn"
    rank: ClassVar[int] = 44

    thick: Annotated[float, px("Thickness", 400, 0.5, step=0.5, usual=80)] = 26.0
    ends: Annotated[Literal["round", "flat", "square"], Field(title="Ends")] = "flat"
    wide: Wide = 420.0
    high: High = 420.0
    start: Annotated[float, degrees("Begins at", -360, 360)] = -90.0

    def course(self) -> skia.Path:
        x, y = (max(1.0, (v - self.thick) / 2) for v in (self.wide, self.high))
        path = skia.Path()
        path.arcTo(skia.Rect.MakeLTRB(-x, -y, x, y), self.start, 180, True)
        path.arcTo(skia.Rect.MakeLTRB(-x, -y, x, y), self.start + 180, 180, False)
        path.close()
        return path


class TicketShape(DrawnShape):
    """A ticket: round bites out of its edges, and a torn-off stub by a row of holes."""

    kind: Literal["ticket"] = "ticket"
    title: ClassVar[str] = "Ticket"
    hint: ClassVar[str] = "A ticket with bites out of its edges"
    rank: ClassVar[int] = 45

    wide: Wide = 520.0
    high: High = 200.0
    bite: Annotated[float, px("Bites", 200, 0, usual=80)] = 26.0
    stub: Annotated[float, percent("Stub at", 0, 1)] = 0.76
    holes: Annotated[int, how_many("Holes", 0, 60)] = 9

    def figure(self) -> skia.Path:
        x, y = self.wide / 2, self.high / 2
        across = self.wide * (self.stub - 0.5)
        taken = skia.Path()
        bite = min(self.bite, x, y)
        for u, v in ((-x, 0), (x, 0)) + (((across, -y), (across, y)) if 0 < self.stub < 1 else ()):
            taken.addCircle(u, v, bite)
        if 0 < self.stub < 1:
            room = self.high - 2 * bite
            hole = min(room / max(1, 3 * self.holes), 8.0)
            for n in range(self.holes):
                taken.addCircle(across, -room / 2 + room * (n + 0.5) / self.holes, hole)
        body = rounded(polygon([(-x, -y), (x, -y), (x, y), (-x, y)]), min(10.0, y))
        return skia.Op(body, taken, skia.PathOp.kDifference_PathOp)


class BubbleShape(DrawnShape):
    """A speech bubble: round, a box, jagged as a shout, or a cloud as a thought, with a tail towards who speaks."""

    kind: Literal["bubble"] = "bubble"
    title: ClassVar[str] = "Speech bubble"
    hint: ClassVar[str] = "Said, shouted or thought, with a tail"
    rank: ClassVar[int] = 46

    colour: Annotated[Colour, hue("Colour", when=FILLED)] = "#FFFFFF"
    line: Annotated[float, px("Line", 80, 0, step=0.5, usual=30)] = 6.0
    said: Annotated[
        Literal["spoken", "boxed", "shouted", "thought"],
        Field(title="It is"),
    ] = "spoken"
    wide: Wide = 460.0
    high: High = 240.0
    tail_towards: Annotated[float, degrees("Tail towards", -360, 360)] = 120.0
    tail: Annotated[float, px("Tail", 1000, 0, usual=300)] = 90.0

    def figure(self) -> skia.Path:
        x, y = self.wide / 2, self.high / 2
        turn = math.radians(self.tail_towards)
        c, s = math.cos(turn), math.sin(turn)
        edge = 1 / math.hypot(c / x, s / y)  # from the middle to the oval, that way
        found = self._body(x, y)
        if self.tail <= 0:
            return found
        tip = (edge + self.tail) * c, (edge + self.tail) * s
        if self.said == "thought":
            for n, size in enumerate((0.16, 0.1, 0.06)):
                far = edge + self.tail * (0.28 + 0.36 * n)
                found.addCircle(far * c, far * s, size * min(x, y) + 2)
            return found
        root = 0.24 * min(x, y)
        inside = 0.55 * edge
        bent = skia.Path()
        bent.moveTo(inside * c - root * s, inside * s + root * c)
        # Its two sides swing the same way, as a tail that is drawn in one go.
        for side in (1, -1):
            way = edge + 0.35 * self.tail
            mid = way * c + (side * 0.6 + 0.35) * root * -s, way * s + (side * 0.6 + 0.35) * root * c
            bent.quadTo(*mid, *(tip if side == 1 else (inside * c + root * s, inside * s - root * c)))
        bent.close()
        return skia.Op(found, bent, skia.PathOp.kUnion_PathOp)

    def _body(self, x: float, y: float) -> skia.Path:
        if self.said == "boxed":
            return rounded(polygon([(-x, -y), (x, -y), (x, y), (-x, y)]), 0.28 * min(x, y))
        if self.said == "shouted":
            teeth = 22
            outer, inner = about(teeth, (x, y)), about(teeth, (0.8 * x, 0.78 * y), -90 + 180 / teeth)
            # Every other tooth is shorter, so that it is no cog.
            uneven = [(u * k, v * k) for n, (u, v) in enumerate(outer) for k in (1.0 if n % 2 else 0.92,)]
            return polygon([p for pair in zip(uneven, inner, strict=True) for p in pair])
        oval = skia.Path.Oval(skia.Rect.MakeLTRB(-x, -y, x, y))
        if self.said == "spoken":
            return oval
        puffs = 9
        size = 0.9 * math.pi * (x + y) / 2 / puffs
        cloud = skia.Path.Oval(skia.Rect.MakeLTRB(-0.86 * x, -0.86 * y, 0.86 * x, 0.86 * y))
        for u, v in about(puffs, (max(1.0, x - size), max(1.0, y - size))):
            puff = skia.Path()
            puff.addCircle(u, v, size)
            cloud = skia.Op(cloud, puff, skia.PathOp.kUnion_PathOp)
        return cloud
