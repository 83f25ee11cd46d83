"""Frames as pictures: one as PNG, or each in a zip archive, as PNG or as 16-bit TIFF, with alpha where there is any."""

import zipfile
from pathlib import Path
from typing import Annotated, Any, ClassVar, Literal

import cv2
import numpy as np
from pydantic import Field

from ....piece.timeline.clock import timecode
from ..frame import Frame
from ..writer import StreamFormat, Writer, Writing

Depth = Literal["8", "16"]
WORDS = {"8": {"title": "8 bits", "hint": "Smaller"}, "16": {"title": "16 bits", "hint": "Alpha and colours in full"}}
KINDS = {"png": {"title": "PNG", "hint": ""}, "tiff": {"title": "TIFF", "hint": "For compositing"}}


def packed(frame: Frame, picture: StreamFormat, suffix: str, depth: Depth) -> bytes:
    """A frame as a file. Alpha is straight; what is opaque has none."""
    straight = frame.straight(np.uint16 if depth == "16" else np.uint8)
    order = [2, 1, 0, 3] if picture.clear else [2, 1, 0]
    settings = [cv2.IMWRITE_PNG_COMPRESSION, 3] if suffix == ".png" else []
    done, data = cv2.imencode(suffix, np.ascontiguousarray(straight[..., order]), settings)
    if not done:
        raise OSError("The picture could not be packed.")
    return data.tobytes()


class Png(Writer):
    """The first frame of what is sent."""

    kind: Literal["png"] = "png"
    title: ClassVar[str] = "PNG still"
    rank: ClassVar[int] = 50
    hint: ClassVar[str] = "One frame, with alpha for layers"
    suffix: ClassVar[str] = ".png"
    media_type: ClassVar[str] = "image/png"
    clear: ClassVar[bool] = True
    single: ClassVar[bool] = True

    depth: Annotated[Depth, Field(title="Depth", json_schema_extra={"words": WORDS})] = "8"  # type: ignore[dict-item]

    def prepared(self, frame: Frame, picture: StreamFormat) -> Any:
        return packed(frame, picture, ".png", self.depth)

    def start(self, path: Path, picture: StreamFormat) -> Writing:
        return _One(path)


class Sequence(Writer):
    """Numbered frames in a zip archive, named by their timecode as well."""

    kind: Literal["sequence"] = "sequence"
    title: ClassVar[str] = "Sequence"
    rank: ClassVar[int] = 60
    hint: ClassVar[str] = "Each frame as a picture, in a zip archive"
    suffix: ClassVar[str] = ".zip"
    media_type: ClassVar[str] = "application/zip"
    clear: ClassVar[bool] = True

    pictures: Annotated[Literal["png", "tiff"], Field(title="Pictures", json_schema_extra={"words": KINDS})] = "png"  # type: ignore[dict-item]
    depth: Annotated[Depth, Field(title="Depth", json_schema_extra={"words": WORDS})] = "8"  # type: ignore[dict-item]

    def prepared(self, frame: Frame, picture: StreamFormat) -> Any:
        return packed(frame, picture, f".{self.pictures}", self.depth)

    def start(self, path: Path, picture: StreamFormat) -> Writing:
        return _Many(path, picture, self.pictures)


class _One(Writing):
    def __init__(self, path: Path) -> None:
        self._file = path.open("wb")

    def frame(self, prepared: bytes) -> None:
        self._file.write(prepared)

    def close(self) -> None:
        self._file.close()

    def abandon(self) -> None:
        self._file.close()


class _Many(Writing):
    def __init__(self, path: Path, picture: StreamFormat, suffix: str) -> None:
        self._file = zipfile.ZipFile(path, "w", zipfile.ZIP_STORED, allowZip64=True)
        self._picture, self._suffix, self._number = picture, suffix, 0

    def frame(self, prepared: bytes) -> None:
        picture = self._picture
        number = int(picture.first * picture.rate / picture.project_rate) + self._number
        at = timecode(number, picture.rate).replace(":", "-")
        # A fixed date: the same frames make the same file.
        name = zipfile.ZipInfo(f"{self._number:06d} {at}.{self._suffix}", (2026, 1, 1, 0, 0, 0))
        self._file.writestr(name, prepared)
        self._number += 1

    def close(self) -> None:
        self._file.close()

    def abandon(self) -> None:
        self._file.close()
