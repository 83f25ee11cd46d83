"""Colours beyond an edge, how fast they change, and where that is most."""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True, fastmath=True)
def ridge(much, turn, out):
    """Keeps of a strength (h, w) what is largest across its direction: non-maximum suppression (Canny 1986)."""
    h, w = much.shape
    for r in range(1, h - 1):
        for c in range(1, w - 1):
            m = much[r, c]
            if m <= np.float32(1e-4):
                continue
            x, y = np.cos(turn[r, c]), np.sin(turn[r, c])
            # The larger of both neighbours across the edge, between pixels.
            most = np.float32(0)
            for sign in (-1.0, 1.0):
                px, py = c + sign * x, r + sign * y
                i, j = min(int(py), h - 2), min(int(px), w - 2)
                fy, fx = np.float32(py - i), np.float32(px - j)
                near = (much[i, j] * (1 - fx) + much[i, j + 1] * fx) * (1 - fy)
                near += (much[i + 1, j] * (1 - fx) + much[i + 1, j + 1] * fx) * fy
                most = max(most, near)
            if m >= most:
                out[r, c] = m


@njit(cache=True, nogil=True, fastmath=True)
def tensor(dx, dy, unit, much, turn):
    """The structure tensor: how fast three channels change together, and which way, of their slopes (h, w, 3) in so
    large units.
    """
    half = np.float32(0.5)
    for r in range(much.shape[0]):
        for c in range(much.shape[1]):
            e = f = g = np.float32(0)
            for n in range(3):
                x, y = dx[r, c, n] * unit, dy[r, c, n] * unit
                e += x * x
                f += x * y
                g += y * y
            apart = (e - g) * half
            much[r, c] = np.sqrt((e + g) * half + np.sqrt(apart * apart + f * f))
            # Where next to nothing changes nobody asks which way.
            turn[r, c] = half * np.arctan2(f, apart) if much[r, c] > np.float32(1e-4) else np.float32(0)


@njit(cache=True, nogil=True, fastmath=True)
def clipped(pixels, out):
    """Premultiplied pixels (n, 4) without light beyond what is covered."""
    one, zero = np.float32(1), np.float32(0)
    for i in range(out.shape[0]):
        a = min(max(pixels[i, 3], zero), one)
        for n in range(3):
            out[i, n] = min(max(pixels[i, n], zero), a)
        out[i, 3] = a


@njit(cache=True, nogil=True, fastmath=True)
def fill(level, out):
    """Adds what a level covers over what is there already, (n, 3)."""
    for i in range(out.shape[0]):
        left = np.float32(1) - level[i, 3]
        for n in range(3):
            out[i, n] = level[i, n] + left * out[i, n]


@njit(cache=True, nogil=True, fastmath=True)
def tubes(pixels, paint, tube, far, strength, base, dark):
    """Tubes of light, and what they throw about them, on premultiplied linear pixels (n, 4), of which so much is kept.

    paint: the light's colours, (n, 3), or one, (1, 3); the dark base hides what lies below, light beyond it adds to it.
    """
    one, zero = np.float32(1), np.float32(0)
    for i in range(tube.size):
        t, k = tube[i], i if paint.shape[0] > 1 else 0
        much = (t + far[i]) * strength
        core = np.float32(0.9) * min(max(t - np.float32(0.55), zero), one)
        for n in range(3):
            pixels[i, n] = min(pixels[i, n] * base + paint[k, n] * much + core, one)
        alpha = min(max(pixels[i, 3], zero), one)
        glass = min(max(np.float32(0.4) * t, zero), one) if alpha > np.float32(0.02) else zero
        pixels[i, 3] = max(alpha * dark, glass)
