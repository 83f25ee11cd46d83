"""Pen paths: a curve through points, and what is drawn along one."""

import math
from collections.abc import Sequence
from typing import Annotated

import skia
from pydantic import Field

from ...piece.model.base import Number

Point = tuple[float, float]
Points = Annotated[
    list[tuple[Number, Number]],
    Field(min_length=2, max_length=400, title="Points", json_schema_extra={"format": "points", "keyable": False}),
]
"""Points of a pen path, in project pixels from the middle of the canvas."""


def through(points: Sequence[Point], smooth: bool, closed: bool = False) -> skia.Path:
    """A path through points, with corners there or smoothly.

    Smooth: the centripetal curve of Catmull and Rom (Yuksel, Schaefer, Keyser 2011), which makes no loops where points
    lie unevenly; each stretch of it is a cubic one.
    """
    path = skia.Path()
    own = [p for n, p in enumerate(points) if n == 0 or p != points[n - 1]]
    if closed and len(own) > 2 and own[0] == own[-1]:
        own.pop()
    if len(own) < 2:
        return path
    path.moveTo(*own[0])
    count = len(own)
    for n in range(count if closed else count - 1):
        a, b = own[n], own[(n + 1) % count]
        if not smooth or count < 3:
            path.lineTo(*b)
            continue
        before = own[n - 1] if n or closed else _beyond(b, a)
        after = own[(n + 2) % count] if n + 2 < count or closed else _beyond(a, b)
        path.cubicTo(*_handle(before, a, b), *_handle(after, b, a), *b)
    if closed:
        path.close()
    return path


def _beyond(one: Point, other: Point) -> Point:
    """As far beyond another point as one lies before it."""
    return 2 * other[0] - one[0], 2 * other[1] - one[1]


def _handle(before: Point, at: Point, towards: Point) -> Point:
    """The handle of a point towards the next one, given the one before."""
    d1, d2 = (max(_far(p, at), 1e-9) ** 0.5 for p in (before, towards))
    whole = 3 * d1 * (d1 + d2)
    x, y = (
        (d1 * d1 * towards[k] - d2 * d2 * before[k] + (2 * d1 * d1 + 3 * d1 * d2 + d2 * d2) * at[k]) / whole
        for k in (0, 1)
    )
    return x, y


def _far(one: Point, other: Point) -> float:
    return ((one[0] - other[0]) ** 2 + (one[1] - other[1]) ** 2) ** 0.5


class ArcLengthPath:
    """A path to put things along. A closed one goes round and round; an open one goes on straight beyond its ends."""

    def __init__(self, path: skia.Path) -> None:
        self._measure = skia.PathMeasure(path, False)
        self.length: float = self._measure.getLength()
        """How long it is."""
        self._closed = self._measure.isClosed()

    def matrix(self, far: float, down: float) -> skia.Matrix:
        """To a place so far along it and so far below it, turned as it runs there."""
        within = far % self.length if self._closed else min(max(far, 0.0), self.length)
        at, way = self._measure.getPosTan(within)
        beyond = 0.0 if self._closed else far - within
        matrix = skia.Matrix.Translate(at.x() + beyond * way.x(), at.y() + beyond * way.y())
        return matrix.preRotate(math.degrees(math.atan2(way.y(), way.x()))).preTranslate(0, down)
