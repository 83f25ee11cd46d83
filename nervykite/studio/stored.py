"""A check that the stored pictures that a document refers to are there, and are what they are taken for."""

import struct
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from ..core.change.edits.base import sources_of
from ..core.common.errors import Refusal
from ..core.piece.model import Document, Hold

GREY, RGB, RGBA = 0, 2, 6
"""Colour types of a PNG (ISO/IEC 15948, 11.2.1)."""


What = Literal["matte", "plate", "picture"]
COLOURS: dict[What, int] = {"matte": GREY, "plate": RGB, "picture": RGBA}


@dataclass(frozen=True)
class StoredReference:
    """A stored picture that a document refers to: its hash, what it is, what part of it is taken."""

    file: str
    what: What
    box: tuple[int, int, int, int] | None = None


def _of_hold(hold: Hold) -> Iterator[StoredReference]:
    pieces = [p for stop in (hold.travel.stops if hold.travel else ()) for p in stop.pieces]
    for piece in [*hold.matte.pieces, *pieces]:
        for raster in (getattr(piece, name, None) for name in ("raster", "base", "doubt")):
            if raster is not None:
                yield StoredReference(raster.file, "matte", raster.box)
    if hold.plate is not None:
        yield StoredReference(hold.plate, "plate")


def wanted(before: Document | None, after: Document) -> set[StoredReference]:
    """The stored pictures that a document refers to where it is not the very same as the one before, if any."""
    found: set[StoredReference] = set()
    for id_, hold in after.holds.items():
        if before is None or before.holds.get(id_) is not hold:
            found.update(_of_hold(hold))
    known = {id(source) for source in sources_of(before)} if before else set()
    for source in sources_of(after):
        if id(source) not in known:
            found.update(StoredReference(file, "plate") for file in source.stored)
            found.update(StoredReference(file, "picture") for file in source.drawn)
    return found


def header_of(path: Path) -> tuple[int, int, int, int]:
    """Width, height, bits a channel and colour type of a PNG. Raises ValueError if it is none."""
    with path.open("rb") as file:
        head = file.read(33)
    if len(head) < 33 or head[:8] != b"\x89PNG\r\n\x1a\n" or head[12:16] != b"IHDR":
        raise ValueError("not a PNG")
    width, height, depth, colour = struct.unpack(">IIBB", head[16:26])
    return width, height, depth, colour


def check(path: Path, wanted: StoredReference) -> None:
    """Raises Refusal, with a sentence, if a stored picture is gone or is not what it is taken for."""
    what = wanted.what
    try:
        width, height, depth, colour = header_of(path)
    except OSError as error:
        raise Refusal(f"That {what} is no longer in the data folder. Make it again.") from error
    except ValueError as error:
        raise Refusal(f"The file given as a {what} is not a picture. Give one that was found or read in.") from error
    if depth != 8 or colour != COLOURS[what]:
        raise Refusal(f"The picture given as a {what} is of another kind. Give one that was found or read in.")
    if wanted.box is not None:
        left, top, right, bottom = wanted.box
        if not (0 <= left < right <= width and 0 <= top < bottom <= height):
            raise Refusal(f"A part of a {what} was given that lies outside its {width} × {height} pixels.")


def is_picture(path: Path) -> bool:
    """True if a file is a picture as they are kept: a PNG with 8 bits a channel."""
    try:
        return header_of(path)[2] == 8
    except (OSError, ValueError):
        return False


def is_sound(path: Path) -> bool:
    """True if a file is a sound as they are kept: a WAV."""
    try:
        with path.open("rb") as file:
            head = file.read(12)
    except OSError:
        return False
    return head[:4] == b"RIFF" and head[8:] == b"WAVE"
