"""Marram grass: thousands of blades, made once, that bend in the wind of one instant."""

import cv2
import numpy as np

from .mesh import depth_of, hazed, lit
from .place import SUN, height

TEXELS = 70.0
"""Texels a metre of the shadow map."""
Tuft = tuple[float, float, int, float, float]
"""A tuft: x, z, number of blades, height and spread in metres."""


class Grass:
    """The blades of some tufts. Their shadow map begins at `corner` (x, z) and is `size` metres wide and deep."""

    KNOTS = 7

    def __init__(
        self, tex: np.ndarray, tufts: list[Tuft], corner: tuple[float, float], size: tuple[float, float]
    ) -> None:
        rng = np.random.default_rng(6)
        self.tufts, self.corner, self.size = tufts, corner, size
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

    def shade(self, roofs: list[np.ndarray] | None = None) -> np.ndarray:
        """Shadow and closeness seen from above, of the grass and of polygons (n, 2: x, z): float32 (h, w, 2), 0…1."""
        (x0, z0), per = self.corner, TEXELS
        shadow = np.zeros((int(self.size[1] * per), int(self.size[0] * per)), np.float32)
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
        for roof in roofs or []:
            cv2.fillPoly(shadow, [np.round((roof - [x0, z0]) * per).astype(np.int32)], 1.0)
        shadow = cv2.GaussianBlur(np.clip(shadow, 0, 1), (0, 0), 1.2) * 0.9
        return np.ascontiguousarray(np.stack([shadow, cv2.GaussianBlur(close, (0, 0), 7)], -1))
