"""Frames of a file that belongs to no project: a video, or a single picture."""

from collections.abc import Iterator, Sequence
from pathlib import Path

import av
import cv2
import numpy as np

from ...common.errors import Refusal
from .conversion import to_planes
from .opening import MAX_SIDE, MAX_STILL, open_media, pictures_of
from .planes import to_bgr
from .reader import decoded, quarters_of

PICTURES = {".png", ".jpg", ".jpeg", ".webp", ".bmp", ".tif", ".tiff"}


def unpacked(data: bytes, kind: int, name: str) -> np.ndarray | None:
    """A picture file's pixels as OpenCV reads them (`kind` is one of its IMREAD flags), or None if it is no picture.

    Raises Refusal if it is larger than is read; that is known before anything is unpacked, see `core/__init__.py`.
    """
    if not data:
        return None
    try:
        picture = cv2.imdecode(np.frombuffer(data, np.uint8), kind)
    except cv2.error as error:
        if "CV_IO_MAX_IMAGE" in str(error):
            most = f"{MAX_SIDE} pixels a side and {MAX_STILL // 1_000_000} million in all"
            raise Refusal(f"{name} is too large: the most is {most}. Save it smaller first.") from error
        return None
    if picture is not None and picture.dtype not in (np.uint8, np.uint16):
        raise Refusal(f"{name} has {picture.dtype} pixels. Save it with 8 or 16 bits a channel.")
    return picture


def read_picture(path: Path) -> np.ndarray:
    """A picture file, upright, as uint8 RGB (h, w, 3). Raises Refusal."""
    picture = unpacked(path.read_bytes() if path.is_file() else b"", cv2.IMREAD_COLOR, path.name)
    if picture is None:
        raise Refusal(f"{path.name} cannot be read as a picture.")
    return np.ascontiguousarray(picture[..., ::-1])


def read_matte(path: Path) -> np.ndarray:
    """A grey picture, 8 or 16 bit, as float32 (h, w), 0…1. Raises Refusal."""
    matte = unpacked(path.read_bytes() if path.is_file() else b"", cv2.IMREAD_UNCHANGED, path.name)
    if matte is None:
        raise Refusal(f"{path.name} cannot be read as a matte. Give a grey PNG.")
    return as_alpha(matte)


def as_alpha(matte: np.ndarray) -> np.ndarray:
    """A decoded picture, uint8 or uint16, (h, w) or (h, w, 3 or 4), as alpha: its alpha channel, else how light it is.

    Returns float32 (h, w), 0…1.
    """
    if matte.ndim == 3:
        matte = matte[..., 3] if matte.shape[2] == 4 else cv2.cvtColor(matte, cv2.COLOR_BGR2GRAY)
    return matte.astype(np.float32) / (65535 if matte.dtype == np.uint16 else 255)


def rgb(frame: av.VideoFrame) -> np.ndarray:
    """A decoded frame, upright, as uint8 RGB (h, w, 3) of BT.709."""
    return np.ascontiguousarray(to_bgr(to_planes(frame).turned(quarters_of(frame)))[..., ::-1])


def frames(path: Path) -> Iterator[av.VideoFrame]:
    """The frames of a video as they are decoded, in order. Raises Refusal if it is none."""
    try:
        file = open_media(path)
    except (av.FFmpegError, OSError) as error:
        raise Refusal(f"{path.name} cannot be read as video.") from error
    with file:
        stream = pictures_of(file, path.name)
        for frame in decoded(file, stream):
            if frame is None:
                return
            if frame.pts is not None:
                yield frame


def around(
    path: Path, at: int, size: tuple[int, int] | None, reach: int = 90
) -> tuple[np.ndarray, list[np.ndarray], int]:
    """Frame `at` in full, and the frames around it small.

    size: width and height of the small ones, None to let them out; reach: how many on each side at most. Returns
    the frame (uint8 RGB), the small frames in order, and which of them is frame `at`. Raises Refusal.
    """
    if path.suffix.lower() in PICTURES:
        return read_picture(path), [], 0
    if at < 0:
        raise Refusal("Frames are counted from 0; give a number from there on.")
    full = None
    small: list[np.ndarray] = []
    first = max(0, at - reach)
    number = -1
    for number, frame in enumerate(frames(path)):
        if number > at + reach or (size is None and number > at):
            break
        if number == at:
            full = rgb(frame)
        if size is not None and number >= first:
            small.append(shrunk(frame, size))
    if full is None:
        raise Refusal(f"{path.name} has no frame {at}; its last one is {number}.")
    return full, small, at - first


class InOrder(Sequence[np.ndarray]):
    """Frames of a video, first…past (half-open), uint8 RGB (h, w, 3), decoded as they are asked for in rising order.

    Going back decodes from the beginning again. Raises Refusal where the video has no such frame.
    """

    def __init__(self, path: Path, first: int, past: int) -> None:
        self._path, self._first, self._past = path, first, past
        self._at = -1
        self._frames: Iterator[av.VideoFrame] = iter(())
        self._last: np.ndarray | None = None

    def __len__(self) -> int:
        return self._past - self._first

    def __getitem__(self, index):
        if isinstance(index, slice):
            return [self[k] for k in range(len(self))[index]]
        wanted = self._first + range(len(self))[index]
        if wanted < self._at or self._at < 0:
            self._frames, self._at, self._last = frames(self._path), -1, None
        while self._at < wanted or self._last is None:
            frame = next(self._frames, None)
            if frame is None:
                raise Refusal(f"{self._path.name} has no frame {wanted}; its last one is {self._at}.")
            self._at += 1
            if self._at == wanted:
                self._last = rgb(frame)
        return self._last


def shrunk(frame: av.VideoFrame, size: tuple[int, int]) -> np.ndarray:
    """A decoded frame, upright, at a smaller size (w, h), as uint8 RGB (h, w, 3)."""
    quarters = quarters_of(frame)
    lying = size if quarters % 2 == 0 else size[::-1]
    if frame.width * frame.height > 3 * lying[0] * lying[1] and int(frame.color_trc) not in (16, 18):
        # swscale is quick; what it does to colours is the same for all frames, which is all that is compared.
        picture = frame.reformat(width=lying[0], height=lying[1], format="rgb24", interpolation="AREA").to_ndarray()
        return np.ascontiguousarray(np.rot90(picture, quarters))
    return cv2.resize(rgb(frame), size, interpolation=cv2.INTER_AREA)


def size_of(path: Path) -> tuple[int, int]:
    """Width and height of the upright picture. Raises Refusal."""
    if path.suffix.lower() in PICTURES:
        h, w = read_picture(path).shape[:2]
        return w, h
    for frame in frames(path):
        turned = quarters_of(frame) % 2
        return (frame.height, frame.width) if turned else (frame.width, frame.height)
    raise Refusal(f"{path.name} holds no pictures.")
