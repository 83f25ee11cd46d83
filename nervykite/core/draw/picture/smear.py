"""Motion blur: the mean, in linear light, of a picture as it moves while the shutter is open.

Between two of its places a picture moves by A = B₁·B₀⁻¹; the mean over N = 2ᵏ steps of it is the product of
(I + A^(2ʲ/N))/2 over j = 0 … k − 1, so that 64 steps take six warps. Powers of A are its binomial series. Light is
taken from R'G'B' by the curve of IEC 61966-2-1 (sRGB), as a screen shows it, and put back by its inverse.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

import cv2
import numpy as np
from numba import njit

from ...craft.finishing.linear_light import FINE, TO_CODE, TO_LIGHT, to_code, to_light
from ...see.footage.planes import Planes, from_rgb, to_bgr
from .bands import WHOLE, Bands
from .blend_modes import clipped
from .draw import PlacedSprite, Sprite, settled
from .glass import Box, Glass, On, put_together
from .pixel_kernels import byte_of


@dataclass(frozen=True)
class Smearing:
    """The fineness with which motion is averaged.

    step: how far apart two samples of it lie at most, in pixels of the output; doublings: how many times the samples
    are doubled at most; soft: below so many pixels of motion the picture goes over into what it is without any.
    """

    step: float = 1.5
    doublings: int = 8
    soft: float = 2.0


@dataclass(frozen=True)
class Smear:
    """A picture in motion: `light` is linear R, G, B and coverage, premultiplied, float32 (h, w, 4), its corner at left
    and top (even numbers, canvas pixels). `share` is how much of it is drawn in light, 0…1, the rest in R'G'B'.
    """

    left: int
    top: int
    light: np.ndarray
    share: float = 1.0

    def glass(self) -> Glass:
        """The same in R'G'B', for where it is blended or lies in a group that is."""
        return Glass(self.left, self.top, to_code(self.light))


def smeared(
    one: PlacedSprite, moves: Sequence[np.ndarray], canvas: tuple[int, int], settings: Smearing | None = None
) -> Smear | None:
    """A sprite as it is seen while it moves through some places, evenly spaced in time.

    moves: for each of them the 3×3 matrix, as `one` has it for the frame itself; canvas: (w, h), even. None if nothing
    of it is seen on the canvas.
    """
    settings = settings or Smearing()
    found = settled(PlacedSprite(one.sprite, moves[len(moves) // 2], 1.0))
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
    total: np.ndarray | None = None
    for start, end, length in zip(places, places[1:], far, strict=False):
        leg = _leg(source, to @ start, to @ end, float(length), size, settings)
        total = leg if total is None else cv2.add(total, leg, dst=total)
    assert total is not None
    cut = max(0, left), max(0, top), min(canvas[0], right), min(canvas[1], bottom)
    part = total[cut[1] - top : cut[3] - top, cut[0] - left : cut[2] - left]
    if len(far) > 1 or one.opacity != 1:
        part = part * np.float32(one.opacity / len(far))
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
    other = np.empty_like(picture)
    for n in range(doublings):
        back = _centred(np.linalg.inv(power(whole, 2**n / steps)))
        if np.abs(back[:, :2] - np.eye(2)).max() * max(size) < 0.05:
            rows = (size[1], size[0] * picture.shape[2])
            _aside(picture.reshape(rows), float(back[0, 2]), float(back[1, 2]), picture.shape[2], other.reshape(rows))
            picture, other = other, picture
        else:
            # Into arrays that are there: making new ones takes as long as all the rest.
            cv2.warpAffine(picture, back, size, dst=other, flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP)
            cv2.addWeighted(picture, 0.5, other, 0.5, 0, dst=picture)
    return picture


@njit(cache=True, nogil=True, fastmath=True)
def _aside(flat, across, down, depth, out):
    """The mean of rows of so many channels and of them read so many pixels farther on; beyond them there is nothing.

    The weights are the same everywhere, so that whole rows are worked on at once.
    """
    height, length = flat.shape
    half = np.float32(0.5)
    x, y = int(math.floor(across)), int(math.floor(down))
    fx, fy = np.float32(across - x), np.float32(down - y)
    a, b = half * (1 - fx) * (1 - fy), half * fx * (1 - fy)
    c, d = half * (1 - fx) * fy, half * fx * fy
    start, past = depth * max(0, -x), depth * min(length // depth, length // depth - 1 - x)
    for r in range(height):
        if r + y < 0 or r + y + 1 >= height or start >= past:
            for i in range(length):
                out[r, i] = half * flat[r, i]
            continue
        for i in range(start):
            out[r, i] = half * flat[r, i]
        for i in range(past, length):
            out[r, i] = half * flat[r, i]
        j, wide = start + depth * x, past - start
        own, to = flat[r, start:past], out[r, start:past]
        n0, n1 = flat[r + y, j : j + wide], flat[r + y, j + depth : j + depth + wide]
        b0, b1 = flat[r + y + 1, j : j + wide], flat[r + y + 1, j + depth : j + depth + wide]
        for i in range(wide):
            to[i] = half * own[i] + a * n0[i] + b * n1[i] + c * b0[i] + d * b1[i]


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
        glass = put_together([On(PlacedSprite(sprite, aside, 1.0))], (width, height))
        light = np.zeros((height, width, 4), np.float32)
        if glass is not None:
            left, top, right, bottom = glass.box  # of even sides, which a halved sprite need not have
            light[top:bottom, left:right] = to_light(glass.rgba)[: height - top, : width - left]
        sprite.in_light = light
    return sprite.in_light


LEVELS = np.interp(np.arange(256) / 255, np.linspace(0, 1, FINE), TO_LIGHT).astype(np.float32)
"""Linear light of R'G'B' in eight bits."""


@njit(cache=True, nogil=True, fastmath=True)
def _lay(y, wide, u, v, light, across, left, top, share, decoded, coded, first, past, start, end):
    """Puts a smear onto planes, all given flat: rows first…past and columns start…end of the chroma planes.

    wide and across: how many pixels a row of the luma plane has, and one of the smear.
    """
    unit, hardly = np.float32(1.0 / 219), np.float32(0.004)
    black, half, middle = np.float32(16), np.float32(0.5), np.float32(128)
    zero, one, fine = np.float32(0), np.float32(1), np.float32(4095)
    for r in range(first, past):
        for c in range(start, end):
            corner = 4 * ((2 * r - top) * across + 2 * c - left)
            at = r * (wide // 2) + c
            seen = max(max(light[corner + 3], light[corner + 7]),
                       max(light[corner + 4 * across + 3], light[corner + 4 * across + 7]))  # fmt: skip
            for n in range(4):
                i = corner + (n // 2) * 4 * across + (n % 2) * 4
                seen = max(seen, max(light[i], max(light[i + 1], light[i + 2])))
            if seen <= hardly:
                continue
            tu, tv = np.float32(u[at]) - middle, np.float32(v[at]) - middle
            red = np.float32(1.5748 / 224) * tv
            green = -np.float32(0.18732427 / 224) * tu - np.float32(0.46812427 / 224) * tv
            blue = np.float32(1.8556 / 224) * tu
            sum_u, sum_v = zero, zero
            for n in range(4):
                i = corner + (n // 2) * 4 * across + (n % 2) * 4
                p0, p1, p2, p3 = light[i], light[i + 1], light[i + 2], light[i + 3]
                most = max(p3, max(p0, max(p1, p2)))
                # Where it covers nearly nothing, tables must not change what lies below.
                if most <= hardly:
                    sum_u += tu
                    sum_v += tv
                    continue
                place = (2 * r + n // 2) * wide + 2 * c + n % 2
                keep = one - p3
                l0, l1, l2 = p0, p1, p2
                if keep > zero:
                    t = (np.float32(y[place]) - black) * unit
                    t0, t1, t2 = clipped(t + red), clipped(t + green), clipped(t + blue)
                    l0 += keep * decoded[int(t0 * fine + half)]
                    l1 += keep * decoded[int(t1 * fine + half)]
                    l2 += keep * decoded[int(t2 * fine + half)]
                b0 = coded[int(np.sqrt(clipped(l0)) * fine + half)]
                b1 = coded[int(np.sqrt(clipped(l1)) * fine + half)]
                b2 = coded[int(np.sqrt(clipped(l2)) * fine + half)]
                if share < one:
                    if keep <= zero:
                        t0, t1, t2 = zero, zero, zero
                    s0 = coded[int(np.sqrt(clipped(p0 / most)) * fine + half)] * most + keep * t0
                    s1 = coded[int(np.sqrt(clipped(p1 / most)) * fine + half)] * most + keep * t1
                    s2 = coded[int(np.sqrt(clipped(p2 / most)) * fine + half)] * most + keep * t2
                    b0, b1, b2 = s0 + share * (b0 - s0), s1 + share * (b1 - s1), s2 + share * (b2 - s2)
                level = np.float32(0.2126) * b0 + np.float32(0.7152) * b1 + np.float32(0.0722) * b2
                y[place] = byte_of(black + np.float32(219) * level)
                sum_u += np.float32(224 / 1.8556) * (b2 - level)
                sum_v += np.float32(224 / 1.5748) * (b0 - level)
            u[at] = byte_of(sum_u * np.float32(0.25) + middle)
            v[at] = byte_of(sum_v * np.float32(0.25) + middle)


def lay_in_light(planes: Planes, smear: Smear, bands: Bands = WHOLE) -> None:
    """Puts what moves over planes of even size, contiguous, in place."""
    assert all(p.flags.c_contiguous for p in (planes.y, planes.u, planes.v))
    height, width = smear.light.shape[:2]
    start, end = max(0, smear.left // 2), min(planes.u.shape[1], (smear.left + width) // 2)
    first, past = max(0, smear.top // 2), min(planes.u.shape[0], (smear.top + height) // 2)
    if start >= end or first >= past:
        return
    flat = planes.y.ravel(), planes.y.shape[1], planes.u.ravel(), planes.v.ravel(), smear.light.ravel(), width
    given = *flat, smear.left, smear.top, np.float32(smear.share), TO_LIGHT, TO_CODE
    bands.run(partial(_lay, *given), first, past, start, end)


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
    coded = TO_CODE[np.sqrt(np.clip(part, 0, 1) * np.float32((FINE - 1) ** 2)).astype(np.uint16)]
    return from_rgb(coded[..., ::-1])
