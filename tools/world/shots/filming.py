"""The filming of a shot: the place, the figures and their shade, lens and stock, a frame at a time."""

import functools
from dataclasses import dataclass

import numpy as np

from .. import figure, film, noise, place
from ..acts import Act
from ..body import Figure
from ..film import Stock
from ..solids import Solid
from ..spots import Dunes, Spot


@dataclass(frozen=True)
class Take:
    """One filmed frame and what is known about it.

    picture is float32 sRGB (H, W, 3), 0…1; alpha float32 (H, W, figures), 0…1, each figure's own share; clean
    is the picture without the figures and what they throw up, if it was asked for.
    """

    picture: np.ndarray
    alpha: np.ndarray
    clean: np.ndarray | None


@functools.cache
def texture() -> np.ndarray:
    """The world's noise, made once."""
    return noise.textures()


@functools.cache
def spot_of(kind: type[Spot]) -> Spot:
    """A corner of the beach, set up once."""
    return kind(texture())


class Shot:
    """A shot; the class says what happens, an object films it at a size and a quality.

    `action_time` maps frames to seconds of the action: `slow` of it passes in a second of film, and it is 0 at
    frame `top`. `lamp` (6) scales sunlight and skylight, for the
    figures `figure_lamp` if there is one. `holds` names frames that make good holds. `shades` says
    whether the figures shade the place; a `phone` shot is packed as a phone would.
    The feet of `acts` are heard, and `sounds`: seconds of the action, which, how hard.
    """

    name: str
    title: str
    frames: int
    rate = 30
    slow = 0.45
    top: float = 0.0
    spot: type[Spot] = Dunes
    place_samples, figure_samples = 4, 8
    shutter = 0.5
    shades = True
    phone = False
    locked = True
    lamp: tuple[float, ...] = (1.0, 1.0, 1.0, 1.0, 1.0, 1.0)
    figure_lamp: tuple[float, ...] | None = None
    stock = Stock()
    focus, blur, most = 6.0, 20.0, 6.0
    cast = 1
    holds: dict[int, str] = {}
    acts: tuple[Act, ...] = ()
    sounds: tuple[tuple[float, str, float], ...] = ()

    def __init__(self, width: int = 720, height: int = 1280, quality: float = 1.0) -> None:
        self.width, self.height = width, height
        self._samples = max(1, round(self.place_samples * quality))
        self._figure_samples = max(1, round(self.figure_samples * quality))
        self.tex, self.here = texture(), spot_of(self.spot)
        self._standing: list[tuple[np.ndarray, ...]] | None = None

    # What a shot says about itself -------------------------------------------------------------------------

    @classmethod
    def camera_at(cls, frame: float) -> np.ndarray:
        """The camera (13,) of a frame."""
        return film.look_at()

    @classmethod
    def action_time(cls, frame: float) -> float:
        """Seconds of the action at a frame."""
        return (frame - cls.top) / cls.rate * cls.slow

    @classmethod
    def perform(cls, time: float, solid: Solid) -> list[Figure]:
        """Adds the figures of an instant to `solid`, nearest cast first; none in an empty shot."""
        return []

    def thrown(self, time: float, sample: int, camera: np.ndarray) -> tuple[np.ndarray, np.ndarray] | None:
        """Triangles that belong to the action rather than the place: points and colours (n, 3, 3)."""
        return None

    @classmethod
    def ring(cls, time: float) -> tuple[float, float, float, float]:
        """Where something fell into the sea: x, z, age in seconds, strength."""
        return (0.0, 0.0, 0.0, 0.0)

    # Filming -----------------------------------------------------------------------------------------------

    def take(self, frame: int, clean: bool = False) -> Take:
        """Films one frame; the same frame is always the same picture."""
        (ambient, direct), depths, seas = self._place(frame, acted=True)
        light, alpha, shadow, close = self._figures(frame, depths, seas)
        lamp = np.array(self.lamp, np.float32)
        lit = direct * (lamp[:3] * (1 - 0.94 * shadow[..., None])) + ambient * (lamp[3:] * (1 - close[..., None]))
        full = self._lens(lit, depths[0]) * (1 - alpha.sum(-1, keepdims=True)) + light
        plate = None
        if clean:
            if self._throws(frame):
                (ambient, direct), depths, _ = self._place(frame, acted=False)
            plate = film.develop(self._lens(direct * lamp[:3] + ambient * lamp[3:], depths[0]), frame, self.stock)
        return Take(film.develop(full, frame, self.stock), alpha, plate)

    def _throws(self, frame: int) -> bool:
        time = self.action_time(frame)
        return self.ring(time)[3] > 0 or self.thrown(time, 0, self.camera_at(frame)) is not None

    def _lens(self, light: np.ndarray, depth: np.ndarray) -> np.ndarray:
        return film.lens_blur(light, depth, self.focus, self.blur, self.most)

    @staticmethod
    def _jitter(sample: int) -> tuple[float, float]:
        return film.halton(sample + 1, 2), film.halton(sample + 1, 3)

    def _moment(self, frame: float, sample: int, samples: int) -> float:
        """The instant within the open shutter that a sample sees, as a frame."""
        return frame + self.shutter * ((sample + 0.5) / samples - 0.5)

    def _ground(self, camera: np.ndarray, sample: int) -> tuple[np.ndarray, ...]:
        h, w, here = self.height, self.width, self.here
        ambient, direct = (np.zeros((h, w, 3), np.float32) for _ in range(2))
        depth, sea = np.zeros((h, w), np.float32), np.zeros((h, w), np.uint8)
        rows, segments, spheres, _ = here.wood
        place.ground_pass(
            self.tex, camera, *self._jitter(sample), place.SUN, rows, segments, spheres, here.piles, here.prints,
            here.shade, here.shade_at, ambient, direct, depth, sea,
        )  # fmt: skip
        return np.minimum(ambient, 6), direct, depth, sea

    def _place(self, frame: int, acted: bool):
        """Ambient and direct light of the place (H, W, 3), and each sample's depth and sea."""
        n = self._samples
        if self.locked and self._standing is None:
            self._standing = [self._ground(self.camera_at(0), s) for s in range(n)]
        time = self.action_time(frame)
        points, colours = self.here.triangles(time, self.camera_at(frame))
        light, sun, depths, seas = 0, 0, [], []
        for s in range(n):
            moment = frame if self.locked else self._moment(frame, s, n)
            camera, (jx, jy) = self.camera_at(moment), self._jitter(s)
            if self._standing is not None:
                ambient, direct, depth, sea = (a.copy() for a in self._standing[s])
            else:
                ambient, direct, depth, sea = self._ground(camera, s)
            ring = np.array(self.ring(time) if acted else (0.0, 0.0, 0.0, 0.0))
            place.sea_pass(self.tex, camera, jx, jy, time, place.SUN, sea, ring, ambient)
            self._draw(points, colours, camera, s, ambient, direct, depth)
            thrown = self.thrown(time, s, camera) if acted else None
            if thrown is not None:
                self._draw(*thrown, camera, s, ambient, direct, depth)
            light = light + np.minimum(ambient, 6)
            sun = sun + np.minimum(direct, 6)
            depths.append(depth)
            seas.append(sea)
        return (light / n, sun / n), depths, seas

    def _draw(self, points, colours, camera, sample, ambient, direct, depth) -> None:
        screen = film.project(camera, points, self.width, self.height)
        triangles = np.ascontiguousarray(np.concatenate([screen, colours], -1).astype(np.float32))
        place.triangle_pass(triangles, *self._jitter(sample), 0.6, ambient, direct, depth)

    def _figures(self, frame: int, depths: list[np.ndarray], seas: list[np.ndarray]):
        """The figures' light (H, W, 3), alpha (H, W, cast), shadow and closeness (H, W)."""
        h, w = self.height, self.width
        light, alpha = np.zeros((h, w, 3), np.float32), np.zeros((h, w, max(1, self.cast)), np.float32)
        shaded, shadow, close = (np.zeros((h, w), np.float32) for _ in range(3))
        n, shades = self._figure_samples, 0
        for s in range(n):
            moment = self._moment(frame, s, n)
            camera, solid = self.camera_at(moment), Solid()
            figures = self.perform(self.action_time(moment), solid)
            if not figures:
                return light, alpha, shadow, close
            rows, segments, spheres, around = solid.pack()
            box = self._box(camera, rows)
            depth = depths[s % len(depths)]
            figure.figure_pass(
                self.tex, camera, *self._jitter(s), place.SUN, np.array(self.figure_lamp or self.lamp),
                rows, segments, spheres, around,
                box, np.array([f.face for f in figures]), np.array([f.costume.dyes for f in figures]),
                depth, light, shaded, alpha,
            )  # fmt: skip
            if self.shades and s % 4 == 0:
                shades += 1
                figure.shadow_pass(
                    self.tex, camera, place.SUN, self.action_time(moment), rows, segments, spheres, around, depth,
                    seas[s % len(seas)], shadow, close,
                )  # fmt: skip
        alpha /= n
        light *= (alpha.sum(-1) / np.maximum(shaded, 1))[..., None]
        return light, alpha, shadow / max(1, shades), close / max(1, shades)

    def _box(self, camera: np.ndarray, rows: np.ndarray) -> np.ndarray:
        """The part of the picture (x0, x1, y0, y1) that the figures can cover."""
        ends = np.vstack([rows[:, :3], rows[:, :3] + rows[:, 6:9] * rows[:, 12:13]])
        h, w = self.height, self.width
        near = (ends - camera[:3]) @ camera[3:6]
        if near.min() < 0.25:
            return np.array([0, w, 0, h], np.int64)
        seen = film.project(camera, ends, w, h)
        margin = 0.17 / near.min() / camera[12] * h / 2
        low, high = seen[:, :2].min(0) - margin, seen[:, :2].max(0) + margin
        box = np.array([low[0], high[0], low[1], high[1]])
        return np.clip(box, 0, [w, w, h, h]).astype(np.int64)

    @classmethod
    def joints(cls, frame: int, width: int = 720, height: int = 1280) -> list[dict[str, tuple[float, float]]]:
        """Where each figure's joints are on the picture, in pixels."""
        figures = cls.perform(cls.action_time(frame), Solid())
        camera = cls.camera_at(frame)
        return [
            {k: tuple(film.project(camera, p, width, height)[:2].round(1)) for k, p in f.joints.items()}
            for f in figures
        ]


def ground_at(x: float, z: float) -> np.ndarray:
    """The point of the dunes at (x, z)."""
    return np.array([x, place.height(texture(), x, z), z])
