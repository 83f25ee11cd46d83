"""An edge from an outline: how wide it is, a ramp as wide, and the closed form drawn to that as far as it is crisp."""

import math
from dataclasses import dataclass

import cv2
import numpy as np

from .part import around
from .solve import solve_alpha

ALL = np.ones((1, 3), np.float32)
"""Adds up the channels of a picture."""


@dataclass(frozen=True)
class EdgeSettings:
    """The settings by which an edge is found beside an outline."""

    beside: float = 3.0
    """How far beside an edge, px, the band begins: the outline that one starts from is a pixel or two off."""
    pull: float = 2e-3
    """The least pull of a solution to the guess: an outline that is off must not keep the edge from where it is."""
    hold: float = 0.3
    """The pull where both sides look alike, so that the guess is all there is to go by."""
    rise: float = 0.5
    """The part of an edge's width in which the guess goes from 0 to 1."""
    crisp: float = 2.0
    """The width, px, up to which an edge is crisp."""
    least_trust: float = 0.02
    """The part of the trust in a guess, 0…1, that is left where it is much wider, as hair is: that is to be found."""
    clean: float = 1.0
    """The pull of the second solution to a ramp where the first one has found the edge, if that is crisp."""
    steeper: int = 3
    """The power of the width by which that pull falls where the edge is wider."""
    hair: tuple[float, float] = (4.8, 8.0)
    """The widths, px, from which on the first solution counts more and more, and by which alone."""
    soon: int = 5
    """The steps after which the second solution is good enough, as it begins near its end."""
    large: int = 800_000
    """The pixels of a picture from which on the first solution is found at half the size: where edges are shows as
    well."""
    clear: float = 0.04
    """From what on a matte that is about known is not clear."""
    alike: float = 0.02
    """The contrast, of colours 0…1, up to which both sides look alike."""
    unlike: float = 0.06
    """The contrast, of colours 0…1, from which on both sides do not look alike."""


def edge_width(
    picture: np.ndarray, outline: np.ndarray, most: float, settings: EdgeSettings = EdgeSettings()
) -> tuple[np.ndarray, np.ndarray]:
    """The width of the transition at the outline, in pixels, 1…most, and how far it shows, 0…1: float32 (h, w).

    The contrast between the colours a little inside and a little outside, over the steepest change between them:
    a step edge gives about 1, a blurred one the length of its ramp. Where the two sides look alike nothing can be
    said, and the edge counts as crisp. Both are meaningful near the outline.
    """
    values = picture.astype(np.float32) / (255 if picture.dtype == np.uint8 else 1)
    inside = outline > 0.5
    reach = max(3.0, most / 2)

    half = (inside.shape[1] + 1) // 2, (inside.shape[0] + 1) // 2
    coarse = cv2.resize(values, half, interpolation=cv2.INTER_AREA)

    def side(mask: np.ndarray) -> np.ndarray:
        core = cv2.erode(mask.astype(np.float32), np.ones((3, 3), np.uint8))
        core = (cv2.resize(core, half, interpolation=cv2.INTER_AREA) > 0.99).astype(np.float32)  # of this side alone
        weight = cv2.GaussianBlur(core, (0, 0), reach / 2)
        return cv2.GaussianBlur(coarse * core[..., None], (0, 0), reach / 2) / np.maximum(weight, 1e-4)[..., None]

    apart = cv2.sqrt(cv2.transform((side(inside) - side(~inside)) ** 2, ALL))
    contrast = cv2.resize(apart, inside.shape[::-1], interpolation=cv2.INTER_LINEAR)
    dx = cv2.Sobel(values, cv2.CV_32F, 1, 0, ksize=3, scale=1 / 8)
    dy = cv2.Sobel(values, cv2.CV_32F, 0, 1, ksize=3, scale=1 / 8)
    slope = cv2.sqrt(cv2.transform(dx * dx + dy * dy, ALL))
    side_length = 2 * max(2, math.ceil(most / 3)) + 1
    steepest = cv2.dilate(slope, np.ones((side_length, side_length), np.uint8))
    wide = np.where(contrast > settings.unlike, contrast / np.maximum(steepest, 1e-3), 1.0)
    shows = np.clip((contrast - settings.alike) / (settings.unlike - settings.alike), 0, 1)
    return np.clip(cv2.GaussianBlur(np.minimum(wide, most), (0, 0), 4), 1, most).astype(np.float32), shows


def fine_edge(
    picture: np.ndarray, outline: np.ndarray, reach: float = 10.0, seen: np.ndarray | None = None, trust: float = 0.0,
    settings: EdgeSettings = EdgeSettings(),
) -> np.ndarray:  # fmt: skip
    """A matte with a real edge from a hard outline.

    picture: uint8 RGB (h, w, 3); outline: float32 (h, w), 0…1, its edge where it is one half. The band is as wide
    as the edge itself and a bit more, up to `reach` pixels to each side: an edge that the outline missed by a pixel or
    two is found, and then solved once more from where it is, which makes it clean. Where both sides look alike the
    outline is kept. seen: about what the matte is, float32 (h, w), 0…1, if that is known; else it is taken for a ramp
    across the outline, as wide as the edge. trust: how strongly the solution is drawn to that at least, where the edge
    is crisp; 0 for as little as may be. Returns float32 (h, w), 0…1.
    """
    hard = (outline > 0.5).astype(np.uint8)
    if hard.min() == hard.max():
        return hard.astype(np.float32)
    box = around(cv2.morphologyEx(hard, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)), 2 * math.ceil(reach) + 6)
    part = picture[box]
    wide, shows = _width_at_half_size(part, outline[box], reach, settings)
    least = settings.hold * (settings.pull / settings.hold) ** shows
    inside = _depth(hard[box])
    band = np.abs(inside) <= np.minimum(1 + (settings.beside - 1) * shows + 0.9 * wide, reach)
    guess = _across(inside, wide, settings) if seen is None else seen[box]
    if seen is not None:
        band |= (np.abs(inside) <= reach) & (guess > settings.clear) & (guess < 1 - settings.clear)
    alpha = hard.astype(np.float32)
    first = solve_alpha if hard.size < settings.large else _solved_at_half_size
    trusted = trust * np.clip((settings.crisp / wide) ** 2, settings.least_trust, 1)
    found = first(part, guess, band, np.maximum(least, trusted))
    alpha[box] = _cleaned(part, found, wide, least, reach, settings)
    return alpha


def _solved_at_half_size(picture: np.ndarray, guess: np.ndarray, band: np.ndarray, pull: np.ndarray) -> np.ndarray:
    """`solve_alpha` of a picture half as large, made as large again: a quarter of the work."""
    h, w = band.shape
    size = (w + 1) // 2, (h + 1) // 2
    part, about, drawn, inside = (
        cv2.resize(v, size, interpolation=cv2.INTER_AREA) for v in (picture, guess, pull, band.astype(np.float32))
    )
    # Alpha spreads from pixel to pixel, and so twice as far: a pull four times as strong keeps it to the same way.
    return cv2.resize(solve_alpha(part, about, inside > 0, 4 * drawn), (w, h), interpolation=cv2.INTER_LINEAR)


def _cleaned(
    picture: np.ndarray, found: np.ndarray, wide: np.ndarray, least: np.ndarray, reach: float, settings: EdgeSettings
) -> np.ndarray:
    """A solution float32 (h, w), 0…1, solved once more from where it has its edge.

    What is textured beside an edge leaves smears in the first one; but that tells where the edge is, and a ramp that is
    drawn there is clean. wide: how wide the edge is, px; least: how strongly it is drawn to the ramp at least; (h, w).
    """
    hard = (found > 0.5).astype(np.uint8)
    if hard.min() == hard.max():
        return found
    inside = _depth(hard)
    crisp = np.clip((settings.crisp / wide) ** settings.steeper, settings.least_trust, 1)
    pull = np.maximum(least, settings.clean * crisp)
    band = np.abs(inside) <= np.minimum(1 + 0.9 * wide, reach)
    clean = solve_alpha(picture, _across(inside, wide, settings), band, pull, settings.soon)
    share = np.clip((settings.hair[1] - wide) / (settings.hair[1] - settings.hair[0]), 0, 1)
    return found + share * (clean - found)


def _depth(hard: np.ndarray) -> np.ndarray:
    """The depth of each pixel's middle inside (> 0) or outside an outline, uint8 (h, w), 0 or 1: float32 (h, w)."""
    away = cv2.distanceTransform(hard, cv2.DIST_L2, 5) - cv2.distanceTransform(1 - hard, cv2.DIST_L2, 5)
    return away - np.where(hard > 0, np.float32(0.5), np.float32(-0.5))


def _across(inside: np.ndarray, wide: np.ndarray, settings: EdgeSettings) -> np.ndarray:
    """About what a matte is across an edge: float32 (h, w), 0…1; by the way inside of it and how wide it is, px."""
    way = np.clip(0.5 + cv2.GaussianBlur(inside, (0, 0), 0.7) / np.maximum(1.5, settings.rise * wide), 0, 1)
    return way * way * (3 - 2 * way)


def _width_at_half_size(
    picture: np.ndarray, outline: np.ndarray, most: float, settings: EdgeSettings
) -> tuple[np.ndarray, np.ndarray]:
    """`edge_width` of a large picture from a half as large one: how wide an edge is changes slowly along it."""
    h, w = outline.shape
    if h * w < 300_000:
        return edge_width(picture, outline, most, settings)
    size = (w + 1) // 2, (h + 1) // 2
    small, drawn = (cv2.resize(v, size, interpolation=cv2.INTER_AREA) for v in (picture, outline.astype(np.float32)))
    # A pixel is as wide as the narrowest edge: what is wider than that is twice as wide in full.
    narrow, shows = edge_width(small, drawn, most / 2, settings)
    wide = np.clip(2 * narrow - 1, 1, most)
    return cv2.resize(wide, (w, h), interpolation=cv2.INTER_LINEAR), cv2.resize(shows, (w, h))
