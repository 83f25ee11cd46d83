"""Motion blur: the mean, in linear light, of a picture as it moves while the shutter is open.

Between two of its places a picture moves by A = B₁·B₀⁻¹; the mean over N = 2ᵏ steps of it is the product of
(I + A^(2ʲ/N))/2 over j = 0 … k − 1, so that 64 steps take six warps. Powers of A are its binomial series. Light is
taken from R'G'B' by the curve of IEC 61966-2-1 (sRGB), as a screen shows it, and put back by its inverse.
"""

import math
from collections.abc import Callable, Sequence
from concurrent.futures import Executor
from dataclasses import dataclass
from functools import partial

import cv2
import numpy as np
from numba import njit

from ..footage.planes import Planes, from_rgb, to_bgr
from .blend import _clipped, _within
from .draw import Placed, Sprite, settled
from .glass import Box, Glass, On, put_together


@dataclass(frozen=True)
class Smearing:
    """How finely motion is averaged.

    step: how far apart two samples of it lie at most, in pixels of the output; doublings: how many times the samples
    are doubled at most; soft: below so many pixels of motion the picture goes over into what it is without any.
    """

    step: float = 1.0
    doublings: int = 8
    soft: float = 2.0


@dataclass(frozen=True)
class Smear:
    """A picture in motion: `light` is linear R, G, B and coverage, premultiplied, float32 (h, w, 4), its corner at left
    and top (even numbers, canvas pixels). `share` is how much of it is drawn in light, 0…1, the rest in R'G'B'."""

    left: int
    top: int
    light: np.ndarray
    share: float = 1.0

    def glass(self) -> Glass:
        """The same in R'G'B', for where it is blended or lies in a group that is."""
        return Glass(self.left, self.top, _coded(self.light))


def smeared(
    one: Placed, moves: Sequence[np.ndarray], canvas: tuple[int, int], settings: Smearing | None = None
) -> Smear | None:
    """A sprite as it is seen while it moves through some places, evenly spaced in time.

    moves: for each of them the 3×3 matrix, as `one` has it for the frame itself; canvas: (w, h), even. None if nothing
    of it is seen on the canvas.
    """
    settings = settings or Smearing()
    found = settled(Placed(one.sprite, moves[len(moves) // 2], 1.0))
    if found is None:
        return None
    sprite, middle, _, _ = found
    own = np.linalg.inv(moves[len(moves) // 2]) @ middle  # from the pixels of what was settled on
    places = [m @ own for m in moves]
    height, width = sprite.luma.shape
    corners = np.array([[0, width, 0, width], [0, 0, height, height], [1, 1, 1, 1]], float)
    seen = np.stack([(m @ corners)[:2] for m in places])
    far = np.linalg.norm(np.diff(seen, axis=0), axis=1).max(1)  # of each leg
    reach = _reach(seen, float(far.max()), canvas)
    if reach is None:
        return None
    left, top, right, bottom = reach
    size = right - left, bottom - top
    to = np.array([[1, 0, -left], [0, 1, -top], [0, 0, 1.0]])
    source = in_light(sprite)
    total = np.zeros((size[1], size[0], 4), np.float32)
    for start, end, length in zip(places, places[1:], far, strict=False):
        leg = _leg(source, to @ start, to @ end, float(length), size, settings)
        cv2.scaleAdd(leg, 1 / len(far), total, dst=total)
    cut = max(0, left), max(0, top), min(canvas[0], right), min(canvas[1], bottom)
    part = total[cut[1] - top : cut[3] - top, cut[0] - left : cut[2] - left]
    if one.opacity != 1:
        part = part * np.float32(one.opacity)
    return Smear(cut[0], cut[1], np.ascontiguousarray(part), min(1.0, float(far.sum()) / settings.soft))


def _leg(
    source: np.ndarray, start: np.ndarray, end: np.ndarray, length: float, size: tuple[int, int], settings: Smearing
) -> np.ndarray:
    """The mean of a picture on its way from one place to another, on a region of a size (w, h)."""
    doublings = min(settings.doublings, max(0, math.ceil(math.log2(max(1.0, length / settings.step)))))
    steps = 2**doublings
    whole = end @ np.linalg.inv(start)
    # Samples lie in the middles of equal parts of the way.
    first = power(whole, 0.5 / steps) @ start
    picture = cv2.warpAffine(source, _centred(first), size, flags=cv2.INTER_LINEAR)
    for n in range(doublings):
        on = cv2.warpAffine(picture, _centred(power(whole, 2**n / steps)), size, flags=cv2.INTER_LINEAR)
        picture = cv2.addWeighted(picture, 0.5, on, 0.5, 0)
    return picture


def power(matrix: np.ndarray, exponent: float, terms: int = 14) -> np.ndarray:
    """A flat 3×3 matrix that is not far from the identity, to any power: the binomial series Σ (e over k)·(A − I)ᵏ."""
    rest = matrix - np.eye(3)
    found, term, factor = np.eye(3), np.eye(3), 1.0
    for k in range(1, terms + 1):
        term, factor = term @ rest, factor * (exponent - k + 1) / k
        found = found + factor * term
        if np.abs(term).max() * abs(factor) < 1e-9:
            break
    return found


def _centred(matrix: np.ndarray) -> np.ndarray:
    """A matrix of corners of pixels, 2×3, for OpenCV, which counts from their middles."""
    half = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1]])
    return (np.linalg.inv(half) @ matrix @ half)[:2]


def _reach(seen: np.ndarray, far: float, canvas: tuple[int, int]) -> Box | None:
    """The region in which a picture is worked on, given its corners over time: even numbers; None if off the canvas.

    What is blurred towards the canvas from beyond its edge is worked on as well.
    """
    low, high = np.floor(seen.min((0, 2))), np.ceil(seen.max((0, 2)))
    if low[0] >= canvas[0] or low[1] >= canvas[1] or high[0] <= 0 or high[1] <= 0:
        return None
    more = math.ceil(far) + 2
    left, top = max(int(low[0]) - 2, -more), max(int(low[1]) - 2, -more)
    right, bottom = min(int(high[0]) + 2, canvas[0] + more), min(int(high[1]) + 2, canvas[1] + more)
    left, top = left // 2 * 2, top // 2 * 2
    return left, top, right + (right - left) % 2, bottom + (bottom - top) % 2


def in_light(sprite: Sprite) -> np.ndarray:
    """A sprite as linear R, G, B and coverage, premultiplied: float32 (h, w, 4). Made when first asked for."""
    if sprite.in_light is None:
        height, width = sprite.luma.shape
        aside = np.array([[1, 0, -sprite.left], [0, 1, -sprite.top], [0, 0, 1.0]])
        glass = put_together([On(Placed(sprite, aside, 1.0))], (width, height))
        light = np.zeros((height, width, 4), np.float32)
        if glass is not None:
            left, top, right, bottom = glass.box  # of even sides, which a halved sprite need not have
            light[top:bottom, left:right] = _linear(glass.rgba)[: height - top, : width - left]
        sprite.in_light = light
    return sprite.in_light


FINE = 4096
"""How many values the curves are tabled at."""
_CODES = np.linspace(0, 1, FINE)
DECODED = np.where(_CODES <= 0.04045, _CODES / 12.92, ((_CODES + 0.055) / 1.055) ** 2.4).astype(np.float32)
"""Linear light of R'G'B', at even distances of that."""
LEVELS = np.interp(np.arange(256) / 255, _CODES, DECODED).astype(np.float32)
"""The same of eight bits."""
_LIGHTS = _CODES**2
CODED = np.where(_LIGHTS <= 0.0031308, 12.92 * _LIGHTS, 1.055 * _LIGHTS ** (1 / 2.4) - 0.055).astype(np.float32)
"""R'G'B' of linear light, at even distances of its square root: finer where eyes are."""


@njit(cache=True, nogil=True, inline="always")
def _decode(table, code):
    return table[int(_clipped(code) * np.float32(4095) + np.float32(0.5))]


@njit(cache=True, nogil=True, inline="always")
def _encode(table, light):
    return table[int(np.sqrt(_clipped(light)) * np.float32(4095) + np.float32(0.5))]


@njit(cache=True, nogil=True)
def _curve(picture, table, encode, out):
    """Premultiplied colours, colour beyond coverage being light, from one scale to the other, as straight ones are."""
    for r in range(picture.shape[0]):
        for c in range(picture.shape[1]):
            p = picture[r, c]
            cover = max(p[3], max(p[0], max(p[1], p[2])))
            if cover <= np.float32(1e-6):
                continue
            for n in range(3):
                straight = p[n] / cover
                out[r, c, n] = (_encode(table, straight) if encode else _decode(table, straight)) * cover
            out[r, c, 3] = p[3]


def _linear(rgba: np.ndarray) -> np.ndarray:
    out = np.zeros_like(rgba)
    _curve(rgba, DECODED, False, out)
    return out


def _coded(light: np.ndarray) -> np.ndarray:
    out = np.zeros_like(light)
    _curve(light, CODED, True, out)
    return out


@njit(cache=True, nogil=True, fastmath=True)
def _lay(y, u, v, light, left, top, share, decoded, coded, first, past, start, end):
    """Puts a smear onto planes: rows first…past and columns start…end of the chroma planes."""
    unit = np.float32(1.0 / 219)
    black, half, middle = np.float32(16), np.float32(0.5), np.float32(128)
    one = np.float32(1)
    mixed = np.zeros(3, np.float32)
    for r in range(first, past):
        for c in range(start, end):
            row, column = 2 * r - top, 2 * c - left
            seen = np.float32(0)
            for n in range(4):
                p = light[row + n // 2, column + n % 2]
                seen = max(seen, max(max(p[0], p[1]), max(p[2], p[3])))
            if seen <= np.float32(0.0005):
                continue
            tu, tv = np.float32(u[r, c]) - middle, np.float32(v[r, c]) - middle
            red = np.float32(1.5748 / 224) * tv
            green = -np.float32(0.18732427 / 224) * tu - np.float32(0.46812427 / 224) * tv
            blue = np.float32(1.8556 / 224) * tu
            sum_u = np.float32(0)
            sum_v = np.float32(0)
            for n in range(4):
                p = light[row + n // 2, column + n % 2]
                py, px = 2 * r + n // 2, 2 * c + n % 2
                cover = max(p[3], max(p[0], max(p[1], p[2])))
                if cover <= np.float32(0.0005):
                    sum_u += tu
                    sum_v += tv
                    continue
                t = (np.float32(y[py, px]) - black) * unit
                keep = one - min(p[3], one)
                mixed[0], mixed[1], mixed[2] = t + red, t + green, t + blue
                for k in range(3):
                    under = _clipped(mixed[k])
                    lit = _encode(coded, p[k] + keep * _decode(decoded, under))
                    if share < one:
                        plain = _encode(coded, p[k] / cover) * cover + keep * under
                        lit = plain + share * (lit - plain)
                    # Where it covers nearly nothing, tables must not change what lies below.
                    mixed[k] = lit if cover > np.float32(0.004) else under
                level = np.float32(0.2126) * mixed[0] + np.float32(0.7152) * mixed[1] + np.float32(0.0722) * mixed[2]
                y[py, px] = np.uint8(_within(black + np.float32(219) * level + half))
                sum_u += np.float32(224 / 1.8556) * (mixed[2] - level)
                sum_v += np.float32(224 / 1.5748) * (mixed[0] - level)
            u[r, c] = np.uint8(_within(sum_u * np.float32(0.25) + middle + half))
            v[r, c] = np.uint8(_within(sum_v * np.float32(0.25) + middle + half))


def lay_in_light(planes: Planes, smear: Smear, bands: int = 1, pool: Executor | None = None) -> None:
    """Puts what moves over planes of even size, in place; with a pool, in bands of rows."""
    height, width = smear.light.shape[:2]
    start, end = max(0, smear.left // 2), min(planes.u.shape[1], (smear.left + width) // 2)
    first, past = max(0, smear.top // 2), min(planes.u.shape[0], (smear.top + height) // 2)
    if start >= end or first >= past:
        return
    given = planes.y, planes.u, planes.v, smear.light, smear.left, smear.top, np.float32(smear.share), DECODED, CODED
    kernel: Callable[..., None] = partial(_lay, *given)
    edges = [first + (past - first) * k // bands for k in range(bands + 1)] if pool else [first, past]
    strips = list(zip(edges, edges[1:], strict=False))
    others = [pool.submit(kernel, a, b, start, end) for a, b in strips[1:]] if pool else []
    kernel(*strips[0], start, end)
    for other in others:
        other.result()


def shaken(planes: Planes, moves: Sequence[np.ndarray], settings: Smearing | None = None) -> Planes:
    """All of a picture as it is seen while it moves through some places, evenly spaced in time.

    moves: for each of them the 3×3 matrix from where it is now; what comes in from beyond the edge is as the edge is.
    """
    settings = settings or Smearing()
    width, height = planes.size
    corners = np.array([[0, width, 0, width], [0, 0, height, height], [1, 1, 1, 1]], float)
    seen = np.stack([(m @ corners)[:2] for m in moves])
    far = np.linalg.norm(np.diff(seen, axis=0), axis=1).max(1)
    more = (math.ceil(float(np.abs(seen - seen[len(moves) // 2]).max())) + 3) // 2 * 2
    rgb = cv2.LUT(to_bgr(planes), LEVELS)
    rgb = cv2.copyMakeBorder(rgb, more, more, more, more, cv2.BORDER_REPLICATE)
    size = rgb.shape[1], rgb.shape[0]
    to = np.array([[1, 0, more], [0, 1, more], [0, 0, 1.0]])
    back = np.linalg.inv(to)
    total = np.zeros(rgb.shape, np.float32)
    for start, end, length in zip(moves, moves[1:], far, strict=False):
        leg = _leg(rgb, to @ start @ back, to @ end @ back, float(length), size, settings)
        cv2.scaleAdd(leg, 1 / len(far), total, dst=total)
    part = total[more : more + height, more : more + width]
    coded = CODED[np.sqrt(np.clip(part, 0, 1) * np.float32((FINE - 1) ** 2)).astype(np.uint16)]
    return from_rgb(coded[..., ::-1])
