"""Shadows: where a picture shows a place that is known, only darker.

Whoever casts a shadow needs it: without it the demo's movers lose 0.03 of overlap.
"""

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numba import njit, prange

from .difference import slope


@dataclass(frozen=True)
class ShadeSettings:
    """The settings of what is taken for shade."""

    shadow: float = 0.0025
    """The smallest part of the frame that a shadow covers."""
    deeper: float = 0.12
    """The difference of darkness, in parts of the place's brightness, of something that lies in a shadow."""
    beside: tuple[int, int] = (23, 23)
    """The window, px, in which the shadow around it is looked at."""
    same: float = 0.05
    """The difference of darkness, in parts of the brightness, within which a shadow is one."""
    sharp: float = 0.1
    """The slope of darkness, a pixel, from which on there is the edge of a thing."""
    mostly: float = 0.7
    """The share of all that may be shade, 0…1, that is evenly dark if only that is believed."""
    even: float = 0.01
    """The variation of the darkness of even shade around a pixel, in parts of the brightness, at most."""
    uneven: float = 0.3
    """The same as a part of the scene's own noise, 0…1."""
    soft: float = 0.001
    """The smallest part of the frame that an even shadow covers."""
    soft_rim: int = 5
    """The window, px, in which the rim of an even shadow lies."""
    rim: int = 25
    """The window, px, in which a shadow and its rim lie beside each other."""
    steep: float = 0.04
    """How fast darkness changes at an edge, a pixel."""
    finer: float = 3.5
    """The fine detail, squared levels, from which on it is a cover's."""
    window: int = 13
    """The window, px, in which fine detail is gathered."""
    most: float = 6.0
    """The fine detail, squared levels, up to which it counts."""
    few: int = 3
    """Every which row and column is enough for what is usual."""


NEAR, WIDE = 3, 12
"""How far around a pixel darkness is looked at, first closely, then widely, px."""

UNKNOWN = np.float32(-1)
"""The roughness of what too little around a pixel says anything about."""


def shaded(
    frame: np.ndarray, plate: np.ndarray, noise: np.ndarray | float = 2.0, settings: ShadeSettings = ShadeSettings()
) -> np.ndarray:
    """Where a frame looks like the plate in shade: bool (h, w).

    frame, plate: uint8 RGB (h, w, 3); noise: how much the scene varies by itself, levels, (h, w) or one number. Shade
    is darker by about one factor in all channels (a little bluer, from the sky), and keeps the texture of the place.
    """
    f, p = (cv2.GaussianBlur(v, (0, 0), 1.2) for v in (frame, plate))
    middle = np.empty(frame.shape[:2], np.float32)
    shade, rim = (np.empty(frame.shape[:2], np.bool_) for _ in range(2))
    _darker(f, p, middle, shade, rim)
    least, wide = settings.shadow * shade.size, settings.rim
    if shade.sum() <= least:
        return np.zeros(shade.shape, bool)
    # Texture of the place goes on in its shade; something flat has covered it, something rough, or finer, lies on it.
    light, dark = (v - cv2.stackBlur(v, (19, 19)) for v in map(_mean, (p, f)))  # a soft rim is no texture
    rough, other, both = (cv2.blur(v, (9, 9)) for v in (light * light, dark * dark, light * dark))
    floor = (1.0 + 0.7 * np.asarray(noise)) ** 2
    alike = both > 0.45 * np.sqrt(rough * other)
    alone = np.abs(middle - cv2.stackBlur(middle, (15, 15))) < 0.07
    textured = rough > 10 * floor
    shade &= np.where(textured, alike & (other < 2 * rough), alone)
    if shade.sum() <= least:
        return np.zeros(shade.shape, bool)
    shade &= textured | ~_finer(frame, plate, middle, noise, shade, settings)
    even, uneven = _even(middle, noise, p, shade, settings)
    if even.sum() > settings.mostly * shade.sum():
        shade, least, wide = even, settings.soft * shade.size, settings.soft_rim
        own = even.astype(np.float32)
        depth = cv2.blur(middle * own, (wide, wide)) / np.maximum(cv2.blur(own, (wide, wide)), 1e-3)
        rim &= ~uneven & (middle > depth - settings.same)
    if shade.sum() <= least:
        return np.zeros(shade.shape, bool)
    # A shadow lies on the ground in one piece: small patches are cloth that happens to look like it.
    opened = cv2.morphologyEx(shade.astype(np.uint8), cv2.MORPH_OPEN, np.ones((5, 5), np.uint8))
    joined = cv2.morphologyEx(opened, cv2.MORPH_CLOSE, np.ones((13, 13), np.uint8))
    count, labels = cv2.connectedComponents(joined, connectivity=4)
    large = np.bincount(labels.ravel(), opened.ravel(), minlength=count) > least
    large[0] = False
    sure = cv2.dilate(opened * large[labels], np.ones((3, 3), np.uint8)) > 0
    found = sure | (rim & (cv2.dilate(sure.astype(np.uint8), np.ones((wide, wide), np.uint8)) > 0))
    return found & ~_deeper(middle, found, settings)


def _deeper(middle: np.ndarray, shade: np.ndarray, settings: ShadeSettings) -> np.ndarray:
    """Where something much darker than the shadow around lies in it, with a sharp edge: a leg. bool (h, w)."""
    if not shade.any():
        return shade
    own = shade.astype(np.float32)
    around = middle
    for _ in range(3):  # what is darker must not count as the shadow around
        around = cv2.blur(middle * own, settings.beside) / np.maximum(cv2.blur(own, settings.beside), 1e-3)
        own = (shade & (middle > around - settings.same)).astype(np.float32)
    dark = (cv2.GaussianBlur(np.clip(around - middle, 0, 1) * shade, (0, 0), 1.0) > settings.deeper).astype(np.uint8)
    count, labels = cv2.connectedComponents(dark)
    steep = cv2.dilate(slope(middle), np.ones((5, 5), np.uint8)) > settings.sharp
    rim = (dark > 0) & (cv2.erode(dark, np.ones((3, 3), np.uint8)) == 0)
    long = np.bincount(labels[rim], minlength=count)
    sharp = np.bincount(labels[rim & steep], minlength=count) > 0.5 * long
    sharp[0] = False
    return sharp[labels]


def _even(
    middle: np.ndarray, noise: np.ndarray | float, plate: np.ndarray, shade: np.ndarray, settings: ShadeSettings
) -> tuple[np.ndarray, np.ndarray]:
    """Where what may be shade is as dark all around, or gets darker slowly, and where it is not: bool (h, w).

    Something that is only as dark as a shadow has folds, fur, and light of its own. Each part that sharp edges surround
    is looked at by itself: first how far the darkness lies from a plane close by, then how that is further around.
    """
    own = (settings.uneven * np.asarray(noise) / (_mean(plate) + 4)).astype(np.float32)
    flat = shade & (slope(middle) < settings.steep + own)
    labels = cv2.connectedComponents(flat.astype(np.uint8), connectivity=4)[1]
    rough = np.full(middle.shape, UNKNOWN, np.float32)
    _roughness(middle, labels, rough)
    even = np.zeros(middle.shape, bool)
    _mostly(labels, rough, np.maximum(settings.even, own), even)
    return even, (labels > 0) & ~even


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _roughness(values, labels, rough):
    """The root mean square residual of values from a plane through those around that have the same label."""
    h, w = values.shape
    for y in prange(h):
        for x in range(w):
            own = labels[y, x]
            if own == 0:
                continue
            n = sx = sy = sxx = syy = sxy = np.float32(0)
            sv = svv = sxv = syv = np.float32(0)
            middle = values[y, x]
            for dy in range(-NEAR, NEAR + 1):
                for dx in range(-NEAR, NEAR + 1):
                    v, u = y + dy, x + dx
                    if 0 <= v < h and 0 <= u < w and labels[v, u] == own:
                        d = values[v, u] - middle
                        n += 1
                        sx += dx
                        sy += dy
                        sxx += dx * dx
                        syy += dy * dy
                        sxy += dx * dy
                        sv += d
                        svv += d * d
                        sxv += dx * d
                        syv += dy * d
            if n < 12:
                continue
            mx, my, mv = sx / n, sy / n, sv / n
            cxx, cyy, cxy = sxx / n - mx * mx, syy / n - my * my, sxy / n - mx * my
            cxv, cyv, cvv = sxv / n - mx * mv, syv / n - my * mv, svv / n - mv * mv
            det = cxx * cyy - cxy * cxy
            if det > 0.05:
                cvv -= (cxv * (cyy * cxv - cxy * cyv) + cyv * (cxx * cyv - cxy * cxv)) / det
            rough[y, x] = math.sqrt(max(cvv, np.float32(0)))


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _mostly(labels, rough, level, even):
    """Where the mean roughness of what is around, and has the same label, is below a level."""
    h, w = rough.shape
    for y in prange(h):
        for x in range(w):
            own = labels[y, x]
            if own == 0:
                continue
            n = total = np.float32(0)
            for v in range(max(0, y - WIDE), min(h, y + WIDE + 1), 3):
                for u in range(max(0, x - WIDE), min(w, x + WIDE + 1), 3):
                    if labels[v, u] == own and rough[v, u] != UNKNOWN:
                        total += min(rough[v, u], np.float32(0.1))
                        n += 1
            even[y, x] = n > 0 and total < level[y, x] * n


def _finer(frame, plate, middle, noise, shade, settings: ShadeSettings) -> np.ndarray:
    """Where a frame has more fine detail than its plate in shade, `middle` as bright, would have: bool (h, w)."""
    fine, place = (cv2.blur(v * v, (7, 7)) for v in map(_detail, (frame, plate)))
    few, window = (slice(None, None, settings.few),) * 2, (settings.window, settings.window)
    more = (fine - middle * middle * place) / (1 + 0.3 * float(np.median(np.atleast_2d(noise)[few])) ** 2)
    lit = more[few][np.abs(middle[few] - 1) < 0.02]
    usual = float(np.median(lit)) if lit.size else 0.0  # a frame is noisier than a plate
    share = cv2.blur(shade.astype(np.float32), window)
    return cv2.blur(np.clip(more - usual, 0, settings.most) * shade, window) > settings.finer * share + 1e-3


def _detail(picture: np.ndarray) -> np.ndarray:
    grey = _mean(picture)
    return grey - cv2.GaussianBlur(grey, (0, 0), 1.0)


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _darker(frame, plate, middle, shade, rim):
    """Frame over plate, the mean of the channels; where that is shade's, by itself; and where a shadow's rim's."""
    h, w = middle.shape
    for y in prange(h):
        for x in range(w):
            red = (np.float32(frame[y, x, 0]) + np.float32(4)) / (np.float32(plate[y, x, 0]) + np.float32(4))
            green = (np.float32(frame[y, x, 1]) + np.float32(4)) / (np.float32(plate[y, x, 1]) + np.float32(4))
            blue = (np.float32(frame[y, x, 2]) + np.float32(4)) / (np.float32(plate[y, x, 2]) + np.float32(4))
            mean = (red + green + blue) / np.float32(3)
            spread = max(red, green, blue) - min(red, green, blue)
            bluer = red <= green + 0.02 and green <= blue + 0.02  # skylight fills shade
            middle[y, x] = mean
            shade[y, x] = 0.42 < mean < 0.96 and spread < (0.24 if bluer else 0.10)
            rim[y, x] = 0.42 < mean < 0.985 and spread < 0.14


def _mean(picture: np.ndarray) -> np.ndarray:
    return cv2.transform(picture.astype(np.float32), np.full((1, 3), 1 / 3, np.float32))
