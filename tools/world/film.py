"""From light to a picture: lens blur, bloom, film curve, grain."""

import math
from dataclasses import dataclass

import cv2
import numpy as np


def look_at(position=(0.0, 1.18, -6.0), yaw=0.0, pitch=3.0, roll=0.0, field=39.0) -> np.ndarray:
    """A camera (13,) for the kernels; `field` is the vertical field of view."""
    y, p, r = (math.radians(a) for a in (yaw, pitch, roll))
    forward = np.array([math.sin(y) * math.cos(p), math.sin(p), math.cos(y) * math.cos(p)])
    right = np.array([math.cos(y), 0, -math.sin(y)])
    up = np.cross(forward, right)
    right, up = right * math.cos(r) + up * math.sin(r), up * math.cos(r) - right * math.sin(r)
    return np.array([*position, *forward, *right, *up, math.tan(math.radians(field / 2))])


def project(camera: np.ndarray, points: np.ndarray, width: int, height: int) -> np.ndarray:
    """World points (…, 3) to screen x, y in pixels and depth in metres (…, 3)."""
    q = np.asarray(points, float) - camera[:3]
    z = q @ camera[3:6]
    safe = np.where(np.abs(z) < 1e-6, 1e-6, z) * camera[12]
    u = q @ camera[6:9] / safe / (width / height)
    v = q @ camera[9:12] / safe
    return np.stack([(u + 1) / 2 * width, (1 - v) / 2 * height, z], -1)


def halton(index: int, base: int) -> float:
    """The index-th number of the Halton sequence, 0…1: even but unpatterned sample places."""
    part, result = 1.0, 0.0
    while index > 0:
        part /= base
        result += part * (index % base)
        index //= base
    return result


def _disc(radius: float) -> np.ndarray:
    k = math.ceil(radius)
    y, x = np.mgrid[-k : k + 1, -k : k + 1]
    disc = np.clip(radius + 0.5 - np.sqrt(x * x + y * y), 0, 1)
    return (disc / disc.sum()).astype(np.float32)


def lens_blur(
    light: np.ndarray, depth: np.ndarray, focus: float = 6.0, strength: float = 20.0, most: float = 6.0
) -> np.ndarray:
    """Blurs light (H, W, 3) by each pixel's distance from the focus, at most by `most` ≤ 6.

    Sizes are for 1280 lines.
    """
    scale = light.shape[0] / 1280
    circle = np.clip(strength * scale * np.abs(1 / focus - 1 / np.minimum(depth, 1e4)) - 0.35, 0, most * scale)
    circle = circle.astype(np.float32)
    radii = [r * scale for r in (0, 1.2, 2.4, 3.8, 6.0)]
    out = light.astype(np.float32).copy()
    for before, radius in zip(radii, radii[1:], strict=False):
        weight = np.clip((circle - before * 0.55) / (0.4 * radius + 1e-3), 0.02, 1)
        kernel = _disc(radius)
        blurred = cv2.filter2D(light * weight[..., None], cv2.CV_32F, kernel)
        blurred /= cv2.filter2D(weight, cv2.CV_32F, kernel)[..., None]
        share = np.clip((circle - before) / (radius - before), 0, 1)[..., None]
        out = out * (1 - share) + blurred * share
    return out


@dataclass(frozen=True)
class Stock:
    """The stock that a camera writes light down on: exposure, tint of the light (3), and noise in brightness and in
    colour.
    """

    exposure: float = 0.92
    tint: tuple[float, float, float] = (1.0, 1.0, 1.0)
    grain: float = 0.010
    speckle: float = 0.0025
    lines: int = 1280
    """Lines of the picture for which the sizes of bloom and grain are meant."""


def develop(light: np.ndarray, grain_seed: int, stock: Stock = Stock()) -> np.ndarray:
    """Light (H, W, 3) to an sRGB picture, float32 0…1: bloom, vignette, film curve (Narkowicz 2015), tint, grain."""
    x = (light * stock.exposure).astype(np.float32) * np.array(stock.tint, np.float32)
    h, w = x.shape[:2]
    s = h / stock.lines
    bright = np.clip(x - 0.95, 0, 3)
    x += 0.20 * cv2.GaussianBlur(bright, (0, 0), 7 * s)
    small = cv2.resize(bright, (w // 4, h // 4), interpolation=cv2.INTER_AREA)
    wide = cv2.resize(cv2.GaussianBlur(small, (0, 0), 7 * s), (w, h))
    x += 0.12 * wide * np.array([1.0, 0.85, 0.7], np.float32)
    small = cv2.resize(x, (w // 4, h // 4), interpolation=cv2.INTER_AREA)
    x = 0.97 * x + 0.03 * cv2.resize(cv2.GaussianBlur(small, (0, 0), 7.5 * s), (w, h))
    yy, xx = np.mgrid[0:h, 0:w].astype(np.float32)
    x *= (1 - 0.44 * (((xx / w - 0.5) * 1.2) ** 2 + ((yy / h - 0.5) * 1.25) ** 2))[..., None]
    x = np.maximum(x * 0.72, 0)
    x = np.clip((x * (2.51 * x + 0.03)) / (x * (2.43 * x + 0.59) + 0.14), 0, 1)
    x = np.where(x <= 0.0031308, 12.92 * x, 1.055 * np.power(np.maximum(x, 1e-6), 1 / 2.4) - 0.055)
    grey = (x @ np.array([0.3, 0.59, 0.11], np.float32))[..., None]
    x = grey + (x - grey) * 1.08
    cool, warm = np.float32([-0.012, 0.002, 0.018]), np.float32([0.014, 0.004, -0.012])
    x = x + cool * (1 - grey) ** 2 + warm * grey**2
    rng = np.random.default_rng(grain_seed)
    noise = cv2.GaussianBlur(rng.standard_normal((h, w), np.float32), (0, 0), 0.65)[..., None] * 1.6 * stock.grain
    noise = noise + stock.speckle * rng.standard_normal((h, w, 3), np.float32)
    return np.clip(x + noise * (1.1 - 0.7 * np.abs(2 * grey - 1)), 0, 1).astype(np.float32)


def as_bytes(picture: np.ndarray) -> np.ndarray:
    """A picture of floats 0…1 as uint8."""
    return (picture * 255 + 0.5).astype(np.uint8)


def shake(time: float, seed: float, amount: float) -> tuple[float, float, float]:
    """The unrest of a hand: yaw, pitch, roll in degrees at a time in seconds, each about -amount…amount."""

    def wander(k: float) -> float:
        slow = math.sin(time * 2.3 + seed + k) + 0.6 * math.sin(time * 4.1 + 2 * seed + 3 * k)
        return (slow + 0.35 * math.sin(time * 9.7 + 5 * k) + 0.15 * math.sin(time * 17.3 + seed * k)) / 2

    return wander(1.0) * amount, wander(2.7) * amount * 0.8, wander(4.4) * amount * 0.5


def ground_homography(first: np.ndarray, other: np.ndarray, width: int, height: int, level: float = 0.0) -> np.ndarray:
    """The homography (3, 3) of the level plane y = `level` from one camera's pixels to another's.

    A point of the plane is (x, z, 1); each camera maps it to its pixels linearly (Hartley & Zisserman 2004, 13.1).
    """

    def from_plane(camera: np.ndarray) -> np.ndarray:
        offset = np.array([0, level, 0]) - camera[:3]
        right, up, forward = (
            np.array([axis[0], axis[2], axis @ offset]) for axis in (camera[6:9], camera[9:12], camera[3:6])
        )
        scale = height / 2 / camera[12]
        return np.stack([right * scale + forward * width / 2, -up * scale + forward * height / 2, forward])

    mapping = from_plane(other) @ np.linalg.inv(from_plane(first))
    return mapping / mapping[2, 2]
