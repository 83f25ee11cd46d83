"""The clean plate of a moment, from the other frames of its shot."""

import functools
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import cv2
import numpy as np
from numba import njit, prange

from ..aside import side_by_side
from ..matte.solve import around
from ..track.align import CORNERS, between, contrast, features, onto, stands_still, stood_before_something_plain

FOLLOWED = 40
"""How many frames the camera is followed through at most: more than are compared, so that it is not lost."""
SIGHT, FEWEST = 0.25, 4
"""The share of what the held frame shows that another one has to see, to be compared with it, if so many frames do."""
WIDTH = 26.0
"""How far apart, in levels, colours of one thing may lie."""
TIGHT, NEXT, UNLIKE = 6.0, 3, np.float32(2500)
"""How far apart colours of a scene usually lie, which show again what a passing texture never does; how far from a
pixel its surroundings are compared as well, and up to what squared distance."""
ALIKE, BORNE_OUT = np.float32(3), np.float32(0.25)
"""How much more a frame in which something seems to move counts if it is all like the frame it was compared with, and
how much it counts at most then."""
FAR, CLOSE = np.float32(1 / WIDTH**2), np.float32(1 / (5 * TIGHT**2))
"""By what squared distances of colours are multiplied to be 1 where those are too far apart, and where five of them
together are as far apart as usual."""
NONE, WHOLE = np.float32(0), np.float32(1)
UNHEARD_OF = np.float32(8)
"""How much a scene is taken to vary where no two frames show the same, in levels."""
CLOSE_BY = 24
"""How far around a place that is built anew, in pixels, the scene is looked at."""
MOVES = np.float32(0.08)
"""How much a frame counts where something moves against the camera."""
KNOWN = 10.0
"""How much a frame counts where it is known to show the scene."""


Ways = dict[int, np.ndarray]
"""How frames lie on one of them, by their number in the shot: homographies (3, 3), pixels to pixels."""


@dataclass(frozen=True)
class Stack:
    """Frames of a shot, laid onto one of them.

    frames: uint8 (n, h, w, 3), the held frame first; valid: bool (n, h, w), where a frame saw anything;
    moving: bool (n, h, w), where something moved against the camera; still: whether the camera stood; ways: for frames
    that were followed, by their number in the shot, how they lie on the held one (3, 3), if the camera moved; numbers:
    the n frames' numbers in the shot.
    """

    frames: np.ndarray
    valid: np.ndarray
    moving: np.ndarray
    still: bool
    ways: Ways = field(default_factory=dict)
    numbers: tuple[int, ...] = ()

    def onto(self, number: int, values: np.ndarray) -> np.ndarray:
        """Values (h, w) of a frame of the shot, by its number, as the held frame sees them; 0 beyond it."""
        way = self.ways.get(number)
        h, w = values.shape
        return values if way is None else cv2.warpPerspective(values, way, (w, h), flags=cv2.INTER_LINEAR)


def lay(
    frames: Sequence[np.ndarray], at: int, most: int = 28, known: Callable[[], np.ndarray | None] = lambda: None,
    ways: Ways | None = None,
) -> Stack:  # fmt: skip
    """Lays frames of a shot (uint8 RGB (h, w, 3), in order) onto frame `at`.

    At most `most` of them are taken, evenly, of those that see enough of what it shows. Brightness is evened out by
    each frame's usual gain, which takes away exposure drift and flicker. By what is `known` of a subject, bool (h, w),
    frame `at` must not be followed; that is asked for when it is needed. ways: about how some frames lie on it, itself
    among them, if the camera moved and that is known: then only those are taken, and looked for right there.
    """
    h, w = frames[at].shape[:2]
    chosen = compared(len(frames), at, most)
    followed = _camera(frames, at, chosen, known) if ways is None else ways
    still = followed is None
    if followed is not None:
        near = [n for n in sorted(followed) if _in_sight(followed[n], h, w) > SIGHT]
        if ways is not None and len(near) < FEWEST:
            near = sorted(followed)
        if ways is not None or FEWEST <= len(near) < len(followed):
            chosen = [near[k] for k in _chosen(len(near), near.index(at), most)[0]]
        if ways is not None:
            followed = ways | _exactly(frames, at, {n: ways[n] for n in chosen if n != at}, known())
    pictures: dict[int, np.ndarray] = {}
    seen: dict[int, np.ndarray] = {}
    for n in chosen:
        if followed is None or n == at:
            pictures[n], seen[n] = frames[n], np.ones((h, w), bool)
        elif n in followed:
            pictures[n] = cv2.warpPerspective(frames[n], followed[n], (w, h), flags=cv2.INTER_LINEAR)
            seen[n] = cv2.warpPerspective(np.full((h, w), 255, np.uint8), followed[n], (w, h)) > 250
        else:
            continue
        if n != at:
            pictures[n] = evened(pictures[n], frames[at], seen[n])
    order = [at, *(n for n in pictures if n != at)]
    moving = _moving(pictures, seen)
    return Stack(
        np.stack([pictures[n] for n in order]),
        np.stack([seen[n] for n in order]),
        np.stack([moving[n] for n in order]),
        still,
        followed or {},
        tuple(order),
    )


def _exactly(frames: Sequence[np.ndarray], at: int, ways: Ways, subject: np.ndarray | None) -> Ways:
    """How frames lie on frame `at`, of which is known about how; a subject, bool (h, w), is not followed."""
    clear = contrast(frames[at])
    points = features(clear, CORNERS, subject)

    def exactly(n: int) -> np.ndarray:
        there = between(clear, contrast(frames[n]), points, np.linalg.inv(ways[n]))
        return ways[n] if there is None else np.linalg.inv(there)

    found = side_by_side(functools.partial(exactly, n) for n in ways)
    return dict(zip(ways, found, strict=True))


def _camera(
    frames: Sequence[np.ndarray], at: int, chosen: list[int], known: Callable[[], np.ndarray | None]
) -> Ways | None:
    """How frames lie on frame `at`, those chosen among them unless the camera got lost; None if it stood."""
    followed, at_followed = _chosen(len(frames), at, FOLLOWED)
    seen_as = list(side_by_side(functools.partial(contrast, frames[n]) for n in chosen))
    held, subject = chosen.index(at), known()
    if stands_still(seen_as, held, subject) or stood_before_something_plain(seen_as, held, subject):
        return None
    clear = dict(zip(chosen, seen_as, strict=True))
    rest = [n for n in followed if n not in clear]
    clear |= zip(rest, side_by_side(functools.partial(contrast, frames[n]) for n in rest), strict=True)
    found = onto([clear[n] for n in followed], at_followed, subject)
    return {n: way for n, way in zip(followed, found, strict=True) if way is not None}


def _in_sight(way: np.ndarray, h: int, w: int) -> float:
    """The share of a frame (h, w) that another one sees, which lies on it as a homography says."""
    frame = np.array([[[0, 0]], [[w, 0]], [[w, h]], [[0, h]]], np.float32)
    area, _ = cv2.intersectConvexConvex(frame, cv2.perspectiveTransform(frame, way))
    return float(area) / (w * h)


def compared(count: int, at: int, most: int) -> list[int]:
    """The numbers of those of `count` frames that `lay` takes if they see the same, frame `at` among them, in order."""
    followed, at_followed = _chosen(count, at, FOLLOWED)
    return [followed[n] for n in _chosen(len(followed), at_followed, most)[0]]


def _chosen(count: int, at: int, most: int) -> tuple[list[int], int]:
    """At most `most` of `count` frames, evenly, frame `at` among them; and which of them that is."""
    if count <= most:
        return list(range(count)), at
    spaced = {round(k) for k in np.linspace(0, count - 1, most)}
    spaced.discard(min(spaced, key=lambda k: abs(k - at)))
    chosen = sorted(spaced | {at})
    return chosen, chosen.index(at)


def evened(picture: np.ndarray, reference: np.ndarray, seen: np.ndarray) -> np.ndarray:
    """A picture with a reference's brightness, as most of the pixels have it: uint8 (h, w, 3), or grey (h, w).

    What differs is left alone if it is next to nothing, or so much that it is not the exposure. seen: bool (h, w), the
    pixels that count.
    """
    sample, known = (p[::4, ::4][seen[::4, ::4]].astype(np.float32) for p in (picture, reference))
    if len(sample) < 50:
        return picture
    gain = np.median((known + 8) / (sample + 8), 0)
    if not 0.004 < np.abs(gain - 1).max() < 0.3:
        return picture
    return np.clip(picture * gain.astype(np.float32), 0, 255).astype(np.uint8)


def _moving(pictures: dict[int, np.ndarray], seen: dict[int, np.ndarray]) -> dict[int, np.ndarray]:
    """Where each of the laid pictures, by number, moves against both of its neighbours: bool (h, w).

    What is about to be covered, or was just uncovered, is only found again in one of them; it does not move. Where
    only one of them sees it, that one decides.
    """
    flow = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_ULTRAFAST)
    numbers = sorted(pictures)
    h, w = pictures[numbers[0]].shape[:2]
    small = (w // 2, h // 2)
    grey = {
        n: cv2.resize(cv2.cvtColor(p, cv2.COLOR_RGB2GRAY), small, interpolation=cv2.INTER_AREA)
        for n, p in pictures.items()
    }
    clear = {n: cv2.resize(s.astype(np.uint8), small, interpolation=cv2.INTER_NEAREST) > 0 for n, s in seen.items()}

    def against(n: int, other: int) -> np.ndarray:
        # Where one sees nothing it is given what the other sees: the rim of nothing would move.
        own, next_to = np.where(clear[n], grey[n], grey[other]), np.where(clear[other], grey[other], grey[n])
        motion = flow.calc(own, next_to, None)  # type: ignore[call-overload]
        fast = cv2.dilate((cv2.magnitude(*cv2.split(motion)) > 0.6).astype(np.uint8), np.ones((5, 5), np.uint8))
        moves = cv2.resize(fast, (w, h), interpolation=cv2.INTER_NEAREST) > 0
        return np.where(seen[n] & seen[other], moves, True)

    result = {}
    for k, n in enumerate(numbers):
        others = [*numbers[max(0, k - 1) : k], *numbers[k + 1 : k + 2]]
        asked = np.any([seen[n] & seen[o] for o in others], axis=0) if others else np.zeros((h, w), bool)
        result[n] = np.logical_and.reduce([asked, *(against(n, o) for o in others)])
    return result


@njit(cache=True, nogil=True, fastmath=True)
def _off(frames, i, j, y, x):
    """The squared distance of two frames' colours at a pixel."""
    a = np.int32(frames[i, y, x, 0]) - np.int32(frames[j, y, x, 0])
    b = np.int32(frames[i, y, x, 1]) - np.int32(frames[j, y, x, 1])
    c = np.int32(frames[i, y, x, 2]) - np.int32(frames[j, y, x, 2])
    return a * a + b * b + c * c


@njit(cache=True, nogil=True, fastmath=True)
def _alike(frames, i, j, y, x):
    """How alike two frames are at a pixel and around it, 0…1."""
    h, w = frames.shape[1:3]
    widest = np.float32(WIDTH * WIDTH)
    off = np.float32(_off(frames, i, j, y, x))
    if off >= widest:
        return np.float32(0)
    around = off
    for dy in (-NEXT, NEXT):
        for dx in (-NEXT, NEXT):
            other = _off(frames, i, j, min(max(y + dy, 0), h - 1), min(max(x + dx, 0), w - 1))
            around += min(np.float32(other), UNLIKE)
    return (WHOLE - off * FAR) / (WHOLE + around * CLOSE)


@njit(cache=True, nogil=True, fastmath=True)
def _apart(one, other, off):
    """The squared distances of two rows of colours (3, w): to (w,)."""
    for x in range(len(off)):
        red, green, blue = one[0, x] - other[0, x], one[1, x] - other[1, x], one[2, x] - other[2, x]
        off[x] = red * red + green * green + blue * blue


@njit(cache=True, nogil=True, fastmath=True)
def _agreed(row, weights, choice):
    """What most frames agree about in a row, which wins any vote: the frame (w,) that shows it, or -1."""
    n, _, w = row.shape
    near = np.float32(4 * TIGHT * TIGHT)
    off, whole, agreed = np.empty(w, np.float32), np.zeros(w, np.float32), np.empty(w, np.float32)
    choice[:] = -1
    for j in range(n):
        for x in range(w):
            whole[x] += weights[j, x]
    for k in range(3):
        i = (2 * k + 1) * n // 6
        agreed[:] = 0
        for j in range(n):
            _apart(row[j], row[i], off)
            for x in range(w):
                agreed[x] += weights[j, x] if off[x] < near else np.float32(0)
        for x in range(w):
            if choice[x] < 0 and weights[i, x] > 0 and agreed[x] > np.float32(0.6) * whole[x]:
                choice[x] = i


@njit(cache=True, nogil=True, fastmath=True)
def _voted(frames, weights, y, x, seen, votes, counts):
    """The frame that is most like all the others at a pixel and around it, each by its weight.

    seen: float32 (5, 3, n), votes, counts: float32 (2, n) and (n,), to work in.
    """
    n, h, w, _ = frames.shape
    above, below, before, after = max(y - NEXT, 0), min(y + NEXT, h - 1), max(x - NEXT, 0), min(x + NEXT, w - 1)
    for j in range(n):
        counts[j] = weights[j, y, x]
        for c in range(3):
            seen[0, c, j] = frames[j, y, x, c]
            seen[1, c, j] = frames[j, above, before, c]
            seen[2, c, j] = frames[j, above, after, c]
            seen[3, c, j] = frames[j, below, before, c]
            seen[4, c, j] = frames[j, below, after, c]
    choice, best = 0, np.float32(0)
    own, around = votes
    for i in range(n):
        if counts[i] <= 0:
            continue
        for k in range(5):
            red, green, blue = seen[k, 0], seen[k, 1], seen[k, 2]
            r, g, b = red[i], green[i], blue[i]
            for j in range(n):
                dr, dg, db = red[j] - r, green[j] - g, blue[j] - b
                off = dr * dr + dg * dg + db * db
                if k == 0:
                    own[j] = around[j] = off
                else:
                    around[j] += min(off, UNLIKE)
        vote = np.float32(0)
        for j in range(n):
            vote += counts[j] * max(NONE, WHOLE - own[j] * FAR) / (WHOLE + around[j] * CLOSE)
        if vote > best:
            best = vote
            choice = i
    return choice


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _densest(frames, weights, plate, support):
    """frames (n, h, w, 3), weights (n, h, w) to plate (h, w, 3) and support (h, w)."""
    n, h, w, _ = frames.shape
    widest = np.float32(WIDTH * WIDTH)
    for y in prange(h):
        # Row by row, and each channel by itself: several pixels are then taken at once.
        row = np.empty((n, 3, w), np.float32)
        for j in range(n):
            for x in range(w):
                for c in range(3):
                    row[j, c, x] = frames[j, y, x, c]
        counts = weights[:, y]
        choice = np.empty(w, np.int32)
        _agreed(row, counts, choice)
        seen, votes, own = np.empty((5, 3, n), np.float32), np.empty((2, n), np.float32), np.empty(n, np.float32)
        chosen, total = np.empty((3, w), np.float32), np.full(w, np.float32(1e-6))
        for x in range(w):
            if choice[x] < 0:
                choice[x] = _voted(frames, weights, y, x, seen, votes, own)
            for c in range(3):
                chosen[c, x] = row[choice[x], c, x]
        sums, off, weight = np.zeros((3, w), np.float32), np.empty(w, np.float32), np.empty(w, np.float32)
        for j in range(n):
            _apart(row[j], chosen, off)
            for x in range(w):
                weight[x] = counts[j, x] if off[x] < widest else np.float32(0)
            for x in range(w):
                if np.float32(0) < weight[x] < BORNE_OUT:
                    alike = _alike(frames, choice[x], j, y, x)
                    weight[x] = min(BORNE_OUT, weight[x] * (WHOLE + ALIKE * alike))
            for x in range(w):
                total[x] += weight[x]
                for c in range(3):
                    sums[c, x] += weight[x] * row[j, c, x]
        for x in range(w):
            for c in range(3):
                plate[y, x, c] = sums[c, x] / total[x]
            support[y, x] = total[x]


@njit(parallel=True, cache=True, nogil=True)
def _weighed(moving, valid, weights):
    """How much each frame counts by itself: where it moves against the camera, little."""
    n, h, w = moving.shape
    for k in range(n):
        for y in prange(h):
            for x in range(w):
                weights[k, y, x] = (MOVES if moving[k, y, x] else np.float32(1)) if valid[k, y, x] else np.float32(0)


@njit(parallel=True, cache=True, nogil=True)
def _less(weights, unwanted):
    """What is left of a frame's weights (h, w) where it shows what is unwanted, 0…1."""
    h, w = weights.shape
    for y in prange(h):
        for x in range(w):
            left = np.float32(1.4) - np.float32(2) * unwanted[y, x]
            weights[y, x] *= min(np.float32(1), max(np.float32(0), left))


def plate_of(
    stack: Stack,
    unwanted: np.ndarray | None = None,
    shown: np.ndarray | None = None,
    before: tuple[np.ndarray, np.ndarray, np.ndarray] | None = None,
) -> tuple[np.ndarray, np.ndarray]:
    """The scene without what moves through it, at the held frame.

    For each pixel the densest cluster of colours over time, WIDTH levels wide, in which frames that move there
    count little. `unwanted`, float32 (n, h, w), 0…1, says where a frame shows what must not be in the plate; where all
    frames do, the surroundings fill in. `shown`, bool (n, h, w), says where a frame is known to show the scene, see
    `ghosts`. before: a plate, its support, and where, bool (h, w), it is to be built anew.
    Returns the plate, uint8 (h, w, 3), and how many frames speak for it, float32 (h, w).
    """
    if before is not None:
        return _anew(stack, unwanted, shown, *before)
    weights = np.empty(stack.moving.shape, np.float32)
    _weighed(stack.moving, stack.valid, weights)
    if unwanted is not None:
        for own, what in zip(weights, unwanted, strict=True):
            _less(own, cv2.dilate(what.astype(np.float32, copy=False), np.ones((7, 7), np.uint8)))
    if shown is not None:
        weights = np.where(shown, KNOWN * np.maximum(weights, 0.3 * stack.valid), weights).astype(np.float32)
    plate = np.empty(stack.frames.shape[1:], np.float32)
    support = np.empty(stack.frames.shape[1:3], np.float32)
    _densest(stack.frames, weights, plate, support)
    if shown is not None:
        support = np.where(np.any(shown, 0), np.minimum(support * 3 / KNOWN, 9), support)
    built = np.clip(np.round(plate), 0, 255).astype(np.uint8)
    unseen = (support < 0.05).astype(np.uint8)
    if unwanted is not None and unseen.any():
        scale = min(1.0, 320 / max(built.shape[:2]))  # a guess needs no detail, and Telea (2004) is slow
        small = cv2.resize(built, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
        hole = cv2.resize(unseen, small.shape[1::-1], interpolation=cv2.INTER_NEAREST)
        filled = cv2.inpaint(small, cv2.dilate(hole, np.ones((3, 3), np.uint8)), 5, cv2.INPAINT_TELEA)
        filled = cv2.resize(filled, built.shape[1::-1], interpolation=cv2.INTER_LINEAR)
        built = np.where(unseen[..., None] > 0, filled, built)
    return built, support


def _anew(
    stack: Stack, unwanted: np.ndarray | None, shown: np.ndarray | None, plate: np.ndarray, support: np.ndarray,
    where: np.ndarray,
) -> tuple[np.ndarray, np.ndarray]:  # fmt: skip
    """A plate and its support, built anew where that is asked for, bool (h, w); see `plate_of`."""
    if not where.any():
        return plate, support
    box = around(where, CLOSE_BY)

    def part(many: np.ndarray) -> np.ndarray:
        return np.ascontiguousarray(many[(slice(None), *box)])

    near = Stack(part(stack.frames), part(stack.valid), part(stack.moving), stack.still)
    found = plate_of(near, None if unwanted is None else part(unwanted), None if shown is None else part(shown))
    result = plate.copy(), support.copy()
    for known, new in zip(result, found, strict=True):
        known[box][where[box]] = new[where[box]]
    return result


def noise_of(stack: Stack, plate: np.ndarray) -> np.ndarray:
    """How much the scene itself varies at each pixel, in levels: float32 (h, w).

    The median difference to the plate over the frames that show about the same there, evened out a little. What
    passes, even if it takes its time, is not the scene's own noise.
    """
    count = len(stack.frames) - 1
    taken = np.unique(np.linspace(1, count, min(count, 15)).round().astype(int))
    usual = np.empty(plate.shape[:2], np.float32)
    _usual(stack.frames, plate, stack.valid, taken, usual)
    return cv2.GaussianBlur(usual, (0, 0), 1.5)


@njit(parallel=True, cache=True, nogil=True)
def _usual(frames, plate, valid, taken, out):
    """The median of how far those frames (n, h, w, 3) that are taken and count are from a plate, or UNHEARD_OF."""
    h, w = out.shape
    levels = int(WIDTH)
    for y in prange(h):
        many = np.empty(levels, np.int32)  # frames by how far they are
        for x in range(w):
            many[:] = 0
            count = 0
            for k in taken:
                if valid[k, y, x]:
                    red = abs(np.int32(frames[k, y, x, 0]) - np.int32(plate[y, x, 0]))
                    green = abs(np.int32(frames[k, y, x, 1]) - np.int32(plate[y, x, 1]))
                    blue = abs(np.int32(frames[k, y, x, 2]) - np.int32(plate[y, x, 2]))
                    value = max(red, green, blue)
                    if value < levels:
                        many[value] += 1
                        count += 1
            passed, level = many[0], 0
            while count and passed <= (count - 1) // 2:
                level += 1
                passed += many[level]
            out[y, x] = np.float32(level) if count else UNHEARD_OF
