"""Pen paths: flattening, bounds, and SVG path data."""

import numpy as np

from ...piece.model.matte import Node

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
    """Left, top, right, bottom of the path: of its nodes, and of where its curves turn back, across or down.

    A cubic turns where its derivative, a quadratic, is zero.
    """
    flat = np.array([(n.x, n.y, *n.leave, *n.arrive) for n in nodes], float)
    p0, p3 = flat[:, :2], np.roll(flat[:, :2], -1, axis=0)
    p1, p2 = p0 + flat[:, 2:4], p3 + np.roll(flat[:, 4:], -1, axis=0)
    a, b, c = p3 - 3 * p2 + 3 * p1 - p0, 2 * (p2 - 2 * p1 + p0), p1 - p0
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        # Not (−b ± root)/2a, which loses all where a is next to nothing (Press et al., Numerical Recipes, 5.6).
        q = -(b + np.copysign(np.sqrt(b * b - 4 * a * c), b)) / 2
        turns = [q / a, c / q]
    points = [p0]
    for t in turns:
        t = np.where((t > 0) & (t < 1), t, 0.0)  # no number is no turn either
        points.append((1 - t) ** 3 * p0 + 3 * (1 - t) ** 2 * t * p1 + 3 * (1 - t) * t * t * p2 + t**3 * p3)
    lows, highs = np.min([p.min(0) for p in points], 0), np.max([p.max(0) for p in points], 0)
    return float(lows[0]), float(lows[1]), float(highs[0]), float(highs[1])


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
