"""Noise, pixel by pixel."""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True, inline="always")
def hashed(x, y, seed):
    """A number 0…1 of two whole numbers and a seed: the finaliser of MurmurHash3 (Appleby 2011)."""
    # Numba does its sums in 64 bits; the hash is one of 32.
    low = np.uint64(0xFFFFFFFF)
    h = np.uint64(x) * np.uint64(0x9E3779B1) ^ np.uint64(y) * np.uint64(0x85EBCA77)
    h = (h ^ np.uint64(seed) * np.uint64(0xC2B2AE3D)) & low
    h = (h ^ (h >> np.uint64(16))) * np.uint64(0x85EBCA6B) & low
    h = (h ^ (h >> np.uint64(13))) * np.uint64(0xC2B2AE35) & low
    h = h ^ (h >> np.uint64(16))
    return np.float32(h) * np.float32(1 / 4294967296.0)


@njit(cache=True, nogil=True, fastmath=True)
def value_noise(out, left, top, step, size, seed, octaves):
    """Value noise in octaves, 0…1, with quintic steps between its lattice (Perlin 2002)."""
    height, width = out.shape
    for r in range(height):
        for c in range(width):
            total = np.float32(0)
            weight = np.float32(1)
            most = np.float32(0)
            cell = size
            for o in range(octaves):
                x, y = (left + (c + 0.5) * step) / cell, (top + (r + 0.5) * step) / cell
                ix, iy = int(np.floor(x)), int(np.floor(y))
                fx, fy = np.float32(x - ix), np.float32(y - iy)
                fx = fx * fx * fx * (fx * (fx * 6 - 15) + 10)
                fy = fy * fy * fy * (fy * (fy * 6 - 15) + 10)
                s = seed + 7919 * o
                a, b = hashed(ix, iy, s), hashed(ix + 1, iy, s)
                d, e = hashed(ix, iy + 1, s), hashed(ix + 1, iy + 1, s)
                total += weight * ((a + (b - a) * fx) * (1 - fy) + (d + (e - d) * fx) * fy)
                most += weight
                weight *= np.float32(0.5)
                cell *= 0.5
            out[r, c] = total / most


@njit(cache=True, nogil=True, fastmath=True)
def grain(out, left, top, size, seed):
    """Grain of about the spread of one: the mean of four even chances in each cell of a size."""
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            x, y = int(np.floor((left + c + 0.5) / size)), int(np.floor((top + r + 0.5) / size))
            # Close to a bell: the mean of four.
            total = np.float32(0)
            for n in range(4):
                total += hashed(x, y, seed + 101 * n)
            out[r, c] = (total * np.float32(0.25) - np.float32(0.5)) * np.float32(3.464)
