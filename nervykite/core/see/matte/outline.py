"""Alpha to pen paths: outlines with few, well-placed points."""

from collections.abc import Callable

import cv2
import numpy as np

from ...common.errors import Refusal
from ...piece.model.matte import Node, Shape

FINER = 4
"""How much finer than pixels the outline is looked at, so that the shades of its edge count."""


CORNER = 6
"""How many points beside a corner are left out of the fit."""
MOST_NODES = 4000
"""As many points as a pen piece may have."""
COARSER = 16
"""How many times as far from the line a path may lie if it has too many points otherwise."""
Report = Callable[[float], None]
"""What is called now and then with the share done, and may stop the work."""


def nobody(share: float) -> None:
    """Tells nobody."""


def outlines(alpha: np.ndarray, tolerance: float = 0.7, smallest: float = 40.0, report: Report = nobody) -> list[Shape]:
    """Pen pieces around an alpha (h, w), 0…1: outlines where it is one half, then the gaps, cut away.

    tolerance: how far a path may lie from the outline, in pixels; smallest: the area, in pixels, of what is still
    drawn; report: called now and then, and may stop it. The largest comes first; an empty alpha has none.
    """
    rows, columns = np.flatnonzero(alpha.max(1) > 0.5), np.flatnonzero(alpha.max(0) > 0.5)
    if not len(rows):
        return []
    top, left = max(0, rows[0] - 2), max(0, columns[0] - 2)
    part: np.ndarray = alpha[top : rows[-1] + 3, left : columns[-1] + 3].astype(np.float32)
    part = cv2.copyMakeBorder(part, 2, 2, 2, 2, cv2.BORDER_CONSTANT)
    fine = cv2.resize(part, None, fx=FINER, fy=FINER, interpolation=cv2.INTER_LINEAR)
    contours, tree = cv2.findContours((fine > 0.5).astype(np.uint8), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    bodies: list[tuple[float, list[Node]]] = []
    gaps: list[tuple[float, list[Node]]] = []
    for contour, (_next, _before, _child, parent) in zip(contours, tree[0], strict=True):
        size = cv2.contourArea(contour) / FINER**2
        if size < smallest:
            continue
        # The chain runs through the middles of the body's outermost pixels: half a fine pixel inside its edge.
        points = _moved_out(contour[:, 0].astype(float) + 0.5, 0.5 if parent < 0 else -0.5)
        nodes = fitted(points / FINER - 2 + [left, top], tolerance, report)
        if len(nodes) >= 2:
            (bodies if parent < 0 else gaps).append((size, nodes))
    bodies.sort(key=lambda x: -x[0])
    gaps.sort(key=lambda x: -x[0])
    names = ["Outline", *(f"Part {n}" for n in range(2, len(bodies) + 1))]
    shapes = [Shape(name=name, nodes=nodes) for name, (_, nodes) in zip(names, bodies, strict=False)]
    return shapes + [Shape(name="Gap", combine="cut away", nodes=nodes) for _, nodes in gaps]


def even_chain(line: np.ndarray, most: int = 60_000) -> np.ndarray:
    """A closed line (n, 2) as a chain of evenly spaced points, as dense as `fitted` wants them."""
    ring = np.concatenate([line, line[:1]])
    steps = np.linalg.norm(np.diff(ring, axis=0), axis=1)
    along = np.concatenate([[0], np.cumsum(steps)])
    count = int(np.clip(along[-1] * FINER, 8, most))
    at = np.arange(count) / count * along[-1]
    return np.stack([np.interp(at, along, ring[:, k]) for k in (0, 1)], 1)


def _moved_out(chain: np.ndarray, by: float) -> np.ndarray:
    """A closed chain (n, 2) with each point moved outwards by `by`."""
    x, y = chain.T
    clockwise = np.sign((x * np.roll(y, -1) - np.roll(x, -1) * y).sum()) or 1.0
    way = _directions(chain, 2)
    return chain + by * clockwise * np.stack([way[:, 1], -way[:, 0]], 1)


def fitted(points: np.ndarray, tolerance: float, report: Report = nobody) -> list[Node]:
    """A closed chain of points (n, 2) as a path of cubics within `tolerance` of it, or a multiple of that if the path
    would have more than MOST_NODES points otherwise. `report` is called now and then, and may stop it. Raises Refusal
    if even that is not enough.

    Corners are found first; between them cubics are fitted, and split where they are farthest off
    (Schneider, "An algorithm for automatically fitting digitized curves", Graphics Gems, 1990).
    """
    n = len(points)
    if n < 4:
        return [Node(x=float(x), y=float(y)) for x, y in points]
    coarsest = tolerance * COARSER
    # Douglas and Peucker's polygon needs about as many points, and tells that long before the fit does.
    while len(cv2.approxPolyDP(points.astype(np.float32), tolerance, True)) > 2 * MOST_NODES:
        report(0.0)
        tolerance *= 2
        if tolerance > coarsest:
            raise Refusal(f"That line turns too often for a path of at most {MOST_NODES} points. Draw it more simply.")
    while len(nodes := _path(points, tolerance, report)) > MOST_NODES:
        tolerance *= 2
    return nodes


def _path(points: np.ndarray, tolerance: float, report: Report) -> list[Node]:
    n = len(points)
    even = _soft(points, 2.0)
    corners = _corners(even, tolerance)
    if len(corners) < 2:
        far = int(np.argmax(np.linalg.norm(even - even[corners[0] if len(corners) else 0], axis=1)))
        start = int(corners[0]) if len(corners) else 0
        sharp = {start} if len(corners) else set()
        corners = np.array(sorted({start, far}))
    else:
        sharp = {int(c) for c in corners}
    tangents = _directions(even, 3 * FINER)
    even[list(sharp)] = points[list(sharp)]
    curves: list[np.ndarray] = []
    for a, b in zip(corners, [*corners[1:], corners[0] + n], strict=True):
        # Next to a corner the softened chain cuts it short.
        kept = np.arange(a, b + 1)
        if len(kept) > 4 * CORNER:
            sharp_a, sharp_b = int(a) in sharp, int(b) % n in sharp
            kept = np.concatenate([[a], kept[CORNER if sharp_a else 1 : -CORNER if sharp_b else -1], [b]])
        run = even[kept % n]
        first = _unit(run[min(len(run) - 1, 2 * FINER)] - run[0]) if int(a) in sharp else tangents[a]
        last = _unit(run[-1 - min(len(run) - 1, 2 * FINER)] - run[-1]) if int(b) % n in sharp else -tangents[b % n]
        curves += _fit(run, first, last, tolerance)
        report(min(1.0, b / n))
    return _nodes(curves)


def _soft(points: np.ndarray, sigma: float) -> np.ndarray:
    """The chain without the steps of its pixels."""
    reach = int(3 * sigma)
    kernel = np.exp(-0.5 * (np.arange(-reach, reach + 1) / sigma) ** 2)
    kernel /= kernel.sum()
    long = np.concatenate([points[-reach:], points, points[:reach]])
    if len(long) < len(kernel) + len(points) - 1:
        return points
    return np.stack([np.convolve(long[:, k], kernel, "valid") for k in (0, 1)], 1)


def _unit(vector: np.ndarray) -> np.ndarray:
    length = np.linalg.norm(vector)
    return vector / length if length > 0 else np.array([1.0, 0.0])


def _directions(points: np.ndarray, reach: int) -> np.ndarray:
    ahead, behind = np.roll(points, -reach, 0), np.roll(points, reach, 0)
    way = ahead - behind
    return way / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9)


def _corners(points: np.ndarray, tolerance: float) -> np.ndarray:
    """Where the chain turns by more than about 50 degrees within a few pixels."""
    reach = max(2, min(len(points) // 6, round(FINER * (2.5 + 2 * tolerance))))
    come = points - np.roll(points, reach, 0)
    go = np.roll(points, -reach, 0) - points
    cosine = (come * go).sum(1) / np.maximum(np.linalg.norm(come, axis=1) * np.linalg.norm(go, axis=1), 1e-9)
    turns = np.where(cosine < 0.62, 1 - cosine, 0.0)
    found: list[int] = []
    near = np.zeros(len(points), bool)
    for i in np.argsort(-turns):
        if turns[i] == 0:
            break
        if not near[i]:
            found.append(int(i))
            near[np.arange(i - reach, i + reach + 1) % len(points)] = True
    return np.array(sorted(found), int)


def _fit(run: np.ndarray, first: np.ndarray, last: np.ndarray, tolerance: float) -> list[np.ndarray]:
    """Cubics (4, 2) along a run of points (n, 2), beginning in direction `first` and arriving against `last`."""
    if len(run) < 3 or np.linalg.norm(np.diff(run, axis=0), axis=1).sum() < 1.0:
        third = np.linalg.norm(run[-1] - run[0]) / 3
        return [np.array([run[0], run[0] + first * third, run[-1] + last * third, run[-1]])]
    steps = np.linalg.norm(np.diff(run, axis=0), axis=1)
    u = np.concatenate([[0], np.cumsum(steps)]) / max(steps.sum(), 1e-9)
    for _ in range(4):
        curve = _cubic(run, u, first, last)
        off = np.linalg.norm(_at(curve, u) - run, axis=1)
        worst = int(np.argmax(off))
        if off[worst] <= tolerance:
            return [curve]
        if off[worst] > 8 * tolerance:
            break
        u = _closer(curve, run, u)
    worst = min(max(worst, 1), len(run) - 2)
    reach = min(2 * FINER, worst, len(run) - 1 - worst)
    way = _unit(run[worst + reach] - run[worst - reach])
    return _fit(run[: worst + 1], first, -way, tolerance) + _fit(run[worst:], way, last, tolerance)


def _at(curve: np.ndarray, u: np.ndarray) -> np.ndarray:
    t, s = u[:, None], 1 - u[:, None]
    return s**3 * curve[0] + 3 * s * s * t * curve[1] + 3 * s * t * t * curve[2] + t**3 * curve[3]


def _cubic(run: np.ndarray, u: np.ndarray, first: np.ndarray, last: np.ndarray) -> np.ndarray:
    """The cubic with given end tangents that is closest to the run at the parameters u: least squares."""
    s = 1 - u
    b0, b1, b2, b3 = s**3, 3 * s * s * u, 3 * s * u * u, u**3
    a1, a2 = b1[:, None] * first, b2[:, None] * last
    rest = run - (b0 + b1)[:, None] * run[0] - (b2 + b3)[:, None] * run[-1]
    c11, c12, c22 = (a1 * a1).sum(), (a1 * a2).sum(), (a2 * a2).sum()
    x1, x2 = (a1 * rest).sum(), (a2 * rest).sum()
    determinant = c11 * c22 - c12 * c12
    chord = np.linalg.norm(run[-1] - run[0])
    left = right = chord / 3
    if abs(determinant) > 1e-9:
        left, right = (x1 * c22 - x2 * c12) / determinant, (c11 * x2 - c12 * x1) / determinant
    if not (0.02 * chord < left < 3 * chord + 4 and 0.02 * chord < right < 3 * chord + 4):
        left = right = chord / 3
    return np.array([run[0], run[0] + first * left, run[-1] + last * right, run[-1]])


def _closer(curve: np.ndarray, run: np.ndarray, u: np.ndarray) -> np.ndarray:
    """Parameters nearer to the points' own: one step of Newton's method."""
    d1, d2 = 3 * np.diff(curve, axis=0), 6 * np.diff(curve, 2, axis=0)
    t, s = u[:, None], 1 - u[:, None]
    slope = s * s * d1[0] + 2 * s * t * d1[1] + t * t * d1[2]
    bend = s * d2[0] + t * d2[1]
    off = _at(curve, u) - run
    below = (slope * slope).sum(1) + (off * bend).sum(1)
    step = np.where(np.abs(below) > 1e-9, (off * slope).sum(1) / np.where(below == 0, 1, below), 0)
    return np.maximum.accumulate(np.clip(u - step, 0, 1))


def _nodes(curves: list[np.ndarray]) -> list[Node]:
    nodes = []
    for before, after in zip([curves[-1], *curves[:-1]], curves, strict=True):
        x, y = after[0]
        arrive, leave = before[2] - before[3], after[1] - after[0]
        straight = float(_unit(-arrive) @ _unit(leave))
        nodes.append(
            Node(
                x=_neat(x),
                y=_neat(y),
                arrive=(_neat(arrive[0]), _neat(arrive[1])),
                leave=(_neat(leave[0]), _neat(leave[1])),
                smooth=straight > 0.99,
            )
        )
    return nodes


def _neat(value: float) -> float:
    return round(float(value), 2)
