"""The plate of a stack: the scene without what moves through it, and how much that varies."""

import cv2
import numpy as np
from numba import njit, prange

from ..matte.part import around
from .densest import WIDTH, densest
from .resynth import flown_in
from .stack import Stack

UNHEARD_OF = np.float32(8)
"""How much a scene is taken to vary where no two frames show the same, in levels."""
CLOSE_BY = 24
"""How far around a place that is built anew, in pixels, the scene is looked at."""
MOVES = np.float32(0.08)
"""How much a frame counts where something moves against the camera."""
KNOWN, AT_LEAST = np.float32(10), np.float32(0.3)
"""How many times as much a frame counts where it is known to show the scene, and what it counts for at least."""


@njit(parallel=True, cache=True, nogil=True)
def _weighed(moving, valid, weights):
    """The weights of each frame by itself: where it moves against the camera, little."""
    n, h, w = moving.shape
    for k in range(n):
        for y in prange(h):
            for x in range(w):
                weights[k, y, x] = (MOVES if moving[k, y, x] else np.float32(1)) if valid[k, y, x] else np.float32(0)


@njit(parallel=True, cache=True, nogil=True)
def _less(weights, unwanted):
    """The rest of a frame's weights (h, w) where it shows what is unwanted, 0…1."""
    h, w = weights.shape
    for y in prange(h):
        for x in range(w):
            left = np.float32(1.4) - np.float32(2) * unwanted[y, x]
            weights[y, x] *= min(np.float32(1), max(np.float32(0), left))


@njit(parallel=True, cache=True, nogil=True)
def _surely(weights, shown, valid):
    """The weights of frames where they are known to show the scene, in place."""
    n, h, w = weights.shape
    for k in range(n):
        for y in prange(h):
            for x in range(w):
                if shown[k, y, x]:
                    weights[k, y, x] = KNOWN * max(weights[k, y, x], AT_LEAST if valid[k, y, x] else np.float32(0))


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
    if before is None:
        return _built(stack, unwanted, shown, np.ones(stack.frames.shape[1:3], bool), None)
    plate, support, where = before
    if not where.any():
        return plate, support
    box = around(where, CLOSE_BY)

    def part(many: np.ndarray) -> np.ndarray:
        return np.ascontiguousarray(many[(slice(None), *box)])

    near = Stack(part(stack.frames), part(stack.valid), part(stack.moving), stack.still)
    less, more = (None if values is None else part(values) for values in (unwanted, shown))
    found = _built(near, less, more, np.ascontiguousarray(where[box]), plate[box])
    result = plate.copy(), support.copy()
    for known, new in zip(result, found, strict=True):
        known[box] = cv2.copyTo(new, where[box].astype(np.uint8), known[box])
    return result


def _built(
    stack: Stack, unwanted: np.ndarray | None, shown: np.ndarray | None, where: np.ndarray, known: np.ndarray | None
) -> tuple[np.ndarray, np.ndarray]:
    """The plate and its support, see `plate_of`, where that is asked for, bool (h, w); known: it elsewhere."""
    weights = np.empty(stack.moving.shape, np.float32)
    _weighed(stack.moving, stack.valid, weights)
    if unwanted is not None:
        for own, what in zip(weights, unwanted, strict=True):
            _less(own, cv2.dilate(what.astype(np.float32, copy=False), np.ones((7, 7), np.uint8)))
    if shown is not None:
        _surely(weights, shown, stack.valid)
    plate, support = densest(stack.frames, weights, where)
    if shown is not None:
        support = np.where(np.any(shown, 0), np.minimum(support * 3 / KNOWN, 9), support)
    built = np.clip(np.round(plate), 0, 255).astype(np.uint8)
    if known is not None:
        built[~where] = known[~where]
    unseen = (where & (support < 0.05)).astype(np.uint8)
    if unwanted is not None and unseen.any():
        scale = min(1.0, 320 / max(built.shape[:2]))  # a guess needs no detail, and Telea (2004) is slow
        small = cv2.resize(built, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
        hole = cv2.resize(unseen, small.shape[1::-1], interpolation=cv2.INTER_NEAREST)
        filled = cv2.resize(flown_in(small, hole > 0), built.shape[1::-1], interpolation=cv2.INTER_LINEAR)
        built = np.where(unseen[..., None] > 0, filled, built)
    return built, support


def noise_of(stack: Stack, plate: np.ndarray) -> np.ndarray:
    """The variation of the scene itself at each pixel, in levels: float32 (h, w).

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
