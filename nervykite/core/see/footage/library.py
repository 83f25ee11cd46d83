"""Frames of shots at any size, from the proxy where that is enough and from the original where not."""

import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

import cv2
import numpy as np

from ...common.errors import Refusal
from ...common.kept import Kept
from ...piece.model.framing import Framing
from ...piece.model.shot import Shot
from .cube_lut import CubeLut, read_table
from .framing_matrix import fit_matrix, scale_of
from .place import place
from .planes import Planes, colour_planes, from_rgb
from .proxy import Proxy, proxy_size
from .reader import Reader

MOST = 8
"""So many films are open at a time."""


def fitted(planes: Planes, size: tuple[int, int], framing: Framing, background: str = "#000000") -> Planes:
    """A picture framed on a canvas of even size (w, h); what it leaves free shows the background."""
    matrix = fit_matrix(planes.size, size, framing)
    if planes.size == size and np.array_equal(matrix, np.eye(3)):
        return planes
    return _placed(planes, matrix, (0, 0, *size), None if framing.mode == "fill" else background)


def beyond(planes: Planes, matrix: np.ndarray, canvas: Planes, box: tuple[int, int, int, int]) -> Planes:
    """A box (even, left, top, right, bottom) of the grid in which a canvas has its corner at 0, 0.

    Where there is canvas, it is that, to the bit; beside it the picture goes on as the matrix places it.
    """
    out = _placed(planes, matrix, box, None)
    w, h = canvas.size
    for mine, theirs, by in ((out.y, canvas.y, 1), (out.u, canvas.u, 2), (out.v, canvas.v, 2)):
        left, top, right, bottom = (side // by for side in box)
        x0, y0, x1, y1 = max(0, left), max(0, top), min(w // by, right), min(h // by, bottom)
        if x0 < x1 and y0 < y1:
            mine[y0 - top : y1 - top, x0 - left : x1 - left] = theirs[y0:y1, x0:x1]
    return out


def _placed(planes: Planes, matrix: np.ndarray, box: tuple[int, int, int, int], background: str | None) -> Planes:
    half = matrix.copy()
    half[:2, 2] /= 2
    small = box[0] // 2, box[1] // 2, box[2] // 2, box[3] // 2
    y, u, v = (None, None, None) if background is None else colour_planes(background)
    return Planes(place(planes.y, matrix, box, y), place(planes.u, half, small, u), place(planes.v, half, small, v))


@dataclass
class _Opened:
    """A reader, whose turn it is with it, and how many wait for theirs."""

    reader: Reader
    busy: threading.Lock = field(default_factory=threading.Lock)
    users: int = 0


class Library:
    """Hands out frames of shots. `path_of` tells where a stored file lies. Safe for several threads."""

    def __init__(self, path_of: Callable[[str], Path], keep: int = 24) -> None:
        self._path_of = path_of
        self._proxies: Kept[Proxy] = Kept(3 * MOST)
        self._readers: OrderedDict[str, _Opened] = OrderedDict()
        self._held: Kept[Planes] = Kept(keep)
        self._pictures: Kept[np.ndarray] = Kept(2 * keep)
        self._tables: Kept[CubeLut] = Kept(8)
        self._lock = threading.Lock()

    def proxy(self, shot: Shot) -> Proxy:
        """The shot's proxy."""
        return self._proxies.get(shot.id, lambda: Proxy(self._there(shot, shot.proxy_file)))

    def _there(self, shot: Shot, file: str) -> Path:
        path = self._path_of(file)
        if not path.is_file():
            raise Refusal(
                f"The footage of {shot.name} is no longer in the data folder. Import it again, or bring the folder"
                " back from a backup."
            )
        return path

    def exact(self, shot: Shot, frame: int) -> Planes:
        """A source frame at its own size, from the original file; recent ones are remembered."""
        return self._held.get((shot.id, frame), lambda: self._read(shot, frame))

    def _read(self, shot: Shot, frame: int) -> Planes:
        with self._lock:
            if shot.id not in self._readers:
                self._readers[shot.id] = _Opened(Reader(self._there(shot, shot.file), shot))
            self._readers.move_to_end(shot.id)
            opened = self._readers[shot.id]
            opened.users += 1
            self._close_some()
        try:
            with opened.busy:
                return opened.reader.planes(frame)
        finally:
            with self._lock:
                opened.users -= 1

    def _close_some(self) -> None:
        """Closes those that were not asked for longest: decoders that nobody closes are never given back."""
        for id_ in [i for i, opened in self._readers.items() if not opened.users][: max(0, len(self._readers) - MOST)]:
            self._readers.pop(id_).reader.close()

    def at_size(
        self, shot: Shot, frame: int, size: tuple[int, int], framing: Framing, background: str, draft: bool
    ) -> Planes:
        """A source frame framed on a canvas of the given size.

        A draft comes from the proxy where that is sharp enough; what is not a draft is always the original.
        """
        return fitted(self.sharp_enough(shot, frame, size, framing, draft), size, framing, background)

    def sharp_enough(self, shot: Shot, frame: int, size: tuple[int, int], framing: Framing, draft: bool) -> Planes:
        """A source frame, unplaced, for a canvas of the given size: the proxy's for a draft if that will do."""
        scale = scale_of(fit_matrix((shot.width, shot.height), size, framing))
        if draft and scale <= proxy_scale(shot) * 1.001:
            return self.proxy(shot).planes(frame)
        return self.exact(shot, frame)

    def alpha(self, file: str) -> np.ndarray:
        """A stored alpha: uint8 (h, w). Raises Refusal if its file is gone."""
        return self._stored(file, cv2.IMREAD_GRAYSCALE)

    def drawing(self, file: str) -> np.ndarray:
        """A stored picture with alpha: uint8 R'G'B'A, straight (h, w, 4). Raises Refusal if its file is gone."""
        return self._stored(file, cv2.IMREAD_UNCHANGED)

    def table(self, file: str) -> CubeLut:
        """A stored table of colours. Raises Refusal if its file is gone."""

        def make() -> CubeLut:
            path = self._path_of(file)
            if not path.is_file():
                raise Refusal("A stored table of colours is missing from the data folder. Import it again.")
            return read_table(path, "That table")

        return self._tables.get(file, make)

    def plate(self, file: str) -> np.ndarray:
        """A stored plate: uint8 RGB (h, w, 3). Raises Refusal if its file is gone."""
        return self._stored(file, cv2.IMREAD_COLOR)

    def _stored(self, file: str, kind: int) -> np.ndarray:
        return self._pictures.get((file, kind), lambda: self._unpacked(file, kind))

    def _unpacked(self, file: str, kind: int) -> np.ndarray:
        path = self._path_of(file)
        picture = cv2.imdecode(np.fromfile(path, np.uint8), kind) if path.is_file() else None
        if picture is None:
            raise Refusal("A stored picture is missing from the data folder. Undo, or make it again.")
        if picture.ndim == 2:
            return picture
        order = [2, 1, 0, 3][: picture.shape[2]]
        return np.ascontiguousarray(picture[..., order])

    def plate_planes(self, file: str) -> Planes:
        """A stored plate as planes, at its own size."""
        rgb = self.plate(file)
        even = rgb[: rgb.shape[0] // 2 * 2, : rgb.shape[1] // 2 * 2]
        return from_rgb(even.astype(np.float32) / 255)

    def plate_at_size(self, file: str, size: tuple[int, int], framing: Framing, background: str) -> Planes:
        """A stored plate framed on a canvas of the given even size (w, h)."""
        return fitted(self.plate_planes(file), size, framing, background)

    def close(self) -> None:
        """Closes the open files."""
        with self._lock:
            for opened in self._readers.values():
                opened.reader.close()
            self._readers.clear()
            self._proxies.clear()


def proxy_scale(shot: Shot) -> float:
    """The factor by which the shot's proxy is smaller than the shot, at most 1."""
    return min(1.0, proxy_size(shot.width, shot.height)[0] / shot.width)
