"""The densest cluster: what most frames of a stack agree about at each pixel, and around it."""

import numpy as np
from numba import njit, prange

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
MOST, TRIED = np.float32(0.6), 3
"""The share of all that has to agree with a frame to win without a vote, and how many frames are tried."""
NONE, WHOLE = np.float32(0), np.float32(1)


def densest(frames: np.ndarray, weights: np.ndarray, where: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The mean colour of the densest cluster of frames at each pixel, float32 (h, w, 3), and its weight, (h, w).

    frames: uint8 (n, h, w, 3); weights: float32 (n, h, w), how much each frame counts; where: bool (h, w), the pixels
    that are asked about, the others being of no use. A cluster is WIDTH levels wide.
    """
    plate, support = np.empty(frames.shape[1:], np.float32), np.empty(frames.shape[1:3], np.float32)
    _densest(frames, weights, where, plate, support)
    return plate, support


@njit(cache=True, nogil=True, fastmath=True)
def _off(frames, i, j, y, x):
    """The squared distance of two frames' colours at a pixel."""
    a = np.int32(frames[i, y, x, 0]) - np.int32(frames[j, y, x, 0])
    b = np.int32(frames[i, y, x, 1]) - np.int32(frames[j, y, x, 1])
    c = np.int32(frames[i, y, x, 2]) - np.int32(frames[j, y, x, 2])
    return a * a + b * b + c * c


@njit(cache=True, nogil=True, fastmath=True)
def _alike(frames, i, j, y, x):
    """The likeness of two frames at a pixel and around it, 0…1."""
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
    """The frame (w,) that most agree with in a row, which wins any vote, or -1."""
    n, _, w = row.shape
    near = np.float32(4 * TIGHT * TIGHT)
    off, whole, agreed = np.empty(w, np.float32), np.zeros(w, np.float32), np.empty(w, np.float32)
    choice[:] = -1
    for j in range(n):
        for x in range(w):
            whole[x] += weights[j, x]
    for k in range(TRIED):
        i = (2 * k + 1) * n // (2 * TRIED)
        agreed[:] = 0
        for j in range(n):
            _apart(row[j], row[i], off)
            for x in range(w):
                agreed[x] += weights[j, x] if off[x] < near else NONE
        for x in range(w):
            if choice[x] < 0 and weights[i, x] > 0 and agreed[x] > MOST * whole[x]:
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
    choice, best = 0, NONE
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
        vote = NONE
        for j in range(n):
            vote += counts[j] * max(NONE, WHOLE - own[j] * FAR) / (WHOLE + around[j] * CLOSE)
        if vote > best:
            best = vote
            choice = i
    return choice


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _densest(frames, weights, where, plate, support):
    """Frames (n, h, w, 3), weights (n, h, w) to plate (h, w, 3) and support (h, w)."""
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
                choice[x] = _voted(frames, weights, y, x, seen, votes, own) if where[y, x] else 0
            for c in range(3):
                chosen[c, x] = row[choice[x], c, x]
        sums, off, weight = np.zeros((3, w), np.float32), np.empty(w, np.float32), np.empty(w, np.float32)
        for j in range(n):
            _apart(row[j], chosen, off)
            for x in range(w):
                weight[x] = counts[j, x] if off[x] < widest else NONE
            for x in range(w):
                if NONE < weight[x] < BORNE_OUT:
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
