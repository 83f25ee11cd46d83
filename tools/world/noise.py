"""Tiling noise textures and the lookups that the kernels share.

The textures are an argument of every kernel, never a global: that is what lets numba cache the
compiled code on disk.
"""

import math

import numpy as np
from numba import njit

SIZE = 1024
"""Side of each texture, in texels; a power of two, because lookups wrap with a bit mask."""


def gradient_noise(size: int, cells: int, seed: int) -> np.ndarray:
    """Perlin's gradient noise (Perlin 2002, quintic fade) that tiles.

    Returns a float64 array (size, size), about -0.7…0.7.
    """
    rng = np.random.default_rng(seed)
    angle = rng.uniform(0, 2 * np.pi, (cells, cells))
    gx, gy = np.cos(angle), np.sin(angle)
    at = np.arange(size) * cells / size
    low = at.astype(int)
    part = at - low
    high = (low + 1) % cells
    fade = part**3 * (part * (part * 6 - 15) + 10)
    x, y = np.meshgrid(part, part)
    fx, fy = np.meshgrid(fade, fade)

    def corner(row: np.ndarray, column: np.ndarray, dx: int, dy: int) -> np.ndarray:
        grid = np.ix_(row, column)
        return gx[grid] * (x - dx) + gy[grid] * (y - dy)

    top = corner(low, low, 0, 0) * (1 - fx) + corner(low, high, 1, 0) * fx
    bottom = corner(high, low, 0, 1) * (1 - fx) + corner(high, high, 1, 1) * fx
    return top * (1 - fy) + bottom * fy


def textures() -> np.ndarray:
    """The two textures of the world: plain noise, and six octaves of it.

    Returns a float32 array (2, SIZE, SIZE).
    """
    plain = gradient_noise(SIZE, 64, 1) * 1.5
    octaves = sum(gradient_noise(SIZE, 8 * 2**k, 10 + k) * 0.5**k for k in range(6))
    octaves = octaves / np.std(octaves) * 0.35
    return np.ascontiguousarray(np.stack([plain, octaves]).astype(np.float32))


@njit(fastmath=True, cache=True)
def lookup(tex, layer, u, v):
    """Bilinear, wrapping lookup at texel coordinates (u, v)."""
    fu = math.floor(u)
    fv = math.floor(v)
    a = u - fu
    b = v - fv
    i0 = int(fu) & 1023
    i1 = (i0 + 1) & 1023
    j0 = int(fv) & 1023
    j1 = (j0 + 1) & 1023
    top = tex[layer, j0, i0] * (1 - a) + tex[layer, j0, i1] * a
    bottom = tex[layer, j1, i0] * (1 - a) + tex[layer, j1, i1] * a
    return top * (1 - b) + bottom * b


@njit(fastmath=True, cache=True)
def plain(tex, x, y):
    """Plain noise, one unit a cell, about -1…1."""
    return lookup(tex, 0, x * 16.0, y * 16.0)


@njit(fastmath=True, cache=True)
def cloudy(tex, x, y):
    """Six octaves of noise, one unit a base cell, about -1…1."""
    return lookup(tex, 1, x * 128.0, y * 128.0)


@njit(fastmath=True, cache=True)
def smooth(a, b, x):
    """Hermite step from 0 at a to 1 at b."""
    t = (x - a) / (b - a)
    t = 0.0 if t < 0 else (1.0 if t > 1 else t)
    return t * t * (3 - 2 * t)


@njit(fastmath=True, cache=True)
def clamp(x, low, high):
    """x, held within low…high."""
    return low if x < low else (high if x > high else x)
