"""What stands and flies on the beach: driftwood, flags, a kite, the pier, gulls, grass.

Driftwood is a `Solid`; the thin things are triangles in world space with their light worked out.
"""

import math

import cv2
import numpy as np

from .place import SEA_LEVEL, SUN, height
from .solids import Solid, unit

SUNLIGHT = np.array([1.0, 0.86, 0.66]) * 2.3
SKYLIGHT = np.array([0.36, 0.44, 0.58])
BOUNCE = np.array([0.40, 0.29, 0.18])
CORAL, CREAM, MUSTARD, TEAL = (0.90, 0.13, 0.06), (0.93, 0.86, 0.70), (0.98, 0.58, 0.05), (0.02, 0.30, 0.36)
SHADE_AT = np.array([-7.0, -3.5, 70.0])
"""Where the grass's shadow map lies: x, z, texels a metre."""


class Mesh:
    """Triangles (n, 3, 3) and their colours, collected."""

    def __init__(self) -> None:
        self._points: list[np.ndarray] = []
        self._colours: list[np.ndarray] = []

    def grid(self, points: np.ndarray, colours: np.ndarray) -> None:
        """A sheet of points (rows, columns, 3) with a colour each."""
        for into, source in ((self._points, points), (self._colours, colours)):
            a, b, c, d = source[:-1, :-1], source[:-1, 1:], source[1:, 1:], source[1:, :-1]
            into.append(np.stack([a, b, c], 2).reshape(-1, 3, 3))
            into.append(np.stack([a, c, d], 2).reshape(-1, 3, 3))

    def triangle(self, a, b, c, colour) -> None:
        """One triangle of one colour."""
        self._points.append(np.array([[a, b, c]], float))
        self._colours.append(np.broadcast_to(np.asarray(colour, float), (1, 3, 3)))

    def arrays(self) -> tuple[np.ndarray, np.ndarray]:
        """All points and all colours, (n, 3, 3) each."""
        return np.concatenate(self._points), np.concatenate(self._colours)


def lit(normal: np.ndarray, albedo: np.ndarray, through: float = 0.0) -> np.ndarray:
    """Light off a surface; `through` is the share of sun that shines through cloth from behind."""
    facing = normal @ SUN
    up = (0.5 + 0.5 * normal[..., 1])[..., None]
    sun = np.clip(facing, 0, 1) + through * np.clip(-facing, 0, 1)
    return albedo * (sun[..., None] * SUNLIGHT + SKYLIGHT * up + BOUNCE * (1 - up))


def hazed(colour: np.ndarray, far: np.ndarray, thick: float = 0.0030) -> np.ndarray:
    """Colour seen through `far` metres of sea air."""
    share = (1 - np.exp(-np.asarray(far) * thick))[..., None] * 0.85
    return colour * (1 - share) + np.array((0.86, 0.84, 0.80)) * share


def depth_of(points: np.ndarray, camera: np.ndarray) -> np.ndarray:
    """How far points (…, 3) lie in front of the camera."""
    return (points - camera[:3]) @ camera[3:6]


def logs(tex: np.ndarray) -> Solid:
    """The driftwood: the log of the leap, lying across the runner's way, a pile behind, a chunk in front."""
    solid = Solid()

    def on(x: float, up: float, z: float) -> np.ndarray:
        return np.array([x, height(tex, x, z) + up, z])

    def log(pile, a, b, r1, r2, offset=0.0):
        solid.add(0, pile, a, b, r1, r2, (0, 1, 0.01), melt=0.05, offset=offset)

    root, bend, tip = on(-0.68, 0.10, 0.66), on(-0.10, 0.13, 0.10), on(0.72, 0.16, -0.52)
    log(0, root, bend, 0.150, 0.128)
    log(0, bend, tip, 0.128, 0.075, offset=0.81)
    log(0, on(0.42, 0.18, -0.28), on(0.66, 0.44, -0.20), 0.055, 0.022)
    log(0, on(0.66, 0.44, -0.20), on(0.80, 0.50, -0.30), 0.022, 0.012)
    log(0, on(-0.38, 0.14, 0.42), on(-0.54, 0.38, 0.54), 0.060, 0.034)
    log(0, root, root + (-0.22, 0.20, 0.14), 0.085, 0.030)
    log(0, root, root + (-0.30, -0.03, -0.06), 0.080, 0.030)
    log(0, on(0.06, 0.12, -0.04), on(0.22, 0.03, -0.40), 0.05, 0.028)
    log(1, on(0.9, 0.10, 4.6), on(2.6, 0.34, 4.1), 0.16, 0.10)
    log(1, on(1.5, 0.1, 4.0), on(2.2, 0.62, 4.9), 0.10, 0.05)
    log(2, on(0.05, 0.015, -1.55), on(0.62, 0.06, -1.25), 0.042, 0.026)
    return solid


def post(mesh, a, b, r1, r2, albedo, camera, sides=10):
    """A round post from a to b."""
    a, b = np.asarray(a, float), np.asarray(b, float)
    along = unit(b - a)
    across = unit(np.cross(along, [0.3, 0.1, 1]))
    turn = np.linspace(0, 2 * np.pi, sides + 1)[:, None]
    normal = np.cos(turn) * across + np.sin(turn) * np.cross(across, along)
    points = np.stack([a + normal * r1, b + normal * r2])
    colours = np.stack([lit(normal, np.array(albedo))] * 2)
    mesh.grid(points, hazed(colours, depth_of(points, camera)))


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


def block(mesh, a, b, albedo, camera):
    """A box between two corners."""
    a, b = np.asarray(a, float), np.asarray(b, float)
    for axis in range(3):
        i, j = (k for k in range(3) if k != axis)
        for side in (0, 1):
            normal = np.zeros(3)
            normal[axis] = side * 2 - 1
            points = np.zeros((2, 2, 3))
            points[..., axis] = (a, b)[side][axis]
            points[0, :, i], points[1, :, i] = a[i], b[i]
            points[:, 0, j], points[:, 1, j] = a[j], b[j]
            colour = np.broadcast_to(lit(normal, np.array(albedo)), points.shape)
            mesh.grid(points, hazed(colour, depth_of(points, camera), 0.0042))


def ribbon(mesh, points, width, colours, camera):
    """A flat band along points (n, 3) that always shows its broad side; width (n,) or a number."""
    points = np.asarray(points, float)
    side = np.cross(np.gradient(points, axis=0), camera[3:6])
    side /= np.linalg.norm(side, axis=1, keepdims=True) + 1e-9
    width = np.broadcast_to(np.asarray(width, float), (len(points),))[:, None]
    mesh.grid(np.stack([points - side * width, points + side * width], 1), np.stack([np.array(colours)] * 2, 1))


def kite(mesh, time, camera):
    """The big kite over the beach, its tail, and its line to somebody off to the right."""
    centre = np.array([-0.95 + 0.12 * math.sin(time * 1.3), 4.55 + 0.08 * math.sin(time * 1.9), 5.5])
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
    line = middle * (1 - q) + np.array([2.6, 0.9, 9.0]) * q
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
    ridge = SEA_LEVEL + (1 + 10 * k**0.7 + 1.8 * np.sin(k * 17) * k + 0.8 * np.sin(k * 41)) * np.minimum(1, k * 6)
    far = np.full(40, 190.0)
    points = np.stack([np.stack([6 + 70 * k, h, far], -1) for h in (np.full(40, SEA_LEVEL), ridge)])
    colours = np.broadcast_to(np.array([0.52, 0.62, 0.66]), points.shape).copy()
    colours[0] = (0.66, 0.70, 0.70)
    mesh.grid(points, colours)


def gulls(mesh, time, camera):
    """Three gulls over the sea."""
    white = np.array([0.92, 0.90, 0.88])
    for x, y, z, size, phase in ((4.9, 9.6, 30, 0.8, 0.3), (6.4, 12.4, 36, 0.75, 1.7), (3.0, 13.6, 38, 0.7, 2.6)):
        x += 0.35 * time
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


class Grass:
    """Marram grass: some 5000 blades, made once; `mesh` bends them in the wind of one instant."""

    KNOTS = 7

    def __init__(self, tex: np.ndarray) -> None:
        rng = np.random.default_rng(5)
        tufts = [(rng.normal(4.0, 1.1), rng.normal(8.2, 1.3), 34, rng.uniform(0.4, 0.75), 0.22) for _ in range(60)]
        tufts += [(rng.normal(-3.5, 0.9), rng.normal(7.4, 1.2), 34, rng.uniform(0.35, 0.65), 0.22) for _ in range(50)]
        tufts += [(rng.normal(1.02, 0.10), rng.normal(-1.6, 0.22), 46, rng.uniform(0.28, 0.46), 0.09) for _ in range(9)]
        tufts += [
            (rng.normal(-0.80, 0.06), rng.normal(-1.75, 0.15), 40, rng.uniform(0.18, 0.32), 0.08) for _ in range(6)
        ]
        lone = ((-1.2, 0.9), (1.25, 0.8), (-1.05, 1.3), (1.6, 2.4), (-2.1, 3.2), (-1.7, 2.9))
        tufts += [(x, z, 30, rng.uniform(0.25, 0.45), 0.12) for x, z in lone]
        self.tufts = tufts
        column: dict[str, list[np.ndarray]] = {
            k: [] for k in ["x", "z", "tx", "tz", "turn", "long", "bend", "wide", "dry"]
        }
        for x, z, n, tall, spread in tufts:
            column["x"].append(x + rng.normal(0, spread * 0.5, n))
            column["z"].append(z + rng.normal(0, spread * 0.5, n))
            column["tx"].append(np.full(n, x))
            column["tz"].append(np.full(n, z))
            column["turn"].append(rng.uniform(0, 2 * np.pi, n))
            column["long"].append(tall * rng.uniform(0.55, 1.1, n))
            column["bend"].append(rng.uniform(0.15, 0.65, n))
            column["wide"].append(0.0062 * rng.uniform(0.6, 1.2, n))
            column["dry"].append(rng.uniform(0, 1, n))
        self.blades = {k: np.concatenate(v) for k, v in column.items()}
        at = zip(self.blades["x"], self.blades["z"], strict=True)
        self.blades["y"] = np.array([height(tex, x, z) for x, z in at]) - 0.02

    def spines(self, time: float) -> np.ndarray:
        """The blades' middle lines (n, KNOTS, 3)."""
        b = self.blades
        wind = -0.30 + 0.08 * np.sin(time * 3 + b["tx"] * 2 + b["tz"]) + 0.05 * np.sin(time * 7 + b["x"] * 9)
        dx = (np.cos(b["turn"]) * b["bend"] + wind)[:, None]
        dz = (np.sin(b["turn"]) * b["bend"] * 0.8)[:, None]
        k = np.linspace(0, 1, self.KNOTS)[None, :]
        long = b["long"][:, None]
        return np.stack(
            [
                b["x"][:, None] + dx * long * k**1.8,
                b["y"][:, None] + long * (k - 0.30 * (np.abs(dx) + np.abs(dz)) * k**2.4),
                b["z"][:, None] + dz * long * k**1.8,
            ],
            -1,
        )

    def mesh(self, time: float, camera: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Triangles (n, 3, 3) and colours of all blades."""
        b = self.blades
        spine = self.spines(time)
        k = np.linspace(0, 1, self.KNOTS)[None, :]
        half = np.zeros_like(spine)
        half[..., 0] = b["wide"][:, None] * (1 - k) ** 0.7
        dry = b["dry"][:, None, None]
        albedo = np.array([0.16, 0.235, 0.06]) * (1 - dry) + np.array([0.52, 0.42, 0.17]) * dry
        n = len(b["turn"])
        normal = np.stack([-np.sin(b["turn"]) * 0.5 + 0.3, np.full(n, 0.55), -np.abs(np.cos(b["turn"])) * 0.6], -1)
        normal /= np.linalg.norm(normal, axis=1, keepdims=True)
        colour = albedo * (0.30 + 0.9 * k[..., None]) * lit(normal, np.ones((n, 3)), through=0.6)[:, None]
        colour = hazed(colour, depth_of(spine, camera))
        left, right = spine - half, spine + half
        quads = [(left, colour), (right, colour)]
        points = []
        colours = []
        for order in (((0, 0), (1, 0), (1, 1)), ((0, 0), (1, 1), (0, 1))):
            points.append(np.stack([quads[s][0][:, e : self.KNOTS - 1 + e] for s, e in order], 2).reshape(-1, 3, 3))
            colours.append(np.stack([quads[s][1][:, e : self.KNOTS - 1 + e] for s, e in order], 2).reshape(-1, 3, 3))
        return np.concatenate(points), np.concatenate(colours)

    def shade(self) -> np.ndarray:
        """The shadow and the closeness of the grass seen from above: float32 (h, w, 2), 0…1."""
        x0, z0, per = SHADE_AT
        shadow = np.zeros((int(18 * per), int(14 * per)), np.float32)
        close = np.zeros_like(shadow)
        spine = self.spines(0.0)
        up = np.maximum(0, spine[..., 1] - self.blades["y"][:, None])
        at = spine[..., [0, 2]] - up[..., None] * SUN[[0, 2]] / SUN[1]
        at = np.round((at - [x0, z0]) * per * 16).astype(np.int32)
        for line in at:
            cv2.polylines(shadow, [line], False, 0.55, 1, cv2.LINE_AA, 4)
        for x, z, _n, _tall, spread in self.tufts:
            centre = (int((x - x0) * per), int((z - z0) * per))
            cv2.circle(close, centre, int(spread * 0.8 * per), 0.8, -1, cv2.LINE_AA)
        shadow = cv2.GaussianBlur(np.clip(shadow, 0, 1), (0, 0), 1.2) * 0.9
        return np.ascontiguousarray(np.stack([shadow, cv2.GaussianBlur(close, (0, 0), 7)], -1))


def footprints(tex: np.ndarray) -> np.ndarray:
    """Old footprints in the sand (n, 4: x, z, cos, sin of the heading)."""
    rng = np.random.default_rng(3)
    made = [(0.55 + 0.2 * i + rng.normal(0, 0.05), 1.6 + 0.55 * i, 1.2) for i in range(5)]
    made += [(-0.9 - 0.12 * i + (0.12 if i % 2 else -0.12), 1.9 + 0.6 * i, 1.75) for i in range(6)]
    return np.array([(x, z, math.cos(a), math.sin(a)) for x, z, a in made])


def moving_things(tex: np.ndarray, time: float, camera: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Everything of triangles but the grass: points and colours (n, 3, 3) at `time`."""
    mesh = Mesh()
    flag(mesh, tex, 1.55, 6.4, 2.55, "bars", (CORAL, CREAM), time, camera, 1)
    flag(mesh, tex, 2.15, 10.0, 3.1, "disc", (MUSTARD, TEAL), time, camera, 2)
    flag(mesh, tex, 2.75, 14.0, 3.5, "slant", ((0.02, 0.40, 0.45), CREAM), time, camera, 3)
    flag(mesh, tex, -1.75, 8.5, 2.5, "slant", (MUSTARD, CORAL), time, camera, 4)
    kite(mesh, time, camera)
    pier(mesh, camera)
    gulls(mesh, time, camera)
    return mesh.arrays()
