"""Water thrown up by a landing: a torn crown of sheets, and drops that fly and fall."""

import numpy as np

from .place import SEA_LEVEL

FALL = 9.81


class Splash:
    """The water of one landing at (x, z), begun at time 0; the same `seed` is always the same water."""

    def __init__(self, x: float, z: float, seed: int = 4, drops: int = 4200) -> None:
        rng = np.random.default_rng(seed)
        self.at = np.array([x, SEA_LEVEL, z])
        angle = rng.uniform(0, 2 * np.pi, drops)
        fast = rng.gamma(2.6, 0.66, drops) + 0.5
        steep = np.radians(rng.normal(62, 13, drops).clip(22, 88))
        out = np.stack([np.cos(angle), np.zeros(drops), np.sin(angle) * 0.8], -1)
        self.speed = out * (fast * np.cos(steep))[:, None] + [0.35, 0, -0.1]
        self.speed[:, 1] = fast * np.sin(steep) * 1.25
        self.start = self.at + out * rng.uniform(0.10, 0.34, drops)[:, None]
        self.born = rng.exponential(0.045, drops)
        self.size = 0.0022 + 0.0100 * rng.random(drops) ** 3.5
        self.bright = rng.uniform(0.55, 1.25, drops)
        self.fingers = rng.random((5, 64))

    def triangles(self, time: float, sample: int, camera: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Points and colours (n, 3, 3). Each sample shows another half of the sheets: together they are glassy."""
        right, up = camera[6:9], camera[9:12]
        points, colours = [], []
        age = time - self.born
        place = self.start + self.speed * age[:, None]
        place[:, 1] -= 0.5 * FALL * age**2
        seen = (age > 0) & (place[:, 1] > SEA_LEVEL - 0.01)
        p, size = place[seen], self.size[seen][:, None]
        way = self.speed[seen] - [0, 1, 0] * (FALL * age[seen])[:, None]
        way /= np.linalg.norm(way, axis=1, keepdims=True) + 1e-9
        flat = (way @ right)[:, None] * right + (way @ up)[:, None] * up
        across = (way @ right)[:, None] * up - (way @ up)[:, None] * right
        long, wide = flat * size * 1.6, across * size * 0.9
        ends = [
            p + long,
            p + 0.5 * long + wide,
            p - 0.6 * long + wide,
            p - long,
            p - 0.6 * long - wide,
            p + 0.5 * long - wide,
        ]
        light = np.array([0.92, 0.98, 1.0]) * self.bright[seen][:, None]
        for order in ((0, 1, 5), (1, 2, 5), (2, 4, 5), (2, 3, 4)):
            points.append(np.stack([ends[k] for k in order], 1))
            colours.append(np.stack([light * (1.3 if k in (0, 1) else 0.8) for k in order], 1))
        sheet = self._crown(time, sample)
        if sheet:
            points.append(sheet[0])
            colours.append(sheet[1])
        return np.concatenate(points), np.concatenate(colours)

    def _crown(self, time: float, sample: int) -> tuple[np.ndarray, np.ndarray] | None:
        age = time + 0.02
        if not 0 < age < 0.62:
            return None
        around, tall = 160, 22
        turn = np.linspace(0, 2 * np.pi, around)
        spikes = np.interp(turn * 64 / (2 * np.pi), np.arange(64), self.fingers[0]) ** 2
        spikes = 0.35 + 0.9 * spikes + 0.25 * np.interp(turn * 23 % 64, np.arange(64), self.fingers[1])
        high = np.maximum(0.0, (3.4 * age - 0.5 * FALL * 0.9 * age**2) * spikes)
        wide = 0.17 + 1.45 * age * (0.8 + 0.3 * np.interp(turn * 9 % 64, np.arange(64), self.fingers[2]))
        k = np.linspace(0, 1, tall)[:, None]
        reach = wide * (0.75 + 0.45 * k**1.5)
        grid = np.stack(
            [reach * np.cos(turn) + 0.12 * k, high * k**0.9, 0.8 * reach * np.sin(turn)], -1
        ) + self.at  # fmt: skip
        rng = np.random.default_rng((sample, int(round(time * 1e5)) & 0xFFFFF))
        thin = np.clip(0.95 - 0.55 * k - age * 1.1, 0.03, 1) + 0 * turn
        tear = np.interp((turn * 31 + 5 * k) % 64, np.arange(64), self.fingers[3])
        keep = rng.random((tall - 1, around - 1)) < (thin * (0.35 + 0.9 * tear))[:-1, :-1]
        foam = np.clip(0.25 + 0.75 * k + 0.3 * tear, 0, 1)[..., None]
        colour = np.array([0.30, 0.47, 0.47]) * (1 - foam) + np.array([1.0, 1.02, 1.0]) * foam
        a, b, c, d = grid[:-1, :-1], grid[:-1, 1:], grid[1:, 1:], grid[1:, :-1]
        p, q, r, s = colour[:-1, :-1], colour[:-1, 1:], colour[1:, 1:], colour[1:, :-1]
        points = np.concatenate([np.stack([a, b, c], 2)[keep], np.stack([a, c, d], 2)[keep]])
        return points, np.concatenate([np.stack([p, q, r], 2)[keep], np.stack([p, r, s], 2)[keep]])
