"""Many small things put onto a picture, one after the other: flakes, drops, leaves, sparks. Places are pixels."""

import math

import numpy as np
from numba import njit

DISC, SLIP, LEAF, BUBBLE, STREAK = 0, 1, 2, 3, 4
"""Forms: an oval, a slip of paper, a leaf, a bubble's rim with its light, a streak that is bright at its head."""


@njit(cache=True, nogil=True, fastmath=True)
def put(form, at, half, turn, soft, colour, light, out):
    """Puts specks on premultiplied R'G'B'A, float32 (h, w, 4).

    at (n, 2): their middles; half (n, 2): half their length and width; turn (n): in radians; soft (n): how wide their
    edge is; colour (n, 4): R'G'B' and opacity; light: how much they add to what is below rather than cover it, 0…1.
    """
    high, wide = out.shape[0], out.shape[1]
    for n in range(at.shape[0]):
        opacity = colour[n, 3]
        long, thin = half[n, 0], half[n, 1]
        # What is thinner than a pixel is fainter, not as wide as one.
        if thin < np.float32(0.5):
            opacity *= thin * 2
            thin = np.float32(0.5)
        if long < np.float32(0.5):
            opacity *= long * 2
            long = np.float32(0.5)
        if opacity <= np.float32(0.002):
            continue
        edge = max(soft[n], np.float32(1))
        c, s = np.float32(math.cos(turn[n])), np.float32(math.sin(turn[n]))
        room = edge * np.float32(0.5) + 1
        across = abs(c) * long + abs(s) * thin + room
        down = abs(s) * long + abs(c) * thin + room
        x0, x1 = max(0, int(at[n, 0] - across)), min(wide, int(at[n, 0] + across) + 2)
        y0, y1 = max(0, int(at[n, 1] - down)), min(high, int(at[n, 1] + down) + 2)
        for y in range(y0, y1):
            dy = y + np.float32(0.5) - at[n, 1]
            for x in range(x0, x1):
                dx = x + np.float32(0.5) - at[n, 0]
                u, v = c * dx + s * dy, c * dy - s * dx
                much = _covered(form, u, v, long, thin, edge)
                if much <= 0:
                    continue
                much *= opacity
                left = 1 - much * (1 - light)
                for k in range(3):
                    out[y, x, k] = out[y, x, k] * left + colour[n, k] * much
                out[y, x, 3] = out[y, x, 3] * left + much * (1 - light)


@njit(cache=True, nogil=True, fastmath=True, inline="always")
def _covered(form, u, v, long, thin, edge):
    """The coverage of a pixel at a place along and across a speck."""
    if form == SLIP:
        inside = min(long - abs(u), thin - abs(v))
    elif form == LEAF:
        # Two arcs that meet in points, a stalk's width thicker in the first half.
        at = u / long
        inside = thin * (1 - at * at) * (1 - np.float32(0.25) * at) - abs(v)
    elif form == STREAK:
        # Bright at its head, and gone at its tail; soft across.
        at = (u / long + 1) * np.float32(0.5)
        if at <= 0 or at >= 1:
            return np.float32(0)
        side = abs(v) / thin
        if side >= 1:
            return np.float32(0)
        head = min((1 - at) * np.float32(12), np.float32(1))
        return at * at * head * (1 - side * side)
    else:
        far = np.sqrt((u / long) ** 2 + (v / thin) ** 2)
        if form == BUBBLE:
            rim = np.float32(1) - abs(far - np.float32(0.92)) / np.float32(0.08)
            shine = np.sqrt((u + np.float32(0.38) * long) ** 2 + (v + np.float32(0.38) * thin) ** 2)
            spot = np.float32(1) - shine / (np.float32(0.2) * long)
            glaze = np.float32(0.14) * far * far if far < 1 else np.float32(0)
            return min(max(max(rim * np.float32(0.8), spot), glaze), np.float32(1))
        inside = (1 - far) * min(long, thin)
    much = min(max(inside / edge + np.float32(0.5), np.float32(0)), np.float32(1))
    return much * much * (3 - 2 * much)
