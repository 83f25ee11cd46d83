"""A picture as the codecs hold it: Y'CbCr 4:2:0, BT.709, limited range, eight bits.

Everything is composited in these planes, so that what no layer touches leaves an export as it came in.
Chroma is taken as centred between its four pixels.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numba import njit

from ...common.colour import rgb_of


@dataclass(frozen=True)
class Planes:
    """y is uint8 (H, W), 16…235; u and v are uint8 (ceil(H/2), ceil(W/2)), 16…240, neutral at 128."""

    y: np.ndarray
    u: np.ndarray
    v: np.ndarray

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels."""
        return self.y.shape[1], self.y.shape[0]

    def copy(self) -> "Planes":
        """The same picture in arrays of its own."""
        return Planes(self.y.copy(), self.u.copy(), self.v.copy())

    def turned(self, quarters: int) -> "Planes":
        """The picture turned anticlockwise by quarters of a full turn."""
        if quarters % 4 == 0:
            return self
        return Planes(*(np.ascontiguousarray(np.rot90(p, quarters)) for p in (self.y, self.u, self.v)))


@njit(cache=True, nogil=True)
def _from_rgb(rgb, y, u, v):
    h, w = y.shape
    for r in range(h):
        for c in range(w):
            red = rgb[r, c, 0]
            green = rgb[r, c, 1]
            blue = rgb[r, c, 2]
            y[r, c] = np.uint8(16.5 + 219 * (0.2126 * red + 0.7152 * green + 0.0722 * blue))
    for r in range(u.shape[0]):
        for c in range(u.shape[1]):
            red = np.float32(0)
            green = np.float32(0)
            blue = np.float32(0)
            n = 0
            for i in range(2 * r, min(2 * r + 2, h)):
                for j in range(2 * c, min(2 * c + 2, w)):
                    red += rgb[i, j, 0]
                    green += rgb[i, j, 1]
                    blue += rgb[i, j, 2]
                    n += 1
            luma = (0.2126 * red + 0.7152 * green + 0.0722 * blue) / n
            u[r, c] = np.uint8(128.5 + 224 * (blue / n - luma) / 1.8556)
            v[r, c] = np.uint8(128.5 + 224 * (red / n - luma) / 1.5748)


def from_rgb(rgb: np.ndarray) -> Planes:
    """Planes of an R'G'B' picture: float32 (H, W, 3), 0…1, with BT.709's matrix (ITU-R BT.709-6, item 3)."""
    h, w = rgb.shape[:2]
    half = ((h + 1) // 2, (w + 1) // 2)
    planes = Planes(np.empty((h, w), np.uint8), np.empty(half, np.uint8), np.empty(half, np.uint8))
    _from_rgb(np.ascontiguousarray(rgb, np.float32), planes.y, planes.u, planes.v)
    return planes


def colour_planes(colour: str) -> tuple[int, int, int]:
    """Y, U, V of an sRGB colour "#rrggbb"."""
    rgb = np.array([[rgb_of(colour)]], np.float32)
    planes = from_rgb(np.repeat(np.repeat(rgb, 2, 0), 2, 1))
    return int(planes.y[0, 0]), int(planes.u[0, 0]), int(planes.v[0, 0])


@njit(cache=True, nogil=True)
def _to_bgr(y, u, v, out):
    h, w = y.shape
    for r in range(h):
        for c in range(w):
            luma = (np.int32(y[r, c]) - 16) * 76309
            cb = np.int32(u[r, c]) - 128
            cr = np.int32(v[r, c]) - 128
            b = (luma + 138438 * cb + 32768) >> 16
            g = (luma - 13975 * cb - 34925 * cr + 32768) >> 16
            red = (luma + 117489 * cr + 32768) >> 16
            out[r, c, 0] = min(max(b, 0), 255)
            out[r, c, 1] = min(max(g, 0), 255)
            out[r, c, 2] = min(max(red, 0), 255)


def to_bgr(planes: Planes) -> np.ndarray:
    """The picture as uint8 (H, W, 3) in OpenCV's order of blue, green, red."""
    w, h = planes.size
    u, v = (_full(p, w, h) for p in (planes.u, planes.v))
    out = np.empty((h, w, 3), np.uint8)
    _to_bgr(planes.y, u, v, out)
    return out


def _full(chroma: np.ndarray, width: int, height: int) -> np.ndarray:
    grown = cv2.resize(chroma, (chroma.shape[1] * 2, chroma.shape[0] * 2), interpolation=cv2.INTER_LINEAR)
    return grown[:height, :width]


def jpeg(planes: Planes, quality: int = 88) -> bytes:
    """The picture as a JPEG file (JFIF: BT.601 matrix, full range)."""
    done, data = cv2.imencode(".jpg", to_bgr(planes), [cv2.IMWRITE_JPEG_QUALITY, quality])
    if not done:
        raise ValueError("the picture could not be packed as JPEG")
    return data.tobytes()
