"""Mattes as SVG: the area that a document fills, its paths as pieces, and pieces as a document."""

import io
import xml.etree.ElementTree as tree
from typing import get_args

import numpy as np
from svgelements import SVG, Close, CubicBezier, Line, Move, Path, QuadraticBezier
from svgelements import Shape as Drawn

from ...common.errors import Refusal
from ...piece.model.matte import Combine, Node, Shape
from ..footage.svg_files import parsed
from .coverage import coverage_of
from .outline import MOST_NODES
from .pen_path import svg_path

MOST_PIECES = 400
"""How many pieces are read at most."""
FARTHEST = 1e5
"""How far away a point may lie, in pixels."""


STEP = 0.02
"""How far, in pixels, a flattened curve may lie from the true one, about."""


def area(text: str, height: int, width: int) -> np.ndarray:
    """The share of each pixel of a frame that an SVG document fills: float32 (height, width), 0…1.

    User units are source pixels: sizes and the view box are left alone. Each shape is filled by its own rule
    (`fill-rule`, SVG 2, 13.4.2); shapes add up. Shapes with `fill="none"` count all the same: it is their area that
    is asked for. Raises Refusal if the text is no SVG or draws nothing.
    """
    shapes = _shapes(text)
    alpha = np.zeros((height, width), np.float32)
    for shape in shapes:
        rings = [r for r in (_flat(Path(part)) for part in shape.as_subpaths()) if len(r) > 2]
        if rings:
            even = (shape.values or {}).get("fill-rule") == "evenodd"
            np.maximum(alpha, _filled(rings, height, width, even), out=alpha)
    if not alpha.any():
        raise Refusal("The SVG document fills no pixel of the frame. Its user units have to be source pixels.")
    return alpha


def _shapes(text: str) -> list[Path]:
    root = parsed(text)
    for name in ("viewBox", "width", "height"):
        root.attrib.pop(name, None)
    try:
        document = SVG.parse(io.StringIO(tree.tostring(root, encoding="unicode")), reify=True)
        found = [Path(shape) for shape in document.elements() if isinstance(shape, Drawn)]
        boxes = [box for path in found if (box := path.bbox()) is not None]
    except (tree.ParseError, ValueError, TypeError, LookupError, AttributeError, ArithmeticError, RecursionError) as e:
        raise Refusal("This is not an SVG document with paths that can be read. Save it again as plain paths.") from e
    if not all(np.isfinite(box).all() and np.abs(box).max() <= FARTHEST for box in boxes):
        raise Refusal(f"The SVG document has points {FARTHEST:,.0f} pixels away and more. Its units have to be pixels.")
    return found


def pieces(text: str) -> list[Shape]:
    """The paths of an SVG document as pen pieces: cubics stay what they are, everything else becomes them.

    User units are source pixels. `data-combine` says how a path joins the ones before it (add without it); of the
    other subpaths of a path, those that turn the other way are gaps. Raises Refusal if there is none, or too many.
    """
    found: list[Shape] = []
    for shape in _shapes(text):
        values = shape.values or {}
        combine = values.get("data-combine", "add")
        if combine not in get_args(Combine):
            combine = "add"
        name = " ".join(str(values.get("data-name") or values.get("id") or "").split())
        name = "".join(c for c in name if c.isprintable())[:120].strip() or f"Path {len(found) + 1}"
        shape.approximate_arcs_with_cubics()
        first_turn = 0.0
        for part in (Path(p) for p in shape.as_subpaths()):
            nodes = _nodes(part)
            if len(nodes) < 2:
                continue
            ring = np.array([(n.x, n.y) for n in nodes])
            x, y = ring.T
            turn = float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum())
            first_turn = first_turn or turn
            gap = turn * first_turn < 0 and combine == "add"
            if len(found) == MOST_PIECES:
                raise Refusal(f"The SVG document has more than {MOST_PIECES} paths. Keep only those of the matte.")
            found.append(Shape(name=name, nodes=nodes, combine="cut away" if gap else combine))
    if not found:
        raise Refusal("The SVG document holds no path. Its shapes have to be paths, in source pixels.")
    return found


def _nodes(part: Path) -> list[Node]:
    """A subpath as nodes; where it ends on its beginning, the two are one."""
    points: list[list] = []
    for segment in part:
        if isinstance(segment, Move):
            points.append([segment.end, None, None])
        elif isinstance(segment, QuadraticBezier):
            first, last = (
                segment.start + (segment.control - segment.start) * (2 / 3),
                segment.end + (segment.control - segment.end) * (2 / 3),
            )
            points[-1][2] = first
            points.append([segment.end, last, None])
        elif isinstance(segment, CubicBezier):
            points[-1][2] = segment.control1
            points.append([segment.end, segment.control2, None])
        elif isinstance(segment, Line):
            points.append([segment.end, None, None])
    if len(points) > 1 and abs(points[-1][0] - points[0][0]) < 1e-3:
        points[0][1] = points[-1][1]
        points.pop()
    nodes = []
    if len(points) > MOST_NODES:
        raise Refusal(f"A path of the SVG document has more than {MOST_NODES} points. Draw it more simply.")
    for at, arrive, leave in points:
        come, go = ((0.0, 0.0) if c is None else (round(c.x - at.x, 3), round(c.y - at.y, 3)) for c in (arrive, leave))
        lengths = np.hypot(*come) * np.hypot(*go)
        smooth = bool(lengths > 0 and (come[0] * go[0] + come[1] * go[1]) / lengths < -0.99)
        nodes.append(Node(x=round(at.x, 3), y=round(at.y, 3), arrive=come, leave=go, smooth=smooth))
    return nodes


def document(shapes: list[Shape], width: int, height: int) -> str:
    """Pieces as an SVG document of the frame's size, in source pixels: one path a piece, from the first to the last.

    What cuts away is drawn in white over what adds, so that any viewer shows about the right thing.
    """
    root = tree.Element(
        "svg",
        {"xmlns": "http://www.w3.org/2000/svg", "width": str(width), "height": str(height)}
        | {"viewBox": f"0 0 {width} {height}"},
    )
    for shape in shapes:
        fill = "#000000" if shape.combine == "add" else "#ffffff" if shape.combine == "cut away" else "none"
        facts = {"d": svg_path(shape.nodes), "fill": fill, "data-combine": shape.combine, "data-name": shape.name}
        tree.SubElement(root, "path", facts)
    tree.indent(root)
    return tree.tostring(root, encoding="unicode", xml_declaration=True) + "\n"


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
