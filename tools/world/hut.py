"""The Harbour Hares' beach hut: a wall of boards with an open window, a step, a lean-to roof."""

import numpy as np

from .mesh import Mesh, block, depth_of, hazed, lit, ribbon
from .noise import cloudy, plain
from .place import SUN, height

LEFT, RIGHT, FRONT, BACK = -16.2, -12.62, 0.55, 3.0
WINDOW = (-13.80, -12.86, 1.02, 1.94)
"""Left, right, bottom, top of the opening, metres over the floor."""
PAINT, TRIM, SHUTTER = np.array((0.93, 0.60, 0.25)), np.array((0.90, 0.88, 0.82)), np.array((0.020, 0.24, 0.28))


def floor(tex) -> float:
    """Height of the hut's floor."""
    return height(tex, -13.5, FRONT) + 0.12


def hut_shadows(tex) -> list[np.ndarray]:
    """The shadows of the hut on the sand, as polygons (n, 2: x, z)."""
    y, low = floor(tex), height(tex, -13.5, -0.5)
    corners = np.array([(LEFT, BACK), (RIGHT + 0.15, BACK), (RIGHT + 0.15, FRONT - 0.2), (LEFT, FRONT - 0.2)])
    cast = corners - SUN[[0, 2]] / SUN[1] * (y + 2.62 - low)
    ground = np.array([(LEFT, BACK), (RIGHT, BACK), (RIGHT, FRONT), (LEFT, FRONT)])
    hull = np.concatenate([cast[[0]], cast[[3]], cast[[2]], ground[[2]], ground[[1]], ground[[0]]])
    return [hull]


def board(mesh: Mesh, tex, corner, along, across, normal, paint, camera, seed: float, shade=1.0) -> None:
    """A painted board: a sheet from `corner` spanned by two vectors, with grain, knots and worn paint."""
    corner, along, across = (np.asarray(v, float) for v in (corner, along, across))
    n = max(4, int(np.linalg.norm(along) / 0.02))
    m = 6
    u, v = np.linspace(0, 1, n), np.linspace(0, 1, m)
    points = corner + along * u[:, None, None] + across * v[None, :, None]
    worn = np.array([[cloudy(tex, seed + a * 0.9, b * 0.35 + seed * 3) for b in v] for a in u])
    grain = np.array([[plain(tex, seed * 7 + a * 3.0, seed + b * 5.0) for b in v] for a in u])
    bare = np.clip((worn - 0.25) * 2.6, 0, 1)[..., None] * 0.75
    colour = (paint * (1 - bare) + np.array((0.36, 0.29, 0.22)) * bare) * (1 + 0.10 * grain[..., None])
    edge = 1 - 0.30 * (np.abs(v * 2 - 1) ** 6)[None, :, None]
    light = lit(np.asarray(normal, float), np.ones(3))
    mesh.grid(points, hazed(colour * edge * light * shade, depth_of(points, camera)))


def hut_mesh(mesh: Mesh, tex, time: float, camera) -> None:
    """Adds the hut to `mesh`; the curtain moves with `time`."""
    y = floor(tex)
    left, right, low, high = WINDOW
    deep = 0.155
    tall = 2.55
    rng = np.random.default_rng(2)
    for x0, x1, a, b in (
        (LEFT, left, 0, tall), (right, RIGHT, 0, tall), (left, right, 0, low), (left, right, high, tall),
    ):  # fmt: skip
        block(mesh, (x0, y + a, FRONT + 0.02), (x1, y + b, FRONT + 0.05), (0.10, 0.07, 0.05), camera)
    for k in range(int(tall / deep)):
        a, b = y + k * deep, y + (k + 1) * deep - 0.006
        low_light = 0.35 * max(0.0, 1 - k * deep / 1.1)  # the sand throws light up
        under = 0.95 * min(1.0, 0.62 + (tall - k * deep) / 1.4) + low_light  # the eaves shade the upper boards
        pieces = [(LEFT, RIGHT)]
        if b > y + low and a < y + high:
            pieces = [(LEFT, left), (right, RIGHT)]
        for x0, x1 in pieces:
            board(
                mesh, tex, (x0, a, FRONT - 0.012), (x1 - x0, 0, 0), (0, b - a, 0.012), (0, 0.08, -1), PAINT, camera,
                rng.uniform(0, 60), under,
            )  # fmt: skip
    for k in range(16):  # the side that the sun reaches
        a, b = y + k * deep, y + (k + 1) * deep - 0.006
        board(
            mesh,
            tex,
            (RIGHT, a, FRONT),
            (0, 0, BACK - FRONT),
            (0, b - a, 0),
            (1, 0, 0),
            PAINT,
            camera,
            rng.uniform(0, 60),
        )
    block(mesh, (RIGHT - 0.09, y - 0.15, FRONT - 0.03), (RIGHT + 0.02, y + tall, FRONT + 0.05), TRIM, camera)
    _window(mesh, tex, time, camera, y, rng)
    # Roof: a lean-to with a fascia board, and the step below the wall.
    block(
        mesh,
        (LEFT - 0.2, y + tall - 0.02, FRONT - 0.30),
        (RIGHT + 0.22, y + tall + 0.12, BACK + 0.2),
        (0.60, 0.15, 0.09),
        camera,
    )
    board(
        mesh, tex, (LEFT - 0.2, y + tall - 0.04, FRONT - 0.31), (RIGHT - LEFT + 0.42, 0, 0), (0, 0.15, 0), (0, 0, -1),
        TRIM, camera, 3.3,
    )  # fmt: skip
    for k in range(3):
        board(
            mesh, tex, (LEFT, y - 0.03, FRONT - 0.16 * (k + 1)), (RIGHT - LEFT + 0.05, 0, 0), (0, 0, 0.15), (0, 1, 0),
            np.array((0.34, 0.27, 0.20)), camera, 11.0 + k, 0.42,
        )  # fmt: skip
    block(mesh, (LEFT, y - 0.3, FRONT - 0.48), (RIGHT + 0.05, y - 0.03, FRONT - 0.46), (0.22, 0.17, 0.13), camera)


def _window(mesh, tex, time, camera, y, rng) -> None:
    left, right, low, high = WINDOW
    # The room: a back wall, floor light, a shelf with rolled kites.
    back = FRONT + 1.7
    block(mesh, (left - 0.6, y, back + 0.01), (RIGHT, y + 2.4, back + 0.03), (0.05, 0.035, 0.025), camera)
    inside = np.array((0.30, 0.22, 0.15))
    for k in range(9):
        x0 = RIGHT - 0.36 - 0.34 * k
        board(
            mesh, tex, (x0, y, back), (0.33, 0, 0), (0, tall_room := 2.4, 0), (0, 0, -1), inside, camera, 20.0 + k, 0.50
        )
    block(mesh, (left - 0.6, y + 1.62, back - 0.22), (RIGHT - 0.1, y + 1.65, back - 0.02), (0.12, 0.09, 0.07), camera)
    for k, dye in enumerate(
        ((0.45, 0.07, 0.04), (0.50, 0.30, 0.03), (0.01, 0.20, 0.22), (0.46, 0.42, 0.34), (0.03, 0.08, 0.16))
    ):
        x = left - 0.02 + 0.21 * k
        block(mesh, (x, y + 1.65, back - 0.20), (x + 0.10, y + 1.65 + 0.30 + 0.07 * (k % 3), back - 0.10), dye, camera)
    for side in (-1, 1):  # side walls of the room
        x = max(left - 0.55, LEFT) if side < 0 else RIGHT - 0.06
        block(mesh, (x, y, FRONT + 0.05), (x + 0.02, y + tall_room, back), (0.10, 0.075, 0.055), camera)
    # Frame, sill, and shutters folded back against the wall.
    for a, b in (
        ((left - 0.07, low - 0.07), (right + 0.07, low)), ((left - 0.07, high), (right + 0.07, high + 0.07)),
        ((left - 0.07, low), (left, high)), ((right, low), (right + 0.07, high)),
    ):  # fmt: skip
        block(mesh, (a[0], y + a[1], FRONT - 0.05), (b[0], y + b[1], FRONT + 0.09), TRIM, camera)
    block(mesh, (left - 0.12, y + low - 0.06, FRONT - 0.13), (right + 0.12, y + low - 0.02, FRONT + 0.05), TRIM, camera)
    for x0 in (left - 0.62, right + 0.10):
        if x0 + 0.5 > RIGHT:
            continue
        for k in range(4):
            board(
                mesh, tex, (x0 + 0.13 * k, y + low - 0.02, FRONT - 0.045), (0, high - low + 0.04, 0), (0.124, 0, 0),
                (0, 0, -1), SHUTTER, camera, 40.0 + k + x0,
            )  # fmt: skip
        for up in (0.16, 0.72):
            block(
                mesh,
                (x0, y + low + up, FRONT - 0.06),
                (x0 + 0.51, y + low + up + 0.06, FRONT - 0.045),
                SHUTTER * 0.8,
                camera,
            )
    # A line of small pennants under the eaves.
    k = np.linspace(0, 1, 60)
    string = np.stack([left - 0.9 + 2.2 * k, y + 2.36 - 0.16 * np.sin(k * np.pi), np.full(60, FRONT - 0.12)], -1)
    ribbon(mesh, string, 0.003, [np.array((0.6, 0.56, 0.5))] * 60, camera)
    dyes = ((0.90, 0.13, 0.06), (0.98, 0.58, 0.05), (0.02, 0.40, 0.45), (0.93, 0.86, 0.70))
    for n in range(11):
        at = string[2 + 5 * n]
        lift = 0.045 * np.sin(time * 8 + n * 1.3)
        light = lit(np.array([0.1, 0.2, -0.95]), np.array(dyes[n % 4]), through=0.5)
        mesh.triangle(at, at + [0.13, -0.012, 0], at + [0.06 - lift, -0.17, -0.02 + lift], light)
    # The curtain: a strip of cloth at the left of the opening.
    u, v = np.linspace(0, 1, 14)[None, :], np.linspace(0, 1, 24)[:, None]
    wave = 0.03 * np.sin(u * 14 + v * 2 - time * 3) * (0.4 + v)
    x = left + 0.01 + (0.20 + 0.03 * np.sin(time * 2.2) * v) * u + 0 * v
    points = np.stack([x, y + high - (high - low) * 0.98 * v + 0 * u, FRONT + 0.13 + wave], -1)
    stripe = np.where((np.floor(v * 9) % 2 == 0)[..., None], np.array((0.62, 0.57, 0.46)), np.array((0.40, 0.10, 0.06)))
    mesh.grid(
        points, np.broadcast_to(stripe, points.shape) * (0.45 + 0.25 * np.sin(u * 14 + v * 2 - time * 3))[..., None]
    )
