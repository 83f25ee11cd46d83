"""Filling a hole with what a picture shows elsewhere: structure goes on, texture comes again, nothing is smeared.

Every small square of the hole is made to look like one that is known, and neighbouring squares take from neighbouring
places, coarse to fine (Wexler, Shechtman and Irani, "Space-time completion of video", 2007). Where to take from is
searched at random and handed on from pixel to pixel (Barnes and others, "PatchMatch", 2009). Beside colours, squares
are compared by how much texture they have, or something even is always the most similar (Newson and others, "Video
inpainting of complex scenes", 2014). The coarsest picture is filled from the rim inwards, where edges meet it first
(Criminisi, Pérez and Toyama, "Region filling and object removal by exemplar-based image inpainting", 2004).
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numba import njit


@dataclass(frozen=True)
class ResynthSettings:
    """The settings by which a hole is filled."""

    longest: int = 320
    """The longest side, in pixels, at which is searched."""
    coarsest: int = 90
    """The longest side of the coarsest picture, about."""
    half: int = 3
    """Half of a square's side, without its middle, px."""
    turns: int = 5
    """The number of times that places are searched and colours voted for, at each size."""
    rounds: int = 2
    """The number of times that places are handed on in each search."""
    even: float = 24.0
    """How much an even place counts in where the coarsest is filled first, beside an edge's levels: much, or what is
    half hidden comes again and again."""
    texture: float = 0.7
    """How much texture counts beside colour."""
    across: float = 0.1
    """The cost of taking from far to the side, in squared levels for each pixel of a square and of the way."""
    down: float = 8.0
    """The cost of taking from far above or below, likewise: most of what goes on behind somebody lies level."""
    spread: float = 1.5
    """How wide texture is looked at, px."""


def resynthesised(
    picture: np.ndarray, hole: np.ndarray, usable: np.ndarray | None = None,
    settings: ResynthSettings = ResynthSettings(),
) -> np.ndarray:  # fmt: skip
    """A picture, uint8 RGB (h, w, 3), with a hole, bool (h, w), filled: uint8 (h, w, 3).

    usable: bool (h, w), from where may be taken, all beside the hole if nothing else is said. What is not the hole
    stays as it is. If there is too little to take from, colours flow in from the rim (Telea 2004).
    """
    if not hole.any():
        return picture.copy()
    usable = ~hole if usable is None else usable & ~hole
    found = _searched(picture, hole, usable, settings)
    return flown_in(picture, hole) if found is None else _copied(picture, hole, *found)


def flown_in(picture: np.ndarray, hole: np.ndarray) -> np.ndarray:
    """A picture, uint8 RGB (h, w, 3), with colours that flow into a hole, bool (h, w), from its rim (Telea 2004)."""
    return cv2.inpaint(picture, cv2.dilate(hole.astype(np.uint8), np.ones((3, 3), np.uint8)), 5, cv2.INPAINT_TELEA)


def _shrunk(mask: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """Where any of a mask is, at a smaller size."""
    return cv2.resize(mask.astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0.02


def _inner(mask: np.ndarray, half: int) -> np.ndarray:
    """The part of a mask that has a whole square of the picture around it."""
    inner = np.zeros_like(mask)
    inner[half:-half, half:-half] = mask[half:-half, half:-half]
    return inner


def _searched(
    picture: np.ndarray, hole: np.ndarray, usable: np.ndarray, settings: ResynthSettings
) -> tuple[np.ndarray, np.ndarray] | None:
    """The colours of the hole at a smaller size, float32 (h', w', 3), and from where each pixel takes, int32 (…, 2)."""
    by = min(1.0, settings.longest / max(hole.shape))
    count = max(1, 1 + round(np.log2(max(1.0, by * max(hole.shape) / settings.coarsest))))
    side = 2 * settings.half + 1
    square = np.ones((side, side), np.uint8)
    features, places = _features(picture, usable | ~hole, settings), None
    filled = np.zeros(0, np.float32)
    for level in reversed(range(count)):
        size = tuple(max(3 * side, round(s * by / 2**level)) for s in hole.shape[::-1])
        shown = _resized(features, size, cv2.INTER_AREA)
        gap, away = _shrunk(hole, size), _shrunk(~usable, size)
        squares = _inner(cv2.dilate(away.astype(np.uint8), square) == 0, settings.half)
        wide = _inner(cv2.dilate(gap.astype(np.uint8), square) > 0, settings.half)
        if squares.sum() < 60 or not wide.any():
            return None
        cost_of_way = np.float32(settings.across) * 2**level, np.float32(settings.down) * 2**level
        if places is None:
            even = np.float32(settings.even)
            places = _peeled(shown, gap, squares, settings.half, even, *cost_of_way)
            places = _usable(places, squares)
        else:
            shown[gap] = _resized(filled, size, cv2.INTER_LINEAR)[gap]
            places = _grown(places, squares)
        for turn in range(settings.turns):
            costs = _search(shown, wide, squares, places, settings.half, settings.rounds, *cost_of_way, turn)
            _vote(shown, gap, wide, places, costs, settings.half)
        filled = shown
    assert places is not None
    return filled[..., :3], places


def _features(picture: np.ndarray, known: np.ndarray, settings: ResynthSettings) -> np.ndarray:
    """Features that squares are compared by: colours, and how much they change across and down: float32 (h, w, 5)."""
    grey = cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY).astype(np.float32)
    whole = cv2.erode(known.astype(np.uint8), np.ones((3, 3), np.uint8)).astype(np.float32)
    share = np.maximum(cv2.GaussianBlur(whole, (0, 0), settings.spread), 1e-3)
    steps = (cv2.Sobel(grey, cv2.CV_32F, *way, ksize=1) for way in ((1, 0), (0, 1)))
    rough = [cv2.GaussianBlur(np.abs(s) * whole, (0, 0), settings.spread) / share for s in steps]
    return np.dstack([picture.astype(np.float32), *(settings.texture * r for r in rough)])


def _grid(shape: tuple[int, ...]) -> np.ndarray:
    """The row and the column of each pixel: int (h, w, 2)."""
    return np.moveaxis(np.indices(shape[:2]), 0, -1)


def _resized(features: np.ndarray, size: tuple[int, int], way: int) -> np.ndarray:
    parts = np.split(features, [3], axis=2)  # no more than four channels are resized at once
    return np.dstack([cv2.resize(np.ascontiguousarray(p), size, interpolation=way) for p in parts])


def _usable(places: np.ndarray, squares: np.ndarray) -> np.ndarray:
    """Places with others, anywhere, instead of those that no square, bool (h, w), may be taken from."""
    ys, xs = np.nonzero(squares)
    other = np.random.default_rng(5).integers(0, len(ys), squares.shape)
    fits = squares[places[..., 0], places[..., 1]][..., None]
    return np.where(fits, places, np.stack([ys[other], xs[other]], -1)).astype(np.int32)


def _grown(places: np.ndarray, squares: np.ndarray) -> np.ndarray:
    """Places of a coarser picture in a finer one, in which squares, bool (h, w), may be taken."""
    (h, w), coarse = squares.shape, places.shape[:2]
    off = (places - _grid(coarse)).astype(np.float32)
    off = cv2.resize(off, (w, h), interpolation=cv2.INTER_NEAREST) * (h / coarse[0], w / coarse[1])
    moved = np.clip(np.round(_grid((h, w)) + off), 0, (h - 1, w - 1)).astype(np.int32)
    return _usable(moved, squares)


@njit(cache=True, nogil=True, fastmath=True)
def _way(y, x, v, u, across, down):
    return across * abs(u - x) + down * abs(v - y)


@njit(cache=True, nogil=True, fastmath=True)
def _peeled(shown, gap, squares, half, even, across, down):
    """Fills a hole, in place, from its rim inwards, and tells from where each of its pixels was taken: (h, w, 2)."""
    h, w = gap.shape
    channels = shown.shape[2]
    places = np.zeros((h, w, 2), np.int32)
    open_ = gap.copy()
    sure = np.where(gap, np.float32(0), np.float32(1))
    while True:
        # Next comes the square of which most is known, and into which the strongest edge leads.
        best, y0, x0 = np.float32(-1), -1, -1
        for y in range(half, h - half):
            for x in range(half, w - half):
                if not open_[y, x] or (open_[y - 1, x] and open_[y + 1, x] and open_[y, x - 1] and open_[y, x + 1]):
                    continue
                known, edge = np.float32(0), np.float32(0)
                for b in range(y - half, y + half + 1):
                    for a in range(x - half, x + half + 1):
                        known += sure[b, a]
                        if not open_[b, a] and not open_[b, a - 1] and not open_[b - 1, a]:
                            step = abs(shown[b, a, 1] - shown[b, a - 1, 1]) + abs(shown[b, a, 1] - shown[b - 1, a, 1])
                            edge = max(edge, step)
                value = known * (edge + even)
                if value > best:
                    best, y0, x0 = value, y, x
        if y0 < 0:
            break
        least, v0, u0 = np.float32(1e30), -1, -1
        for v in range(h):
            for u in range(w):
                if not squares[v, u]:
                    continue
                cost = _way(y0, x0, v, u, across, down) * (2 * half + 1) ** 2
                for b in range(-half, half + 1):
                    for a in range(-half, half + 1):
                        if not open_[y0 + b, x0 + a]:
                            for c in range(channels):
                                d = shown[y0 + b, x0 + a, c] - shown[v + b, u + a, c]
                                cost += d * d
                    if cost > least:
                        break
                if cost < least:
                    least, v0, u0 = cost, v, u
        trust = np.float32(0)
        for b in range(-half, half + 1):
            for a in range(-half, half + 1):
                trust += sure[y0 + b, x0 + a]
        trust /= (2 * half + 1) ** 2
        for b in range(-half, half + 1):
            for a in range(-half, half + 1):
                y, x = y0 + b, x0 + a
                if open_[y, x]:
                    open_[y, x] = False
                    sure[y, x] = trust
                    places[y, x, 0], places[y, x, 1] = v0 + b, u0 + a
                    for c in range(channels):
                        shown[y, x, c] = shown[v0 + b, u0 + a, c]
    return places


@njit(cache=True, nogil=True, fastmath=True)
def _unlike(shown, y, x, v, u, half, cost, best):
    """Cost of two squares that are unlike, squared levels, on top of a cost; more than `best` is not told exactly."""
    for b in range(-half, half + 1):
        for a in range(-half, half + 1):
            for c in range(shown.shape[2]):
                d = shown[y + b, x + a, c] - shown[v + b, u + a, c]
                cost += d * d
        if cost > best:
            return cost
    return cost


@njit(cache=True, nogil=True, fastmath=True)
def _search(shown, wide, squares, places, half, rounds, across, down, seed):
    """Looks for the most similar known square of each square of the hole, in place; how unlike they are: (h, w)."""
    h, w = wide.shape
    np.random.seed(seed)
    area = np.float32((2 * half + 1) ** 2)
    costs = np.zeros((h, w), np.float32)
    for y in range(h):
        for x in range(w):
            if wide[y, x]:
                v, u = places[y, x]
                far = area * _way(y, x, v, u, across, down)
                costs[y, x] = _unlike(shown, y, x, v, u, half, far, np.float32(1e30))
    for turn in range(rounds):
        step = 1 if turn % 2 == 0 else -1
        for i in range(h):
            y = i if step > 0 else h - 1 - i
            for j in range(w):
                x = j if step > 0 else w - 1 - j
                if not wide[y, x]:
                    continue
                reach = 2 * max(h, w)
                tried = 0
                while reach >= 2:
                    if tried < 2:
                        b, a = (y - step, x) if tried == 0 else (y, x - step)
                        tried += 1
                        if b < 0 or a < 0 or b >= h or a >= w or not wide[b, a]:
                            continue
                        v, u = places[b, a, 0] + y - b, places[b, a, 1] + x - a
                    else:
                        reach //= 2
                        v = places[y, x, 0] + np.random.randint(-reach, reach + 1)
                        u = places[y, x, 1] + np.random.randint(-reach, reach + 1)
                    if v < 0 or u < 0 or v >= h or u >= w or not squares[v, u]:
                        continue
                    far = area * _way(y, x, v, u, across, down)
                    cost = _unlike(shown, y, x, v, u, half, far, costs[y, x])
                    if cost < costs[y, x]:
                        costs[y, x], places[y, x, 0], places[y, x, 1] = cost, v, u
    return costs


@njit(cache=True, nogil=True, fastmath=True)
def _vote(shown, gap, wide, places, costs, half):
    """The vote of the squares of a hole, in place; those that were found most alike count most."""
    h, w = gap.shape
    result, weights = np.zeros_like(shown), np.zeros((h, w), np.float32)
    usual = np.float32(np.quantile(costs.ravel()[wide.ravel()], 0.5)) + np.float32(1)
    for y in range(h):
        for x in range(w):
            if not wide[y, x]:
                continue
            v, u = places[y, x]
            weight = np.exp(-costs[y, x] / usual) + np.float32(1e-9)
            for b in range(-half, half + 1):
                for a in range(-half, half + 1):
                    if gap[y + b, x + a]:
                        weights[y + b, x + a] += weight
                        for c in range(shown.shape[2]):
                            result[y + b, x + a, c] += weight * shown[v + b, u + a, c]
    for y in range(h):
        for x in range(w):
            if gap[y, x] and weights[y, x] > 0:
                for c in range(shown.shape[2]):
                    shown[y, x, c] = result[y, x, c] / weights[y, x]


def _copied(picture: np.ndarray, hole: np.ndarray, filled: np.ndarray, places: np.ndarray) -> np.ndarray:
    """The hole in full size: the colours that were found, with the detail of where they come from."""
    h, w = hole.shape
    small = places.shape[:2]
    by = max(1.0, max(h, w) / max(small))
    off = (places - _grid(small)) * (h / small[0], w / small[1])
    off = cv2.resize(off.astype(np.float32), (w, h), interpolation=cv2.INTER_NEAREST)
    y, x = np.mgrid[:h, :w].astype(np.float32)
    taken = np.round(x + off[..., 1]).astype(np.float32), np.round(y + off[..., 0]).astype(np.float32)
    there = picture.astype(np.float32)
    detail = cv2.remap(there - cv2.GaussianBlur(there, (0, 0), by), *taken, cv2.INTER_NEAREST)
    colours = cv2.resize(filled, (w, h), interpolation=cv2.INTER_LINEAR)
    result = picture.copy()
    result[hole] = np.clip(np.round(colours + detail), 0, 255).astype(np.uint8)[hole]
    return result
