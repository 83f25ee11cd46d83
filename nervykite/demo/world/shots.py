"""The shots that can be filmed on the set, a frame at a time, with the truth about each."""

from dataclasses import dataclass

import numpy as np

from . import figure, film, noise, place, props


@dataclass(frozen=True)
class Take:
    """One filmed frame and what is known about it.

    picture and clean are sRGB uint8 (H, W, 3), clean without the subject; alpha is float32 (H, W), 0…1.
    """

    picture: np.ndarray
    clean: np.ndarray
    alpha: np.ndarray


class DuneRun:
    """A runner leaps over driftwood, left to right, in slow motion; the camera stands still.

    Frames 0…119 at 30 a second; the top of the leap is frame 60. Everything happens at `slow` speed.
    """

    name = "dune-run"
    title = "Dune run"
    frames = 120
    rate = 30
    slow = 0.45
    top = 60

    def __init__(self, width: int = 720, height: int = 1280, place_samples: int = 4, figure_samples: int = 8) -> None:
        self.width, self.height = width, height
        self.samples, self.figure_samples = place_samples, figure_samples
        self.camera = self.camera_at(0)
        self.tex = noise.textures()
        self.grass = props.Grass(self.tex)
        rows, segments, spheres, _ = props.logs(self.tex).pack()
        piles = spheres + [0, 0, 0, 0.02]
        shade, prints = self.grass.shade(), props.footprints(self.tex)
        self._still = []
        for s in range(place_samples):
            ambient, direct = (np.zeros((height, width, 3), np.float32) for _ in range(2))
            depth, sea = np.zeros((height, width), np.float32), np.zeros((height, width), np.uint8)
            place.ground_pass(
                self.tex, self.camera, *self._jitter(s), place.SUN, rows, segments, spheres, piles, prints,
                shade, props.SHADE_AT, ambient, direct, depth, sea,
            )  # fmt: skip
            self._still.append((np.minimum(ambient, 6), direct, depth, sea))

    def _jitter(self, sample: int) -> tuple[float, float]:
        return film.halton(sample + 1, 2), film.halton(sample + 1, 3)

    @classmethod
    def camera_at(cls, frame: float) -> np.ndarray:
        """The camera (13,) of a frame."""
        return film.look_at()

    def action_time(self, frame: float) -> float:
        """Seconds of the action at a frame; 0 is the top of the leap."""
        return (frame - self.top) / self.rate * self.slow

    def _place(self, time: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        things = [props.moving_things(self.tex, time, self.camera), self.grass.mesh(time, self.camera)]
        points = np.concatenate([t[0] for t in things])
        colours = np.concatenate([t[1] for t in things])
        screen = film.project(self.camera, points, self.width, self.height)
        triangles = np.ascontiguousarray(np.concatenate([screen, colours], -1).astype(np.float32))
        light, sun, first = 0, 0, None
        for s, (still, still_sun, still_depth, sea) in enumerate(self._still):
            ambient, direct, depth = still.copy(), still_sun.copy(), still_depth.copy()
            jx, jy = self._jitter(s)
            place.sea_pass(self.tex, self.camera, jx, jy, time, place.SUN, sea, ambient)
            place.triangle_pass(triangles, jx, jy, 0.6, ambient, direct, depth)
            light = light + np.minimum(ambient, 6)
            sun = sun + np.minimum(direct, 6)
            first = depth if first is None else first
        return light / self.samples, sun / self.samples, first

    def _figure(self, frame: int, depth: np.ndarray):
        h, w = depth.shape
        light, alpha = np.zeros((h, w, 3), np.float32), np.zeros((h, w), np.float32)
        shadow, close = np.zeros((h, w), np.float32), np.zeros((h, w), np.float32)

        def ground(x: float, z: float) -> float:
            return place.height(self.tex, x, z)

        for s in range(self.figure_samples):
            at = frame + 0.5 * ((s + 0.5) / self.figure_samples - 0.5)  # half the frame's time: 180 degrees
            runner = figure.Runner(self.action_time(at), ground)
            rows, segments, spheres, around = runner.solid.pack()
            ends = np.vstack([rows[:, :3], rows[:, :3] + rows[:, 6:9] * rows[:, 12:13]])
            seen = film.project(self.camera, ends, w, h)
            margin = 0.17 / max(1.0, seen[:, 2].min()) / self.camera[12] * h / 2
            low, high = seen[:, :2].min(0) - margin, seen[:, :2].max(0) + margin
            box = np.array([max(0, low[0]), min(w, high[0]), max(0, low[1]), min(h, high[1])]).astype(np.int64)
            figure.figure_pass(
                self.tex, self.camera, *self._jitter(s), place.SUN, rows, segments, spheres, around,
                box, runner.face, depth, light, alpha,
            )  # fmt: skip
            if s % 4 == 0:
                figure.shadow_pass(self.camera, place.SUN, rows, segments, spheres, around, depth, shadow, close)
        n, m = self.figure_samples, len(range(0, self.figure_samples, 4))
        return light / n, alpha / n, shadow / m, close / m

    def take(self, frame: int) -> Take:
        """Films one frame; the same frame is always the same picture."""
        time = self.action_time(frame)
        ambient, direct, depth = self._place(time)
        light, alpha, shadow, close = self._figure(frame, depth)
        clean = film.lens_blur(ambient + direct, depth)
        lit = direct * (1 - 0.94 * shadow[..., None]) + ambient * (1 - close[..., None])
        full = film.lens_blur(lit, depth) * (1 - alpha[..., None]) + light
        return Take(film.develop(full, frame), film.develop(clean, frame), alpha)


SHOTS = {shot.name: shot for shot in (DuneRun,)}
