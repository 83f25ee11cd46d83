"""Strokes as somebody in a hurry draws them: a few through the middle of the subject, a few beside it."""

import cv2
import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import dijkstra

from nervykite.core.see.find.strokes import Stroke

SIDE = 120
"""The longer side of the size at which their ways are found."""
KEEPS, DROPS = (1, 4), (1, 5)
"""How many there are of each: from, and below."""


def strokes_on(rng: np.random.Generator, alpha: np.ndarray) -> tuple[list[Stroke], list[Stroke]] | None:
    """Keep and drop strokes for a matte float32 (h, w), 0…1; None if there is no room for them."""
    scale = SIDE / max(alpha.shape)
    small = cv2.resize(alpha, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    inside = (small > 0.6).astype(np.uint8)
    depth = cv2.distanceTransform(np.pad(inside, 1), cv2.DIST_L2, 5)[1:-1, 1:-1]
    if depth.max() < 1:
        return None
    keep = _through(rng, depth)
    beside = cv2.distanceTransform(1 - inside, cv2.DIST_L2, 5)
    rows, columns = np.nonzero(inside)
    drop = _around(rng, beside, float(np.hypot(np.ptp(rows) + 2, np.ptp(columns) + 2)))
    if not drop:
        return None
    tall = alpha.shape[0]
    return (
        [Stroke(way / scale, rng.uniform(0.006, 0.012) * tall) for way in keep],
        [Stroke(way / scale, rng.uniform(0.006, 0.014) * tall) for way in drop],
    )


def _through(rng: np.random.Generator, depth: np.ndarray) -> list[np.ndarray]:
    """Ways where a subject is thick; the first from its thickest part to somewhere far away in it."""
    points = np.argwhere(depth >= np.clip(0.5 * depth.max(), 0.7, 1.4))
    cost = np.where(depth > 0.6, 1 / (depth + 0.2) ** 1.5, np.inf)
    ways = []
    for number in range(rng.integers(*KEEPS)):
        if number:
            start, share = points[rng.integers(len(points))], rng.uniform(0.1, 0.6)
        else:
            thick = depth[tuple(points.T)] + rng.normal(0, 0.3, len(points))
            start, share = points[np.argmax(thick)], rng.uniform(0.6, 1)
        by_distance = np.argsort(np.hypot(*(points - start).T))
        way = _way(cost, start, points[by_distance[int(share * (len(points) - 1))]])
        ways.append(np.repeat(start[None, ::-1] + 0.5, 2, 0) if way is None else _smooth(way))
    return ways


def _around(rng: np.random.Generator, beside: np.ndarray, extent: float) -> list[np.ndarray]:
    """Ways around a subject of that extent, at some distance from it; `beside` (h, w) is that distance."""
    points = np.argwhere((beside > max(4, 0.06 * extent)) & (beside < max(9, 0.4 * extent)))
    if len(points) < 5:
        return []
    cost = np.where(beside > max(2.5, 0.03 * extent), 1 + 20 / np.maximum(beside, 0.5), np.inf)
    ways = []
    for _ in range(rng.integers(*DROPS)):
        start = points[rng.integers(len(points))]
        away = np.hypot(*(points - start).T)
        way = _way(cost, start, points[np.argmin(np.abs(away - rng.uniform(0.25, 0.9) * extent))])
        if way is not None:
            ways.append(way[::3])
    return ways


def _way(cost: np.ndarray, start: np.ndarray, end: np.ndarray) -> np.ndarray | None:
    """The cheapest way between two pixels (row, column): float64 (n, 2), x and y of their centres; None if none."""
    h, w = cost.shape
    number = np.arange(h * w).reshape(h, w)
    begins, ends, prices = [], [], []
    for down, right in ((0, 1), (1, 0), (1, 1), (1, -1)):
        one = slice(0, h - down), slice(max(0, -right), w - max(0, right))
        other = slice(down, h), slice(max(0, right), w - max(0, -right))
        price = (cost[one] + cost[other]) / 2 * np.hypot(down, right)
        open_ = np.isfinite(price)
        begins.append(number[one][open_])
        ends.append(number[other][open_])
        prices.append(price[open_])
    edges = np.concatenate(begins), np.concatenate(ends)
    graph = coo_array((np.concatenate(prices), edges), shape=(h * w, h * w)).tocsr()
    source, target = int(number[tuple(start)]), int(number[tuple(end)])
    _, before = dijkstra(graph, directed=False, indices=source, return_predecessors=True)
    if target == source or before[target] < 0:
        return None
    way = [target]
    while way[-1] != source:
        way.append(int(before[way[-1]]))
    return np.array([[n % w + 0.5, n // w + 0.5] for n in way[::-1]])


def _smooth(way: np.ndarray) -> np.ndarray:
    if len(way) < 9:
        return way
    padded = np.pad(way, ((4, 4), (0, 0)), "edge")
    return np.stack([np.convolve(axis, np.full(5, 0.2), "same")[4:-4] for axis in padded.T], 1)[::3]
