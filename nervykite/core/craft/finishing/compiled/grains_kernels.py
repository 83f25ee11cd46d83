"""Grains, one after the other."""

import numpy as np
from numba import njit

from .noise_kernels import hashed


@njit(cache=True, nogil=True, fastmath=True)
def carry(
    rgba, gone, flow_x, flow_y, cell, ux, uy, distance, unrest, spin, fade, seed, corner_x, corner_y, left, top, out
):
    """Puts each cell that has left where it is by now; what has not left is there already.

    left, top: where the picture's corner lies in what comes out.
    """
    h, w = gone.shape
    first_x, first_y = int(np.floor(corner_x / cell)), int(np.floor(corner_y / cell))
    rows, columns = int(np.ceil(h / cell)) + 1, int(np.ceil(w / cell)) + 1
    for j in range(rows):
        for i in range(columns):
            cx = (first_x + i) * cell - corner_x
            cy = (first_y + j) * cell - corner_y
            mx, my = int(cx + cell / 2), int(cy + cell / 2)
            if mx < 0 or my < 0 or mx >= w or my >= h:
                continue
            t = gone[my, mx]
            if t <= 0:
                continue
            # Most of what a figure has around it is empty.
            l0, t0 = max(0, int(cx)), max(0, int(cy))
            l1, t1 = min(w - 1, int(cx + cell)), min(h - 1, int(cy + cell))
            seen = max(max(rgba[t0, l0, 3], rgba[t0, l1, 3]), max(rgba[t1, l0, 3], rgba[t1, l1, 3]))
            if max(seen, rgba[my, mx, 3]) <= 0:
                continue
            chance = hashed(first_x + i, first_y + j, seed)
            other = hashed(first_x + i, first_y + j, seed + 17)
            # Light ones fly farther; all of them slow down.
            far = distance * (0.35 + 0.65 * chance) * t * (2 - t)
            dx = far * (ux + unrest * 0.9 * flow_x[my, mx])
            dy = far * (uy + unrest * 0.9 * flow_y[my, mx])
            size = 1 - 0.65 * t * (0.4 + 0.6 * other)
            keep = 1 - fade * t * t
            if t > np.float32(0.98):
                keep *= (1 - t) / np.float32(0.02) if fade >= np.float32(0.999) else 1
            turn = spin * 6.0 * (chance - 0.5) * t
            c, s = np.cos(turn), np.sin(turn)
            px, py = cx + cell / 2 + dx, cy + cell / 2 + dy
            _put(rgba, out, cx + cell / 2, cy + cell / 2, px, py, c, s, cell * size / 2, size, keep, left, top)


@njit(cache=True, nogil=True, fastmath=True, inline="always")
def _put(rgba, out, mx, my, px, py, c, s, half, size, keep, left, top):
    """Puts the square about mx, my of a picture about px, py, turned (c, s) and of another size, over what is there."""
    (h, w), (high, wide) = rgba.shape[:2], out.shape[:2]
    reach = half * (abs(c) + abs(s)) + 1
    r0, r1 = max(-top, int(py - reach)), min(high - top, int(py + reach) + 2)
    c0, c1 = max(-left, int(px - reach)), min(wide - left, int(px + reach) + 2)
    for r in range(r0, r1):
        for q in range(c0, c1):
            x, y = q + 0.5 - px, r + 0.5 - py
            a, b = c * x + s * y, -s * x + c * y
            inside = min(half - abs(a), half - abs(b)) + 0.5
            if inside > 0:
                cover = np.float32(min(inside, 1.0) * keep)
                # Its own part of the picture, as it was.
                sx = min(max(int(mx + a / size), 0), w - 1)
                sy = min(max(int(my + b / size), 0), h - 1)
                alpha = rgba[sy, sx, 3] * cover
                if alpha > 0:
                    for n in range(4):
                        out[top + r, left + q, n] = rgba[sy, sx, n] * cover + out[top + r, left + q, n] * (1 - alpha)
