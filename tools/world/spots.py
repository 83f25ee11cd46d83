"""The corners of Gull Point where the shots are filmed: what lies, grows and flies there."""

import math

import numpy as np

from .grass import TEXELS, Grass, Tuft
from .hut import hut_mesh, hut_shadows
from .mesh import Mesh
from .place import height
from .props import AQUA, CORAL, CREAM, DEEP, MUSTARD, OCHRE, TEAL, buoys, flag, gulls, kite, pier, tents
from .solids import Solid


class Spot:
    """A corner of the beach: solid wood, old footprints, grass, and the things that move in the wind."""

    corner, size = (-7.0, -3.5), (14.0, 18.0)

    def __init__(self, tex: np.ndarray) -> None:
        self.tex = tex
        self.wood = self._wood().pack()
        self.piles = self.wood[2] + [0, 0, 0, 0.02]
        self.prints = np.array([(x, z, math.cos(a), math.sin(a)) for x, z, a in self._prints()])
        self.grass = Grass(tex, self._tufts(), self.corner, self.size)
        self.shade = self.grass.shade(self._roofs())
        self.shade_at = np.array([*self.corner, TEXELS])

    def on(self, x: float, up: float, z: float) -> np.ndarray:
        """A point `up` metres over the sand."""
        return np.array([x, height(self.tex, x, z) + up, z])

    def triangles(self, time: float, camera: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Everything of triangles at `time`: points and colours (n, 3, 3)."""
        mesh = Mesh()
        self._things(mesh, time, camera)
        points, colours = mesh.arrays()
        blades, greens = self.grass.mesh(time, camera)
        return np.concatenate([points, blades]), np.concatenate([colours, greens])

    def _wood(self) -> Solid:
        raise NotImplementedError

    def _prints(self) -> list[tuple[float, float, float]]:
        return [(1e6, 1e6, 0.0)]

    def _tufts(self) -> list[Tuft]:
        raise NotImplementedError

    def _roofs(self) -> list[np.ndarray]:
        return []

    def _things(self, mesh: Mesh, time: float, camera: np.ndarray) -> None:
        raise NotImplementedError


def _log(solid: Solid, pile: int, a, b, r1: float, r2: float, offset: float = 0.0) -> None:
    solid.add(0, pile, a, b, r1, r2, (0, 1, 0.01), melt=0.05, offset=offset)


class Dunes(Spot):
    """The gap in the dunes where a log lies across the way, the flags and the pier behind it."""

    kites: tuple[tuple[float, float, float], ...] = ((-0.95, 4.55, 5.5),)

    def _wood(self) -> Solid:
        solid, on = Solid(), self.on
        root, bend, tip = on(-0.68, 0.10, 0.66), on(-0.10, 0.13, 0.10), on(0.72, 0.16, -0.52)
        _log(solid, 0, root, bend, 0.150, 0.128)
        _log(solid, 0, bend, tip, 0.128, 0.075, offset=0.81)
        _log(solid, 0, on(0.42, 0.18, -0.28), on(0.66, 0.44, -0.20), 0.055, 0.022)
        _log(solid, 0, on(0.66, 0.44, -0.20), on(0.80, 0.50, -0.30), 0.022, 0.012)
        _log(solid, 0, on(-0.38, 0.14, 0.42), on(-0.54, 0.38, 0.54), 0.060, 0.034)
        _log(solid, 0, root, root + (-0.22, 0.20, 0.14), 0.085, 0.030)
        _log(solid, 0, root, root + (-0.30, -0.03, -0.06), 0.080, 0.030)
        _log(solid, 0, on(0.06, 0.12, -0.04), on(0.22, 0.03, -0.40), 0.05, 0.028)
        _log(solid, 1, on(0.9, 0.10, 4.6), on(2.6, 0.34, 4.1), 0.16, 0.10)
        _log(solid, 1, on(1.5, 0.1, 4.0), on(2.2, 0.62, 4.9), 0.10, 0.05)
        _log(solid, 2, on(0.05, 0.015, -1.55), on(0.62, 0.06, -1.25), 0.042, 0.026)
        return solid

    def _prints(self):
        rng = np.random.default_rng(3)
        made = [(0.55 + 0.2 * i + rng.normal(0, 0.05), 1.6 + 0.55 * i, 1.2) for i in range(5)]
        return made + [(-0.9 - 0.12 * i + (0.12 if i % 2 else -0.12), 1.9 + 0.6 * i, 1.75) for i in range(6)]

    def _tufts(self) -> list[Tuft]:
        rng = np.random.default_rng(5)
        tufts = [(rng.normal(4.0, 1.1), rng.normal(8.2, 1.3), 34, rng.uniform(0.4, 0.75), 0.22) for _ in range(60)]
        tufts += [(rng.normal(-3.5, 0.9), rng.normal(7.4, 1.2), 34, rng.uniform(0.35, 0.65), 0.22) for _ in range(50)]
        tufts += [(rng.normal(1.02, 0.10), rng.normal(-1.6, 0.22), 46, rng.uniform(0.28, 0.46), 0.09) for _ in range(9)]
        tufts += [
            (rng.normal(-0.80, 0.06), rng.normal(-1.75, 0.15), 40, rng.uniform(0.18, 0.32), 0.08) for _ in range(6)
        ]
        lone = ((-1.2, 0.9), (1.25, 0.8), (-1.05, 1.3), (1.6, 2.4), (-2.1, 3.2), (-1.7, 2.9))
        return tufts + [(x, z, 30, rng.uniform(0.25, 0.45), 0.12) for x, z in lone]

    def _things(self, mesh, time, camera):
        tex = self.tex
        flag(mesh, tex, 1.55, 6.4, 2.55, "bars", (CORAL, CREAM), time, camera, 1)
        flag(mesh, tex, 2.15, 10.0, 3.1, "disc", (MUSTARD, TEAL), time, camera, 2)
        flag(mesh, tex, 2.75, 14.0, 3.5, "slant", (AQUA, CREAM), time, camera, 3)
        flag(mesh, tex, -1.75, 8.5, 2.5, "slant", (MUSTARD, CORAL), time, camera, 4)
        for centre in self.kites:
            kite(mesh, time, camera, centre)
        pier(mesh, camera)
        gulls(mesh, time, camera)


class OpenSky(Dunes):
    """The same gap, its kite not yet up."""

    kites = ()


class HighKite(Dunes):
    """The same gap, the kite farther out and higher."""

    kites = ((-1.5, 4.55, 10.0),)


class Groyne(Spot):
    """The old wooden groyne that runs down the beach into the sea."""

    corner, size = (8.0, -4.5), (20.0, 20.0)
    start, end = np.array([9.0, 2.3]), np.array([26.5, 7.6])

    def _wood(self) -> Solid:
        solid, rng = Solid(), np.random.default_rng(8)
        span = self.end - self.start
        long = float(np.linalg.norm(span))
        count = int(long / 0.27)
        for k in range(count):
            x, z = self.start + span * k / count + rng.normal(0, 0.012, 2)
            tall = 0.74 + 0.16 * rng.standard_normal() + 0.10 * math.sin(k * 0.35)
            tall += 0.45 if k % 9 == 4 else 0.0
            lean = rng.normal(0, 0.025, 2)
            wide = rng.uniform(0.105, 0.135)
            top = self.on(x + lean[0], max(0.4, tall), z + lean[1])
            _log(
                solid, k // 4, self.on(x, -0.25, z), top, wide, wide * rng.uniform(0.82, 0.95), offset=rng.uniform(0, 9)
            )
        square = np.array([span[1], -span[0]]) / long * 0.16  # towards the camera
        for k in range(5):
            a = self.start + span * k / 5 + square
            b = self.start + span * (k + 1) / 5 + square
            _log(solid, 20 + k, self.on(a[0], 0.42, a[1]), self.on(b[0], 0.42, b[1]), 0.075, 0.07, offset=k * 3.1)
        _log(solid, 30, self.on(15.1, 0.02, 0.1), self.on(15.9, 0.07, -0.2), 0.05, 0.03)
        _log(solid, 31, self.on(18.4, 0.03, 1.2), self.on(18.9, 0.05, 1.7), 0.06, 0.035)
        return solid

    def _prints(self):
        rng = np.random.default_rng(4)
        way = math.radians(10)
        made = [
            (11.5 + 0.78 * i, 0.95 + 0.14 * i + (0.09 if i % 2 else -0.09) + rng.normal(0, 0.03), way)
            for i in range(12)
        ]
        return made + [(14.2 + 0.3 * i, -1.2 + 0.5 * i, 1.0) for i in range(5)]

    def _tufts(self) -> list[Tuft]:
        rng = np.random.default_rng(15)
        tufts = [
            (x, z, 36, rng.uniform(0.28, 0.5), 0.11)
            for x, z in ((10.6, 1.2), (11.3, 1.9), (12.9, -1.5), (13.3, -1.7), (18.6, -1.7), (19.4, -1.4), (21.2, 0.9))
        ]
        tufts += [(rng.normal(9.6, 0.5), rng.normal(4.2, 0.8), 34, rng.uniform(0.3, 0.6), 0.2) for _ in range(22)]
        return tufts + [
            (rng.normal(15.0, 3.5), rng.normal(8.6, 0.7), 26, rng.uniform(0.2, 0.5), 0.2) for _ in range(26)
        ]

    def _things(self, mesh, time, camera):
        tex = self.tex
        flag(mesh, tex, 12.1, 5.2, 2.7, "slant", (AQUA, CREAM), time, camera, 1)
        flag(mesh, tex, 17.4, 7.6, 2.9, "bars", (DEEP, CREAM), time, camera, 2)
        flag(mesh, tex, 22.0, 9.3, 3.0, "disc", (CORAL, MUSTARD), time, camera, 5)
        flag(mesh, tex, 19.6, 10.5, 2.6, "slant", (OCHRE, DEEP), time, camera, 6)
        kite(mesh, time, camera, centre=(14.0, 4.9, 11.0))
        kite(mesh, time + 2.0, camera, centre=(21.5, 6.1, 16.0))
        pier(mesh, camera)
        buoys(mesh, time, camera)
        gulls(mesh, time, camera, around=14.0)


class Shallows(Dunes):
    """The edge of the sea below the dunes."""

    corner, size = (-7.0, 8.0), (14.0, 10.0)

    def _wood(self) -> Solid:
        solid, on = Solid(), self.on
        for k, (x, z, tall) in enumerate(
            ((-1.55, 17.6, 0.9), (-1.42, 18.3, 0.75), (-1.30, 19.0, 0.85), (-1.18, 19.8, 0.7))
        ):
            _log(solid, k // 2, on(x, -0.3, z), on(x + 0.03, tall, z), 0.11, 0.095, offset=k * 1.7)
        _log(solid, 3, on(0.75, 0.03, 13.6), on(1.25, 0.05, 13.9), 0.05, 0.03)
        return solid

    def _prints(self):
        return [(-1.1 + 0.36 * i, 14.25 + 0.09 * i + (0.07 if i % 2 else -0.07), 0.2) for i in range(5)]

    def _tufts(self) -> list[Tuft]:
        return [(-6.0, 9.0, 20, 0.4, 0.2)]

    def _things(self, mesh, time, camera):
        flag(mesh, self.tex, 1.75, 17.9, 2.0, "bars", (CORAL, CREAM), time, camera, 1)
        kite(mesh, time, camera, centre=(-1.6, 3.4, 26.0))
        pier(mesh, camera)
        buoys(mesh, time, camera, shift=-13.0)
        gulls(mesh, time, camera, around=2.0)


class HutFront(Dunes):
    """The club's beach hut, seen from its front, the beach going on beside it."""

    corner, size = (-18.0, -5.0), (12.0, 12.0)

    def _wood(self) -> Solid:
        solid, on = Solid(), self.on
        _log(solid, 0, on(-12.35, 0.05, -0.9), on(-11.75, 0.16, -0.35), 0.085, 0.05)
        _log(solid, 1, on(-10.6, 0.08, 3.6), on(-9.2, 0.22, 3.2), 0.13, 0.08)
        return solid

    def _prints(self):
        return [(-12.1 + 0.14 * i, 0.4 + 0.5 * i, 1.3) for i in range(9)]

    def _tufts(self) -> list[Tuft]:
        rng = np.random.default_rng(9)
        tufts = [(rng.normal(-11.9, 0.25), rng.normal(0.9, 0.5), 34, rng.uniform(0.25, 0.45), 0.10) for _ in range(7)]
        tufts += [(x, 0.32, 26, rng.uniform(0.16, 0.3), 0.07) for x in (-14.5, -14.1, -13.2, -12.8)]
        return tufts + [
            (rng.normal(-10.0, 1.0), rng.normal(7.5, 0.8), 30, rng.uniform(0.3, 0.6), 0.2) for _ in range(30)
        ]

    def _roofs(self) -> list[np.ndarray]:
        return hut_shadows(self.tex)

    def _things(self, mesh, time, camera):
        hut_mesh(mesh, self.tex, time, camera)
        flag(mesh, self.tex, -11.35, 6.2, 2.6, "bars", (CORAL, CREAM), time, camera, 1)
        flag(mesh, self.tex, -10.7, 9.5, 2.9, "slant", (MUSTARD, TEAL), time, camera, 3)
        tents(mesh, camera)
        kite(mesh, time, camera, centre=(-11.4, 4.6, 9.0))
        gulls(mesh, time, camera, around=-14.0)
