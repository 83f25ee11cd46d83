"""Made-up subjects before made-up places, each with its true matte: what the judge learns from.

Nothing in them looks like anything, on purpose: bodies with limbs, and things, in any colours and textures, often those
of the place, before layers of other textures. What holds in all of them holds in photographs too (`cutouts.py` has
those): a subject goes on across its own colours, ends at an edge, and what is behind it goes on beside it. Scenes of
things that hide each other have the statistics of natural pictures (Lee, Mumford and Huang, "Occlusion models for
natural images", 2001).
"""

from typing import NamedTuple

import cv2
import numpy as np

from .camera import filmed
from .noise import noise

TALL = (0.2, 0.9)
"""How tall subjects are, in heights of the scene, before their limbs."""
LEAST = 0.006
"""The least of the scene that a subject has to cover."""


class Scene(NamedTuple):
    """A subject before a place."""

    picture: np.ndarray
    """The picture, uint8 RGB (h, w, 3)."""
    alpha: np.ndarray
    """The subject's matte, float32 (h, w), 0…1."""
    place: np.ndarray
    """The same without the subject and its shadow, filmed once more: uint8 RGB (h, w, 3)."""


class Subject(NamedTuple):
    """Somebody or something, by itself."""

    colours: np.ndarray
    """RGB (h, w, 3), 0…255."""
    alpha: np.ndarray
    """Its matte, float32 (h, w), 0…1."""


def scene(rng: np.random.Generator, height: int, width: int) -> Scene | None:
    """A made-up scene of that size; None if the subject that came up is too small."""
    ground = place(rng, height, width)
    made = subject(rng, ground)
    if made is None:
        return None
    colours, alpha = made
    empty = ground
    if rng.random() < 0.35:
        ground = _with_shadow(rng, ground, alpha)
    clear = ground * (1 - alpha[..., None]) + colours * alpha[..., None]
    return Scene(filmed(rng, clear), alpha, filmed(rng.spawn(1)[0], empty))


def subject(rng: np.random.Generator, ground: np.ndarray, tall: tuple[float, float] = TALL) -> Subject | None:
    """A made-up subject somewhere before a place, in colours of which some may be the place's; None if too small.

    ground: float32 RGB (h, w, 3); tall: between which heights it is, in heights of the place, before its limbs.
    """
    height, width = ground.shape[:2]
    alpha = _silhouette(rng, height, width, tall)
    count, labels, stats, _ = cv2.connectedComponentsWithStats((alpha > 0.5).astype(np.uint8))
    if count < 2:
        return None
    largest = labels == 1 + np.argmax(stats[1:, cv2.CC_STAT_AREA])
    alpha *= cv2.dilate(largest.astype(np.uint8), np.ones((7, 7)))
    if (alpha > 0.5).mean() < LEAST:
        return None
    alpha = np.clip(cv2.GaussianBlur(alpha, (0, 0), rng.uniform(0.4, 1.3)), 0, 1).astype(np.float32)
    return Subject(_coat(rng, alpha, ground), alpha)


def _palette(rng: np.random.Generator, near: np.ndarray | None) -> np.ndarray:
    """Four colours that go together, around `near` if given: float64 (4, 3)."""
    base = rng.uniform(0, 255, 3) if near is None else near
    spread = [rng.normal() * rng.uniform(5, 70) + rng.normal(0, rng.uniform(3, 40), 3) for _ in range(4)]
    colours = np.clip(base + np.array(spread), 3, 252)
    colourful = rng.uniform(0.15, 1)
    return colours.mean(1, keepdims=True) * (1 - colourful) + colours * colourful


def _texture(rng: np.random.Generator, height: int, width: int, near: np.ndarray | None = None) -> np.ndarray:
    """Clouds, patches, stripes or leaves: float32 (height, width, 3)."""
    colours = _palette(rng, near)
    kind = rng.random()
    waves = noise(rng, height, width)
    if kind < 0.35:
        texture = _between(colours, np.clip((waves + 1.5) / 3, 0, 1))
    elif kind < 0.6:
        others = noise(rng, height, width)[..., None] > rng.normal(0, 0.6)
        parts = np.where(waves[..., None] > rng.normal(0, 0.6), colours[0], np.where(others, colours[1], colours[2]))
        texture = cv2.GaussianBlur(parts.astype(np.float32), (0, 0), rng.uniform(0.5, 2))
    elif kind < 0.8:
        y, x = np.mgrid[:height, :width].astype(np.float32)
        angle, often = rng.uniform(0, np.pi), rng.uniform(0.03, 0.6)
        stripes = np.sin((x * np.cos(angle) + y * np.sin(angle)) * often + waves * rng.uniform(0, 3))
        texture = _between(colours, np.clip(stripes * rng.uniform(0.6, 4) + 0.5, 0, 1))
    else:
        texture = _leaves(rng, height, width, colours)
    grain = noise(rng, height, width, 4, 9, rng.uniform(0.1, 0.8))
    return (texture + rng.uniform(0, 14) * grain[..., None]).astype(np.float32)


def _between(colours: np.ndarray, share: np.ndarray) -> np.ndarray:
    return colours[0] * (1 - share[..., None]) + colours[1] * share[..., None]


def _leaves(rng: np.random.Generator, height: int, width: int, colours: np.ndarray) -> np.ndarray:
    texture = np.full((height, width, 3), colours[0], np.float32)
    long, thin = rng.uniform(4, height / 6), rng.uniform(0.08, 0.8)
    turned, spread = rng.uniform(0, 180), rng.uniform(8, 90)
    for _ in range(int(rng.uniform(30, 400))):
        colour = colours[rng.integers(4)] + rng.normal(0, 18, 3)
        length = long * rng.uniform(0.4, 1.3)
        middle = int(rng.uniform(0, width)), int(rng.uniform(0, height))
        axes = max(1, int(length)), max(1, int(length * thin))
        cv2.ellipse(texture, middle, axes, turned + rng.normal(0, spread), 0, 360, colour.tolist(), -1, cv2.LINE_AA)
    return texture


def place(rng: np.random.Generator, height: int, width: int) -> np.ndarray:
    """A made-up place: grounds above each other, things on them, light from above or below, sometimes out of focus.

    float32 RGB (height, width, 3).
    """
    ground = _texture(rng, height, width)
    for _ in range(rng.integers(0, 3)):
        line = np.interp(np.arange(width), np.linspace(0, width, 12), rng.normal(0, height * rng.uniform(0, 0.06), 12))
        below = (np.arange(height)[:, None] > rng.uniform(0.1, 0.9) * height + line[None, :]).astype(np.float32)
        share = cv2.GaussianBlur(below, (0, 0), rng.uniform(0.5, 3))[..., None]
        near = None if rng.random() < 0.5 else ground.mean((0, 1))
        ground = ground * (1 - share) + _texture(rng, height, width, near) * share
    for _ in range(rng.integers(0, 7)):
        thing = cv2.GaussianBlur(_silhouette(rng, height, width, (0.05, 0.5)), (0, 0), rng.uniform(0.5, 3))
        ground = ground * (1 - thing[..., None]) + _coat(rng, thing, ground) * thing[..., None]
    ground = ground * (1 + 0.4 * rng.uniform(-1, 1) * np.linspace(-1, 1, height)[:, None, None])
    return cv2.GaussianBlur(ground, (0, 0), rng.uniform(0.7, 5)) if rng.random() < 0.35 else ground


def _silhouette(rng: np.random.Generator, height: int, width: int, tall: tuple[float, float]) -> np.ndarray:
    """A body with limbs and a head, or a thing with corners; half of them ragged: float32 (height, width), 0…1."""
    size = rng.uniform(*tall) * height
    middle = np.array([rng.uniform(0.2, 0.8) * width, rng.uniform(0.3, 0.75) * height])
    mask = np.zeros((height, width), np.float32)
    if rng.random() < 0.75:
        _draw_body(rng, mask, size, middle)
    else:
        count = rng.integers(3, 14)
        angles = np.sort(rng.uniform(0, 2 * np.pi, count))
        reach = size / 2 * rng.uniform(0.4, 1, count)
        corners = middle + np.stack([reach * np.cos(angles) * rng.uniform(0.3, 1.2), reach * np.sin(angles)], 1)
        cv2.fillPoly(mask, [np.round(corners * 16).astype(np.int32)], 1.0, cv2.LINE_AA, 4)
        if rng.random() < 0.6:
            mask = (cv2.GaussianBlur(mask, (0, 0), size * rng.uniform(0.01, 0.06)) > 0.5).astype(np.float32)
    return ragged(rng, mask) if rng.random() < 0.5 else mask


def _draw_body(rng: np.random.Generator, mask: np.ndarray, size: float, middle: np.ndarray) -> None:
    upright = rng.choice([0, np.pi / 2]) + rng.normal(0, 0.2)
    angle = rng.uniform(0, np.pi) if rng.random() < 0.4 else upright
    long = size * rng.uniform(0.25, 0.5)
    half = _towards(angle) * long / 2
    thick = long * rng.uniform(0.12, 0.42)
    ends = thick * rng.uniform(0.6, 1.2), thick * rng.uniform(0.6, 1.2)
    spine = _draw_limb(mask, middle - half, middle + half, *ends, rng.normal(0, 0.25))
    for _ in range(rng.integers(1, 8)):
        start = spine[rng.integers(len(spine))]
        angle = rng.uniform(0, 2 * np.pi) if rng.random() < 0.5 else np.pi / 2 + rng.normal(0, 0.4)
        length = size * rng.uniform(0.12, 0.5)
        wide = max(1.2, thick * rng.uniform(0.06, 0.5))
        end = start + length * _towards(angle)
        limb = _draw_limb(mask, start, end, wide, wide * rng.uniform(0.3, 1.1), rng.normal(0, 0.3))
        if rng.random() < 0.5:
            further = limb[-1] + 0.6 * length * _towards(angle + rng.normal(0, 0.9))
            _draw_limb(mask, limb[-1], further, wide * 0.7, wide * rng.uniform(0.2, 0.8), rng.normal(0, 0.3))
    neck = spine[0 if rng.random() < 0.5 else -1]
    head = neck + thick * rng.uniform(0.4, 1.4) * _towards(rng.uniform(0, 2 * np.pi))
    axes = [max(2, int(thick * rng.uniform(0.3, 0.8))) for _ in range(2)]
    cv2.ellipse(mask, np.round(head).astype(int).tolist(), axes, rng.uniform(0, 180), 0, 360, 1.0, -1, cv2.LINE_AA)


def _draw_limb(
    mask: np.ndarray, start: np.ndarray, end: np.ndarray, wide: float, narrow: float, bend: float
) -> np.ndarray:
    """Draws a bent limb of half widths `wide` to `narrow`; returns its middle line (14, 2)."""
    along = np.linspace(0, 1, 14)[:, None]
    side = np.array([-(end - start)[1], (end - start)[0]])
    line = (1 - along) ** 2 * start + 2 * along * (1 - along) * ((start + end) / 2 + side * bend) + along**2 * end
    radii = wide * (1 - along[:, 0]) + narrow * along[:, 0]
    for a, b, ra, rb in zip(line, line[1:], radii, radii[1:], strict=False):
        across = np.array([-(b - a)[1], (b - a)[0]]) / (np.hypot(*(b - a)) + 1e-6)
        corners = np.array([a + across * ra, b + across * rb, b - across * rb, a - across * ra])
        cv2.fillConvexPoly(mask, np.round(corners * 16).astype(np.int32), 1.0, cv2.LINE_AA, 4)
        cv2.circle(mask, np.round(a * 16).astype(int).tolist(), max(8, int(ra * 16)), 1.0, -1, cv2.LINE_AA, 4)
    return line


def _towards(angle: float) -> np.ndarray:
    return np.array([np.cos(angle), np.sin(angle)])


def ragged(rng: np.random.Generator, mask: np.ndarray) -> np.ndarray:
    """A mask with fur or frayed edges."""
    soft = rng.uniform(1, 4)
    blurred = cv2.GaussianBlur(mask, (0, 0), soft)
    fray = (
        noise(rng, mask.shape[0], mask.shape[1], 4, 9, rng.uniform(0.1, 0.9))
        * 0.12
        * rng.uniform(0.5, 4)
        * (blurred > 0.02)
    )
    return np.clip(0.5 + (blurred - 0.5) * soft * 1.5 + fray, 0, 1) * (blurred > 0.03)


def _coat(rng: np.random.Generator, mask: np.ndarray, place: np.ndarray) -> np.ndarray:
    """The coat of a subject: parts of several colours, some of them the place's, with light from a side."""
    height, width = mask.shape
    inside = mask > 0.5

    def of_the_place() -> np.ndarray:
        return place[rng.integers(height), rng.integers(width)].astype(float)

    coat = _texture(rng, height, width, of_the_place() if rng.random() < 0.4 else None)
    for _ in range(rng.integers(0, 5) if inside.any() else 0):
        if rng.random() < 0.6:
            y, x = np.mgrid[:height, :width]
            across = (np.stack([x, y], -1) @ _towards(rng.uniform(0, 2 * np.pi))).astype(np.float32)
            part = across > np.quantile(across[inside], rng.uniform(0.4, 0.95))
        else:
            part = noise(rng, height, width, 1, 4, 1.0) > rng.normal(0.4, 0.7)
        share = cv2.GaussianBlur(part.astype(np.float32), (0, 0), rng.uniform(0.4, 2.5))[..., None]
        alike = coat[inside].mean(0) if rng.random() < 0.4 else None
        near = of_the_place() if rng.random() < 0.25 else alike
        coat = coat * (1 - share) + _texture(rng, height, width, near) * share
    depth = cv2.GaussianBlur(np.sqrt(cv2.distanceTransform(inside.astype(np.uint8), cv2.DIST_L2, 5)), (0, 0), 3)
    slope = np.stack([cv2.Sobel(depth, -1, 1, 0), cv2.Sobel(depth, -1, 0, 1)], -1) @ _towards(rng.uniform(0, 2 * np.pi))
    return np.clip(coat * (1 + np.clip(rng.uniform(0, 0.6) * slope, -0.7, 0.9))[..., None], 0, 255)


def _with_shadow(rng: np.random.Generator, place: np.ndarray, alpha: np.ndarray) -> np.ndarray:
    rows, columns = np.nonzero(alpha > 0.5)
    y, x = np.mgrid[: alpha.shape[0], : alpha.shape[1]]
    wide = np.ptp(columns) * 0.6 + 4
    away = ((x - columns.mean()) / wide) ** 2 + ((y - rows.max()) / (wide * 0.18)) ** 2
    return place * (1 - rng.uniform(0.15, 0.45) * np.clip(1.3 - away, 0, 1))[..., None]
