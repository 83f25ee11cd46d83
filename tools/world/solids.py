"""Solids made of tapered capsules: how they are collected, and their signed distances.

Capsules of one material melt into each other (a smooth union); materials meet in hard seams.
Each run of capsules with the same material and limb is a *segment* with a bounding sphere, and a ray
carries a bit mask of the segments it can touch, which is most of the speed.

A capsule is a row of `ROW` numbers: origin (3), axes x, y, z (9), length, radius at the origin, radius at
the end, scale across x, scale across z, melt distance, pattern, offset along y for the pattern; and worked out
from these, for speed: slope and its cosine, 1 over each scale, the smaller scale.
"""

import math

import numpy as np
from numba import njit

from .noise import clamp

ROW = 25


def unit(v) -> np.ndarray:
    """The vector (3,) scaled to length one."""
    v = np.asarray(v, float)
    return v / np.linalg.norm(v)


class Solid:
    """Collects capsules and packs them for the kernels."""

    def __init__(self) -> None:
        self._capsules: list[tuple[int, int, list[float]]] = []

    def add(self, material, limb, a, b, r1, r2, ref, sx=1.0, sz=1.0, melt=0.02, pattern=0, offset=0.0):
        """Adds a capsule from a to b with radii r1 and r2; `ref` points roughly along its own x axis."""
        a, b = np.asarray(a, float), np.asarray(b, float)
        along = unit(b - a)
        ref = np.asarray(ref, float)
        across = unit(ref - along * np.dot(ref, along))
        third = np.cross(across, along)
        length = max(float(np.linalg.norm(b - a)), abs(r1 - r2) * 1.05 + 1e-3)
        row = [*a, *across, *along, *third, length, r1, r2, sx, sz, melt, pattern, offset]
        slope = (r1 - r2) / length
        row += [slope, math.sqrt(max(1e-6, 1 - slope * slope)), 1 / sx, 1 / sz, min(1.0, sx, sz)]
        self._capsules.append((material, limb, row))

    def pack(self) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
        """Rows (n, ROW), segments (m, 3: material, first, past), spheres (m, 4), and the sphere of all (4,)."""
        ordered = sorted(self._capsules, key=lambda c: c[:2])
        rows = np.array([c[2] for c in ordered])
        segments, spheres = [], []
        first = 0
        while first < len(ordered):
            past = first
            while past < len(ordered) and ordered[past][:2] == ordered[first][:2]:
                past += 1
            segments.append((ordered[first][0], first, past))
            spheres.append(bounding_sphere(rows[first:past]))
            first = past
        return rows, np.array(segments, np.int64), np.array(spheres), bounding_sphere(rows)


def bounding_sphere(rows: np.ndarray) -> np.ndarray:
    """A sphere (x, y, z, radius) around capsules (n, ROW)."""
    ends = np.vstack([rows[:, :3], rows[:, :3] + rows[:, 6:9] * rows[:, 12:13]])
    wide = np.maximum(1, np.maximum(rows[:, 15], rows[:, 16]))
    radius = np.tile(np.maximum(rows[:, 13], rows[:, 14]) * wide, 2)
    centre = ((ends - radius[:, None]).min(0) + (ends + radius[:, None]).max(0)) / 2
    return np.array([*centre, (np.linalg.norm(ends - centre, axis=1) + radius).max()])


@njit(fastmath=True, cache=True)
def capsule(rows, i, x, y, z):
    """Distance to capsule i (Quilez's round cone, scaled across)."""
    x -= rows[i, 0]
    y -= rows[i, 1]
    z -= rows[i, 2]
    lx = (x * rows[i, 3] + y * rows[i, 4] + z * rows[i, 5]) * rows[i, 22]
    ly = x * rows[i, 6] + y * rows[i, 7] + z * rows[i, 8]
    lz = (x * rows[i, 9] + y * rows[i, 10] + z * rows[i, 11]) * rows[i, 23]
    length = rows[i, 12]
    r1 = rows[i, 13]
    r2 = rows[i, 14]
    s = rows[i, 24]
    q = math.sqrt(lx * lx + lz * lz)
    b = rows[i, 20]
    a = rows[i, 21]
    k = -b * q + a * ly
    if k < 0:
        return (math.sqrt(q * q + ly * ly) - r1) * s
    if k > a * length:
        return (math.sqrt(q * q + (ly - length) * (ly - length)) - r2) * s
    return (q * a + ly * b - r1) * s


@njit(fastmath=True, cache=True)
def distance(rows, segments, spheres, mask, x, y, z, limit):
    """Distance to the solid, at most `limit`, with the material and the nearest capsule."""
    best = limit
    material = -1
    which = -1
    here = 1e9
    here_which = -1
    current = -1
    nearest = 1e9
    for s in range(segments.shape[0]):
        if not (mask >> s) & 1:
            continue
        g = segments[s, 0]
        if g != current:
            if here < best:
                best = here
                material = current
                which = here_which
            here = 1e9
            here_which = -1
            current = g
            nearest = 1e9
        ex = x - spheres[s, 0]
        ey = y - spheres[s, 1]
        ez = z - spheres[s, 2]
        clear = min(best, here) + 0.06 + spheres[s, 3]
        if ex * ex + ey * ey + ez * ez > clear * clear:
            continue
        for i in range(segments[s, 1], segments[s, 2]):
            e = capsule(rows, i, x, y, z)
            if e < nearest:
                nearest = e
                here_which = i
            k = rows[i, 17]
            h = k - abs(here - e)
            m = min(here, e)
            if h > 0:
                m -= h * h / (4 * k)
            here = m
    if here < best:
        best = here
        material = current
        which = here_which
    return best, material, which


@njit(fastmath=True, cache=True)
def mask_of_ray(spheres, ox, oy, oz, dx, dy, dz, pad):
    """The segments whose sphere, widened by `pad`, the ray can touch: a bit each."""
    mask = 0
    for s in range(spheres.shape[0]):
        ex = spheres[s, 0] - ox
        ey = spheres[s, 1] - oy
        ez = spheres[s, 2] - oz
        along = ex * dx + ey * dy + ez * dz
        r = spheres[s, 3] + pad
        e2 = ex * ex + ey * ey + ez * ez
        if along < 0 and e2 > r * r:
            continue
        if e2 - along * along < r * r:
            mask |= 1 << s
    return mask


@njit(fastmath=True, cache=True)
def span_of_ray(spheres, ox, oy, oz, dx, dy, dz):
    """The segments whose sphere, a little widened, the ray meets: a bit each, and from where to where it does."""
    mask = 0
    first = 1e9
    last = -1e9
    for s in range(spheres.shape[0]):
        ex = spheres[s, 0] - ox
        ey = spheres[s, 1] - oy
        ez = spheres[s, 2] - oz
        along = ex * dx + ey * dy + ez * dz
        r = spheres[s, 3] + 0.05
        off2 = ex * ex + ey * ey + ez * ez - along * along
        if off2 < r * r:
            half = math.sqrt(r * r - off2)
            if along + half > 0:
                mask |= 1 << s
                first = min(first, along - half)
                last = max(last, along + half)
    return mask, max(first, 0.05), last


@njit(fastmath=True, cache=True)
def mask_near(spheres, x, y, z, pad):
    """The segments whose sphere, widened by `pad`, holds the point: a bit each."""
    mask = 0
    for s in range(spheres.shape[0]):
        ex = spheres[s, 0] - x
        ey = spheres[s, 1] - y
        ez = spheres[s, 2] - z
        r = spheres[s, 3] + pad
        if ex * ex + ey * ey + ez * ez < r * r:
            mask |= 1 << s
    return mask


@njit(fastmath=True, cache=True)
def sunlight(rows, segments, spheres, around, x, y, z, lx, ly, lz, hardness):
    """Share of the sun that reaches a point past the solid, 0…1, with a soft edge (Quilez 2010)."""
    ox = around[0] - x
    oy = around[1] - y
    oz = around[2] - z
    along = ox * lx + oy * ly + oz * lz
    r = around[3] + 0.12
    off2 = ox * ox + oy * oy + oz * oz - along * along
    if off2 > r * r:
        return 1.0
    half = math.sqrt(r * r - off2)
    last = along + half
    if last <= 0:
        return 1.0
    mask = mask_of_ray(spheres, x, y, z, lx, ly, lz, 0.11)
    if mask == 0:
        return 1.0
    t = max(0.02, along - half)
    lit = 1.0
    for _ in range(40):
        d, _m, _p = distance(rows, segments, spheres, mask, x + lx * t, y + ly * t, z + lz * t, 1e3)
        lit = min(lit, 0.5 + 0.5 * hardness * d / t)
        if lit < 0.0:
            return 0.0
        t += clamp(d * 0.9, 0.012, 0.25)
        if t > last:
            break
    lit = clamp(lit, 0.0, 1.0)
    return lit * lit * (3 - 2 * lit)


@njit(fastmath=True, cache=True)
def local(rows, i, x, y, z):
    """The point in capsule i's own axes, y counted from the pattern's offset."""
    qx = x - rows[i, 0]
    qy = y - rows[i, 1]
    qz = z - rows[i, 2]
    return (
        qx * rows[i, 3] + qy * rows[i, 4] + qz * rows[i, 5],
        qx * rows[i, 6] + qy * rows[i, 7] + qz * rows[i, 8] + rows[i, 19],
        qx * rows[i, 9] + qy * rows[i, 10] + qz * rows[i, 11],
    )
