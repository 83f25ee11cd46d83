"""Mattes from SVG: the filled area of all shapes of a document."""

import io
import xml.etree.ElementTree as tree

import numpy as np
from svgelements import SVG, Close, Line, Move, Path, Shape

from ..errors import Refusal
from .coverage import coverage_of

STEP = 0.02
"""How far, in pixels, a flattened curve may lie from the true one, about."""


def area(text: str, height: int, width: int) -> np.ndarray:
    """The share of each pixel of a frame that an SVG document fills: float32 (height, width), 0…1.

    User units are source pixels: sizes and the view box are left alone. Each shape is filled by its own rule
    (`fill-rule`, SVG 2, 13.4.2); shapes add up. Shapes with `fill="none"` count all the same: it is their area that
    is asked for. Raises Refusal if the text is no SVG or draws nothing.
    """
    try:
        root = tree.fromstring(text)
        for name in ("viewBox", "width", "height"):
            root.attrib.pop(name, None)
        document = SVG.parse(io.StringIO(tree.tostring(root, encoding="unicode")), reify=True)
        shapes = [Path(shape) for shape in document.elements() if isinstance(shape, Shape)]
    except (tree.ParseError, ValueError, TypeError, IndexError, AttributeError, ZeroDivisionError) as error:
        raise Refusal("This is not an SVG document with paths that can be read.") from error
    alpha = np.zeros((height, width), np.float32)
    for shape in shapes:
        rings = [r for r in (_flat(Path(part)) for part in shape.as_subpaths()) if len(r) > 2]
        if rings:
            even = (shape.values or {}).get("fill-rule") == "evenodd"
            np.maximum(alpha, _filled(rings, height, width, even), out=alpha)
    if not alpha.any():
        raise Refusal("The SVG document fills no pixel of the frame. Its user units have to be source pixels.")
    return alpha


def _filled(rings: list[np.ndarray], height: int, width: int, even_odd: bool) -> np.ndarray:
    if not even_odd:
        return coverage_of(rings, height, width)
    alpha = np.zeros((height, width), np.float32)
    for ring in rings:
        own = coverage_of([ring], height, width)
        alpha = alpha + own - 2 * alpha * own
    return alpha


def _flat(part: Path) -> np.ndarray:
    """A subpath as a polygon (n, 2)."""
    points: list[tuple[float, float]] = []
    for segment in part:
        if isinstance(segment, Move):
            points = [(segment.end.x, segment.end.y)]
        elif isinstance(segment, (Line, Close)):
            if segment.end is not None:
                points.append((segment.end.x, segment.end.y))
        else:
            length = segment.length(error=1e-2)
            steps = int(np.clip(np.sqrt(length / STEP) + 2, 4, 400))
            at = np.linspace(0, 1, steps + 1)[1:]
            points += [(p[0], p[1]) for p in segment.npoint(at)]
    return np.array(points, float).reshape(-1, 2)
