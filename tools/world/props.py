"""The flying and standing things on the beach: flags, kites and their tails, the pier, gulls."""

import math

import numpy as np

from .mesh import block, depth_of, hazed, lit, post, ribbon
from .place import SEA_LEVEL, height
from .solids import unit

CORAL, CREAM, MUSTARD, TEAL = (0.90, 0.13, 0.06), (0.93, 0.86, 0.70), (0.98, 0.58, 0.05), (0.02, 0.30, 0.36)
DEEP, AQUA, OCHRE = (0.055, 0.16, 0.30), (0.02, 0.40, 0.45), (0.62, 0.36, 0.13)


def flag(mesh, tex, x, z, tall, pattern, colours, time, camera, seed):
    """A pole with a flag that streams to the left; pattern is 'bars', 'slant' or 'disc'."""
    wide, deep = 0.95, 0.62
    foot = np.array([x, height(tex, x, z) - 0.1, z])
    top = foot + [0, tall, 0]
    post(mesh, foot, top, 0.028, 0.018, (0.80, 0.76, 0.68), camera)
    post(mesh, top, top + [0, 0.05, 0], 0.035, 0.02, MUSTARD, camera)
    u, v = np.linspace(0, 1, 44)[None, :], np.linspace(0, 1, 26)[:, None]
    phase = seed * 1.7
    sway = 0.13 * np.sqrt(u) * wide
    wave = np.sin(u * 8.5 - time * 9 + phase + v * 1.3) * sway
    wave = wave + 0.4 * sway * np.sin(u * 15 - time * 14 + phase * 2 - v * 2.2)
    px = -(u * wide * 0.94) + 0 * v
    py = -(v * deep) - 0.20 * u**1.5 * deep + 0.03 * np.sin(u * 7 - time * 8 + phase)
    points = np.stack([px, py + 0 * u, wave - 0.25 * u], -1) + top - [0, 0.06, 0]
    normal = np.cross(np.gradient(points, axis=0), np.gradient(points, axis=1))
    normal /= np.linalg.norm(normal, axis=-1, keepdims=True) + 1e-9
    normal *= -np.sign((normal * (points - camera[:3])).sum(-1, keepdims=True))
    if pattern == "slant":
        index = ((u + v * 0.55) > 0.72).astype(int)
    elif pattern == "disc":
        index = (((u - 0.45) * wide) ** 2 + ((v - 0.5) * deep) ** 2 < 0.19**2).astype(int)
    else:
        index = (np.floor(u * 4) % 2).astype(int) + 0 * v.astype(int)
    cloth = np.array(colours)[index + np.zeros(points.shape[:2], int)]
    mesh.grid(points, hazed(lit(normal, cloth, through=0.55), depth_of(points, camera)))


def kite(mesh, time, camera, centre=(-0.95, 4.55, 5.5)):
    """A big kite in the air, its tail, and its line to somebody off to the right."""
    home = np.array(centre)
    centre = home + [0.12 * math.sin(time * 1.3), 0.08 * math.sin(time * 1.9), 0]
    roll = math.radians(24 + 5 * math.sin(time * 1.7))
    across = unit([math.cos(roll), math.sin(roll), 0.10])
    up = unit([-math.sin(roll), math.cos(roll), 0.28])
    front = unit(np.cross(across, up))
    front = front if front[2] < 0 else -front
    size = 0.88
    top, bottom = centre + up * 0.62 * size, centre - up * 0.98 * size
    left = centre + (-across * 0.60 + front * 0.16 + up * 0.12) * size
    right = centre + (across * 0.60 + front * 0.16 + up * 0.12) * size
    middle = centre + up * 0.12 * size + front * 0.02
    dyes = [np.array(c) for c in (CORAL, MUSTARD, (0.02, 0.40, 0.45), CREAM)]

    def panel(a, b, c, inner, outer):
        normal = unit(np.cross(b - a, c - a))
        normal = -normal if normal @ camera[3:6] > 0 else normal
        n = 10

        def at(i, j):
            return a + (b - a) * i / n + (c - a) * j / n

        for i in range(n):
            for j in range(n - i):
                for flip in (0, 1) if i + j < n - 1 else (0,):
                    dye = dyes[outer if i + j + flip >= n * 0.55 else inner]
                    colour = lit(normal, dye, through=0.8) + dye * 0.18
                    mesh.triangle(at(i + flip, j + flip), at(i + 1, j), at(i, j + 1), colour)

    panel(middle, top, left, 0, 3)
    panel(middle, top, right, 1, 0)
    panel(middle, bottom, left, 2, 1)
    panel(middle, bottom, right, 0, 2)
    spar = [np.array([0.10, 0.06, 0.04])] * 3
    ribbon(mesh, [top + front * 0.01, middle, bottom], 0.010, spar, camera)
    ribbon(mesh, [left, middle, right], 0.010, spar, camera)
    k = np.linspace(0, 1, 60)
    loose = np.minimum(1, k * 3)
    tail = bottom + np.stack(
        [
            -0.55 * k - 0.15 * k * k + 0.16 * np.sin(k * 9 - time * 5) * loose,
            -1.25 * k + 0.05 * np.sin(k * 12 - time * 6) * loose,
            0.1 * np.sin(k * 7) * loose,
        ],
        -1,
    )
    bows = [lit(np.array([0.3, 0.6, -0.74]), dyes[i // 6 % 3], through=0.5) for i in range(60)]
    ribbon(mesh, tail, 0.030 * (1 - 0.5 * k) * (0.6 + 0.4 * np.sin(k * 60)), bows, camera)
    q = np.linspace(0, 1, 30)[:, None]
    line = middle * (1 - q) + (home + [3.55, -3.65, 3.5]) * q
    line[:, 1] -= 1.1 * q[:, 0] * (1 - q[:, 0])
    ribbon(mesh, line, 0.0035, [np.array([0.75, 0.72, 0.70])] * 30, camera)


def pier(mesh, camera):
    """The pier out to the left, with the club's hut at its end, and the headland far behind."""
    wood, rail = (0.17, 0.12, 0.09), (0.5, 0.45, 0.4)
    z, y = 62.0, SEA_LEVEL + 3.0
    block(mesh, (-40, y, z), (-5.2, y + 0.35, z + 3), wood, camera)
    block(mesh, (-40, y + 1.15, z), (-5.2, y + 1.27, z + 0.12), rail, camera)
    for i in range(24):
        x = -5.5 - 1.5 * i
        block(mesh, (x - 0.10, y + 0.35, z), (x + 0.02, y + 1.2, z + 0.1), rail, camera)
        if i % 2 == 0:
            block(mesh, (x - 0.22, SEA_LEVEL - 0.2, z + 0.2), (x + 0.14, y, z + 0.6), wood, camera)
            block(mesh, (x - 0.22, SEA_LEVEL - 0.2, z + 2.4), (x + 0.14, y, z + 2.8), wood, camera)
    block(mesh, (-10.4, y + 0.35, z + 0.5), (-6.4, y + 3.2, z + 2.8), (0.82, 0.75, 0.64), camera)
    block(mesh, (-9.2, y + 0.5, z + 0.42), (-8.5, y + 2.4, z + 0.5), (0.04, 0.30, 0.34), camera)
    block(mesh, (-8.1, y + 1.3, z + 0.42), (-7.0, y + 2.4, z + 0.5), (0.10, 0.14, 0.18), camera)
    peak = (-8.4, y + 5.2, z + 1.6)
    for a, b, normal in (
        ((-10.9, y + 3.1, z), (-5.9, y + 3.1, z), (0, 0.7, -0.7)),
        ((-5.9, y + 3.1, z), (-5.9, y + 3.1, z + 3.2), (0.7, 0.7, 0)),
    ):
        roof = hazed(lit(np.array(normal), np.array([0.72, 0.16, 0.09])), np.array(64.0))
        mesh.triangle(a, b, peak, roof)
    k = np.linspace(0, 1, 40)
    ridge = SEA_LEVEL + (1 + 10 * k**0.7 + 1.8 * np.sin(k * 17) * k + 0.8 * np.sin(k * 41)) * np.minimum(
        1, np.minimum(k, 1 - k) * 6
    )
    far = np.full(40, 190.0)
    points = np.stack([np.stack([6 + 70 * k, h, far], -1) for h in (np.full(40, SEA_LEVEL), ridge)])
    colours = np.broadcast_to(np.array([0.52, 0.62, 0.66]), points.shape).copy()
    colours[0] = (0.66, 0.70, 0.70)
    mesh.grid(points, colours)


def gulls(mesh, time, camera, around=0.0):
    """Three gulls over the sea, near x = `around`."""
    white = np.array([0.92, 0.90, 0.88])
    for x, y, z, size, phase in ((4.9, 9.6, 30, 0.8, 0.3), (6.4, 12.4, 36, 0.75, 1.7), (3.0, 13.6, 38, 0.7, 2.6)):
        x += 0.35 * time + around
        beat = 0.35 * math.sin(time * 7 + phase)
        for side in (-1, 1):
            wing = [
                (x, y, z),
                (x + side * 0.45 * size, y + (0.22 + beat) * size, z),
                (x + side * 0.95 * size, y + (0.10 + beat * 1.3) * size, z + 0.1),
            ]
            ends = [white, np.array([0.80, 0.80, 0.82]), np.array([0.18, 0.18, 0.2])]
            ribbon(mesh, wing, [0.085 * size, 0.075 * size, 0.01], ends, camera)
        body = [(x - 0.05, y - 0.05 * size, z - 0.02), (x + 0.28 * size, y, z - 0.02)]
        ribbon(mesh, body, [0.05 * size, 0.07 * size], [white] * 2, camera)


def buoys(mesh, time, camera, shift=0.0):
    """Race marks on the sea: round buoys with a small pennant, and two sails far out."""
    for x, z, dye, phase in ((13.0, 34.0, CORAL, 0.0), (19.5, 41.0, MUSTARD, 1.4), (25.0, 37.0, CORAL, 2.5)):
        bob = SEA_LEVEL + 0.08 * math.sin(time * 2.1 + phase)
        foot = np.array([x + shift, bob - 0.1, z])
        post(mesh, foot, foot + [0.0, 0.55, 0.0], 0.32, 0.22, dye, camera)
        post(mesh, foot + [0.0, 0.5, 0.0], foot + [0.06, 1.5, 0.0], 0.03, 0.02, (0.8, 0.76, 0.7), camera)
        light = hazed(lit(np.array([0.2, 0.5, -0.8]), np.array(CREAM), through=0.5), np.array(z + 6.0))
        mesh.triangle(foot + [0.05, 1.5, 0], foot + [-0.55, 1.35, 0.0], foot + [0.05, 1.2, 0], light)
    for x, z, tall in ((10.0, 120.0, 9.0), (33.0, 140.0, 11.0)):
        at = np.array([x + shift + 0.3 * time, SEA_LEVEL, z])
        white = hazed(lit(np.array([0.2, 0.5, -0.8]), np.array((0.92, 0.9, 0.86))), np.array(z))
        mesh.triangle(at + [0, 0.8, 0], at + [0, tall, 0], at + [0.42 * tall, 0.9, 0], white)
        mesh.triangle(at + [-0.3, 0.9, 0], at + [-0.3, tall * 0.85, 0], at + [-0.25 * tall, 1.0, 0], white * 0.92)
        block(mesh, at + [-0.2 * tall, 0, -0.4], at + [0.36 * tall, 0.8, 0.4], DEEP, camera)


def tents(mesh, camera):
    """Two race tents far down the beach."""
    for x, z, dye in ((-8.6, 12.5, CREAM), (-6.7, 13.4, CORAL)):
        y, wide, tall = -0.9, 1.0, 1.9
        peak = np.array([x, y + tall, z])
        rim = [np.array([x + sx * wide, y + 0.9, z + sz * wide]) for sx, sz in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
        for a, b, normal in zip(
            rim, rim[1:] + rim[:1], ((0, 0.7, -0.7), (0.7, 0.7, 0), (0, 0.7, 0.7), (-0.7, 0.7, 0)), strict=True
        ):
            light = hazed(lit(np.array(normal), np.array(dye), through=0.4), np.array(z + 5.0))
            mesh.triangle(a, b, peak, light)
            wall = hazed(lit(np.array(normal) * [1, 0, 1], np.array(CREAM), through=0.3), np.array(z + 5.0))
            low = np.array([0, 0.9, 0])
            mesh.triangle(a, b, b - low, wall)
            mesh.triangle(a, b - low, a - low, wall)


def tail(mesh, time, camera, end, loose):
    """The tail of a kite overhead: it hangs from above the picture to `end` (3) and sways by `loose`, 0…1."""
    end = np.asarray(end, float)
    k = np.linspace(0, 1, 90)
    top = end + [-0.75, 2.6, 0.9]
    sway = np.sin(k * np.pi) * (0.35 + 0.65 * loose)
    line = top + (end - top) * k[:, None]
    line[:, 0] += 0.16 * sway * np.sin(k * 8 - time * 6)
    line[:, 1] += 0.05 * sway * np.sin(k * 11 - time * 7) - 0.25 * np.sin(k * np.pi) * loose
    line[:, 2] += 0.10 * sway * np.sin(k * 6 - time * 5 + 1)
    past = end + np.stack([0.10 * np.sin(k * 5 - time * 8) - 0.25 * k, -0.45 * k, 0.08 * np.sin(k * 7 - time * 6)], -1)
    for points in (line, past[:45]):
        n = len(points)
        bows = [
            lit(np.array([0.3, 0.6, -0.74]), np.array((CORAL, MUSTARD, AQUA)[i // 6 % 3]), through=0.5)
            for i in range(n)
        ]
        ribbon(mesh, points, 0.030 * (0.55 + 0.45 * np.cos(np.arange(n) * 2 * np.pi / 12) ** 2), bows, camera)
