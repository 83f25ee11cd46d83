"""Frames of shots at any size, from the proxy where that is enough and from the original where not."""

import threading
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np

from ..errors import Refusal
from ..model import Shot
from .planes import Planes, colour_planes, from_rgb
from .proxy import Proxy, proxy_size
from .reader import Reader


def fit_matrix(size: tuple[int, int], canvas: tuple[int, int], fit: str) -> np.ndarray:
    """Source pixels to canvas pixels: 3×3, scaled alike in x and y and centred; fit is "cover" or "contain"."""
    scales = canvas[0] / size[0], canvas[1] / size[1]
    scale = max(scales) if fit == "cover" else min(scales)
    return np.array(
        [
            [scale, 0, (canvas[0] - size[0] * scale) / 2],
            [0, scale, (canvas[1] - size[1] * scale) / 2],
            [0, 0, 1],
        ]
    )


def place(plane: np.ndarray, matrix: np.ndarray, size: tuple[int, int], empty: int | None) -> np.ndarray:
    """One plane under a scaling matrix, in an output of the given size (w, h).

    `empty` fills what the plane leaves free; None says that it covers all, and its edge is carried on.

    Shrinking takes the mean over the covered area, so that nothing flickers; enlarging is bilinear.
    """
    scale, dx, dy = matrix[0, 0], matrix[0, 2], matrix[1, 2]
    h, w = plane.shape[:2]
    if scale == 1 and dx == 0 and dy == 0 and (w, h) == size:
        return plane
    if scale < 1:
        # First to the nearest whole size by area, then the small rest bilinearly.
        smaller = max(1, round(w * scale)), max(1, round(h * scale))
        plane = cv2.resize(plane, smaller, interpolation=cv2.INTER_AREA)
        rest = np.array([[w * scale / smaller[0], 0, dx], [0, h * scale / smaller[1], dy]])
    else:
        rest = np.array([[scale, 0, dx], [0, scale, dy]])
    whole = np.allclose(rest[:, :2], np.eye(2)) and np.allclose(rest[:, 2], np.round(rest[:, 2]), atol=1e-6)
    if whole and (plane.shape[1], plane.shape[0]) == size and not rest[:, 2].any():
        return plane
    # OpenCV counts from pixel centres, this program from corners.
    rest[:, 2] += 0.5 * (np.diag(rest[:, :2]) - 1)
    way = cv2.INTER_NEAREST if whole else cv2.INTER_LINEAR
    if empty is None:
        return cv2.warpAffine(plane, rest, size, flags=way, borderMode=cv2.BORDER_REPLICATE)
    return cv2.warpAffine(plane, rest, size, flags=way, borderMode=cv2.BORDER_CONSTANT, borderValue=empty)


def fitted(planes: Planes, size: tuple[int, int], fit: str, background: str = "#000000") -> Planes:
    """A picture fitted to a canvas of even size (w, h); what it leaves free shows the background."""
    if planes.size == size:
        return planes
    matrix = fit_matrix(planes.size, size, fit)
    half = matrix.copy()
    half[:2, 2] /= 2
    chroma = size[0] // 2, size[1] // 2
    y, u, v = (None, None, None) if fit == "cover" else colour_planes(background)
    return Planes(place(planes.y, matrix, size, y), place(planes.u, half, chroma, u), place(planes.v, half, chroma, v))


class Library:
    """Hands out frames of shots. `path_of` tells where a stored file lies. Safe for several threads."""

    def __init__(self, path_of: Callable[[str], Path], keep: int = 24) -> None:
        self._path_of = path_of
        self._proxies: dict[str, Proxy] = {}
        self._readers: OrderedDict[str, tuple[Reader, threading.Lock]] = OrderedDict()
        self._held: OrderedDict[tuple[str, int], Planes] = OrderedDict()
        self._pictures: OrderedDict[str, np.ndarray] = OrderedDict()
        self._keep = keep
        self._lock = threading.Lock()

    def proxy(self, shot: Shot) -> Proxy:
        """The shot's proxy."""
        with self._lock:
            if shot.id not in self._proxies:
                self._proxies[shot.id] = Proxy(self._path_of(shot.proxy_file))
            return self._proxies[shot.id]

    def exact(self, shot: Shot, frame: int) -> Planes:
        """A source frame at its own size, from the original file; recent ones are remembered."""
        key = shot.id, frame
        with self._lock:
            if key in self._held:
                self._held.move_to_end(key)
                return self._held[key]
            if shot.id not in self._readers:
                self._readers[shot.id] = Reader(self._path_of(shot.file), shot), threading.Lock()
                while len(self._readers) > 8:
                    self._readers.popitem(last=False)
            reader, busy = self._readers[shot.id]
        with busy:
            planes = reader.planes(frame)
        with self._lock:
            self._held[key] = planes
            while len(self._held) > self._keep:
                self._held.popitem(last=False)
        return planes

    def at_size(self, shot: Shot, frame: int, size: tuple[int, int], fit: str, background: str, draft: bool) -> Planes:
        """A source frame fitted to a canvas of the given size.

        A draft comes from the proxy where that is sharp enough; what is not a draft is always the original.
        """
        scale = fit_matrix((shot.width, shot.height), size, fit)[0, 0]
        if draft and scale <= proxy_scale(shot) * 1.001:
            return fitted(self.proxy(shot).planes(frame), size, fit, background)
        return fitted(self.exact(shot, frame), size, fit, background)

    def alpha(self, file: str) -> np.ndarray:
        """A stored alpha: uint8 (h, w). Raises Refusal if its file is gone."""
        return self._stored(file, cv2.IMREAD_GRAYSCALE)

    def plate(self, file: str) -> np.ndarray:
        """A stored plate: uint8 RGB (h, w, 3). Raises Refusal if its file is gone."""
        return self._stored(file, cv2.IMREAD_COLOR)

    def _stored(self, file: str, kind: int) -> np.ndarray:
        with self._lock:
            if file in self._pictures:
                self._pictures.move_to_end(file)
                return self._pictures[file]
        path = self._path_of(file)
        picture = cv2.imdecode(np.fromfile(path, np.uint8), kind) if path.is_file() else None
        if picture is None:
            raise Refusal("A stored matte or plate is missing from the data folder. Undo, or draw it again.")
        if picture.ndim == 3:
            picture = np.ascontiguousarray(picture[..., ::-1])
        with self._lock:
            self._pictures[file] = picture
            while len(self._pictures) > 2 * self._keep:
                self._pictures.popitem(last=False)
        return picture

    def plate_at_size(self, file: str, size: tuple[int, int], fit: str, background: str) -> Planes:
        """A stored plate fitted to a canvas of the given even size (w, h)."""
        rgb = self.plate(file)
        even = rgb[: rgb.shape[0] // 2 * 2, : rgb.shape[1] // 2 * 2]
        return fitted(from_rgb(even.astype(np.float32) / 255), size, fit, background)

    def close(self) -> None:
        """Closes the open files."""
        with self._lock:
            for reader, _busy in self._readers.values():
                reader.close()
            self._readers.clear()
            self._proxies.clear()


def proxy_scale(shot: Shot) -> float:
    """How much smaller the shot's proxy is than the shot, at most 1."""
    return min(1.0, proxy_size(shot.width, shot.height)[0] / shot.width)
