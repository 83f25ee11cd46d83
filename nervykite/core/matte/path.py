"""Pen paths: flattening, bounds, and SVG path data."""

import numpy as np

from ..model import Node

TOLERANCE = 0.005
"""How far, in pixels, a flattened curve may lie from the true one."""


def flatten(nodes: list[Node], tolerance: float = TOLERANCE) -> np.ndarray:
    """The closed path as a polygon: float64 (n, 2), the first point not repeated.

    Each cubic is cut into equal parameter steps, as many as its second differences need
    (Sederberg, "Computer Aided Geometric Design", section 10.6).
    """
    points = []
    for a, b in zip(nodes, [*nodes[1:], nodes[0]], strict=True):
        p0, p3 = np.array([a.x, a.y]), np.array([b.x, b.y])
        if not any(a.leave) and not any(b.arrive):
            points.append(p0[None])
            continue
        p1, p2 = p0 + a.leave, p3 + b.arrive
        bend = max(np.linalg.norm(p0 - 2 * p1 + p2), np.linalg.norm(p1 - 2 * p2 + p3))
        steps = int(np.clip(np.ceil(np.sqrt(0.75 * bend / tolerance)), 1, 2000))
        t = (np.arange(steps) / steps)[:, None]
        points.append((1 - t) ** 3 * p0 + 3 * (1 - t) ** 2 * t * p1 + 3 * (1 - t) * t * t * p2 + t**3 * p3)
    return np.concatenate(points)


def bounds(nodes: list[Node]) -> tuple[float, float, float, float]:
    """Left, top, right, bottom of the path."""
    points = flatten(nodes, 0.25)
    (left, top), (right, bottom) = points.min(0), points.max(0)
    return float(left), float(top), float(right), float(bottom)


def svg_path(nodes: list[Node]) -> str:
    """The path as SVG path data (SVG 2, chapter 9), in source pixels."""
    start = nodes[0]
    parts = [f"M{start.x:g} {start.y:g}"]
    for a, b in zip(nodes, [*nodes[1:], nodes[0]], strict=True):
        if not any(a.leave) and not any(b.arrive):
            parts.append(f"L{b.x:g} {b.y:g}")
        else:
            c, d = (a.x + a.leave[0], a.y + a.leave[1]), (b.x + b.arrive[0], b.y + b.arrive[1])
            parts.append(f"C{c[0]:g} {c[1]:g} {d[0]:g} {d[1]:g} {b.x:g} {b.y:g}")
    return " ".join([*parts, "Z"])
