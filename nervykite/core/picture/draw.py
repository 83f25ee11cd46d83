"""Putting a sprite onto planes: premultiplied over (Porter and Duff 1984), moved, turned and scaled."""

import math
from collections.abc import Callable

import cv2
import numpy as np
from numba import njit


class Sprite:
    """A cutout ready to be drawn, in canvas pixels at rest.

    `left` and `top` (even) say where its corner rests. alpha is uint8 (h, w); y is uint16 (h, w) and holds
    alpha · Y′, so that drawing it where it came from changes nothing, to the bit. chroma_alpha, u, v are the
    same at half size. Every array has a transparent rim, so that sampling never needs to look outside.
    """

    def __init__(self, left: int, top: int, y, alpha, u, v, chroma_alpha) -> None:
        self.left, self.top = left, top
        self.y, self.alpha, self.u, self.v, self.chroma_alpha = y, alpha, u, v, chroma_alpha
        self._half: Sprite | None = None

    @property
    def nbytes(self) -> int:
        """Memory held, in bytes."""
        return sum(a.nbytes for a in (self.y, self.alpha, self.u, self.v, self.chroma_alpha))

    def half(self) -> "Sprite":
        """The sprite at half size, for drawing it small without flicker; made when first asked for."""
        if self._half is None:

            def shrink(plane: np.ndarray) -> np.ndarray:
                grown = np.pad(plane, ((0, plane.shape[0] % 2 + 2), (0, plane.shape[1] % 2 + 2)))
                size = grown.shape[1] // 2, grown.shape[0] // 2
                return cv2.resize(grown, size, interpolation=cv2.INTER_AREA)

            parts = [shrink(p) for p in (self.y, self.alpha, self.u, self.v, self.chroma_alpha)]
            self._half = Sprite(0, 0, *parts)
        return self._half


@njit(cache=True, nogil=True, fastmath=True)
def _span(origin, step, low, high, first, past):
    """The whole numbers x in first…past for which origin + step·x lies within low…high."""
    if abs(step) < 1e-9:
        if origin < low or origin > high:
            return first, first
        return first, past
    a = (low - origin) / step
    b = (high - origin) / step
    if a > b:
        a, b = b, a
    return max(first, int(math.ceil(a - 1e-6))), min(past, int(math.floor(b + 1e-6)) + 1)


@njit(cache=True, nogil=True, fastmath=True)
def _over_one(target, colour, alpha, m, opacity, first_row, past_row):
    h, w = alpha.shape
    for r in range(first_row, past_row):
        sx0 = m[0, 1] * (r + 0.5) + m[0, 2] + 0.5 * m[0, 0] - 0.5
        sy0 = m[1, 1] * (r + 0.5) + m[1, 2] + 0.5 * m[1, 0] - 0.5
        a, b = _span(sx0, m[0, 0], 0.0, w - 1.001, 0, target.shape[1])
        a, b = _span(sy0, m[1, 0], 0.0, h - 1.001, a, b)
        for c in range(a, b):
            sx = sx0 + m[0, 0] * c
            sy = sy0 + m[1, 0] * c
            i = int(sy)
            j = int(sx)
            a00 = alpha[i, j]
            a01 = alpha[i, j + 1]
            a10 = alpha[i + 1, j]
            a11 = alpha[i + 1, j + 1]
            if a00 | a01 | a10 | a11 == 0:
                continue
            fx = np.float32(sx - j)
            fy = np.float32(sy - i)
            w11 = fx * fy
            w01 = fx - w11
            w10 = fy - w11
            w00 = np.float32(1) - fx - w10
            cover = (a00 * w00 + a01 * w01 + a10 * w10 + a11 * w11) * opacity
            value = colour[i, j] * w00 + colour[i, j + 1] * w01
            value = (value + colour[i + 1, j] * w10 + colour[i + 1, j + 1] * w11) * opacity
            target[r, c] = np.uint8(
                (value + target[r, c] * (np.float32(255) - cover)) * np.float32(1 / 255) + np.float32(0.5)
            )


@njit(cache=True, nogil=True, fastmath=True)
def _over_two(target_u, target_v, colour_u, colour_v, alpha, m, opacity, first_row, past_row):
    h, w = alpha.shape
    for r in range(first_row, past_row):
        sx0 = m[0, 1] * (r + 0.5) + m[0, 2] + 0.5 * m[0, 0] - 0.5
        sy0 = m[1, 1] * (r + 0.5) + m[1, 2] + 0.5 * m[1, 0] - 0.5
        a, b = _span(sx0, m[0, 0], 0.0, w - 1.001, 0, target_u.shape[1])
        a, b = _span(sy0, m[1, 0], 0.0, h - 1.001, a, b)
        for c in range(a, b):
            sx = sx0 + m[0, 0] * c
            sy = sy0 + m[1, 0] * c
            i = int(sy)
            j = int(sx)
            a00 = alpha[i, j]
            a01 = alpha[i, j + 1]
            a10 = alpha[i + 1, j]
            a11 = alpha[i + 1, j + 1]
            if a00 | a01 | a10 | a11 == 0:
                continue
            fx = np.float32(sx - j)
            fy = np.float32(sy - i)
            w11 = fx * fy
            w01 = fx - w11
            w10 = fy - w11
            w00 = np.float32(1) - fx - w10
            keep = np.float32(255) - (a00 * w00 + a01 * w01 + a10 * w10 + a11 * w11) * opacity
            value = colour_u[i, j] * w00 + colour_u[i, j + 1] * w01
            value = (value + colour_u[i + 1, j] * w10 + colour_u[i + 1, j + 1] * w11) * opacity
            target_u[r, c] = np.uint8((value + target_u[r, c] * keep) * np.float32(1 / 255) + np.float32(0.5))
            value = colour_v[i, j] * w00 + colour_v[i, j + 1] * w01
            value = (value + colour_v[i + 1, j] * w10 + colour_v[i + 1, j + 1] * w11) * opacity
            target_v[r, c] = np.uint8((value + target_v[r, c] * keep) * np.float32(1 / 255) + np.float32(0.5))


def _rows(matrix: np.ndarray, width: int, height: int, rows: int) -> tuple[int, int]:
    """The rows, of so many, that a sprite of the given size reaches under a matrix."""
    ys = [matrix[1, 0] * x + matrix[1, 1] * y + matrix[1, 2] for x in (0, width) for y in (0, height)]
    return max(0, math.floor(min(ys))), min(rows, math.ceil(max(ys)))


def draw(planes, sprite: Sprite, matrix: np.ndarray, opacity: float, bands: int = 1, pool=None) -> None:
    """Draws a sprite over planes, in place.

    matrix (3×3) takes canvas pixels at rest to canvas pixels; sampling is bilinear, from a sprite shrunk by
    halves where it is drawn small. At whole-pixel moves no pixel is resampled. With a pool, the work is cut into
    `bands` of rows.
    """
    size = math.sqrt(abs(np.linalg.det(matrix[:2, :2])))
    if size < 1e-4:
        return
    full = matrix @ np.array([[1, 0, sprite.left], [0, 1, sprite.top], [0, 0, 1.0]])
    while size < 0.6 and min(sprite.alpha.shape) > 8:
        sprite, size = sprite.half(), size * 2
        full = full @ np.diag([2, 2, 1.0])
    half = full.copy()
    half[:2, 2] /= 2
    jobs: list[tuple[Callable, tuple]] = []
    for kind, forward, alpha in (("y", full, sprite.alpha), ("uv", half, sprite.chroma_alpha)):
        rows = planes.y.shape[0] if kind == "y" else planes.u.shape[0]
        first, past = _rows(forward, alpha.shape[1], alpha.shape[0], rows)
        if first >= past:
            continue
        back = np.ascontiguousarray(np.linalg.inv(forward)[:2])
        edges = np.linspace(first, past, bands + 1).astype(int)
        for a, b in zip(edges, edges[1:], strict=False):
            if kind == "y":
                jobs.append((_over_one, (planes.y, sprite.y, alpha, back, np.float32(opacity), a, b)))
            else:
                colour = (planes.u, planes.v, sprite.u, sprite.v, alpha)
                jobs.append((_over_two, (*colour, back, np.float32(opacity), a, b)))
    if pool is None:
        for function, arguments in jobs:
            function(*arguments)
    else:
        for future in [pool.submit(function, *arguments) for function, arguments in jobs]:
            future.result()
