"""Whether the stored pictures that a document refers to are there, and are what they are taken for."""

import struct
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from ..core.errors import Refusal
from ..core.model import Document, Hold

GREY, RGB = 0, 2
"""Colour types of a PNG (ISO/IEC 15948, 11.2.1)."""


@dataclass(frozen=True)
class Wanted:
    """A stored picture that a document refers to: its hash, whether it is alpha or else a plate, what part is taken."""

    file: str
    alpha: bool
    box: tuple[int, int, int, int] | None = None


def _of_hold(hold: Hold) -> Iterator[Wanted]:
    pieces = [p for stop in (hold.travel.stops if hold.travel else ()) for p in stop.pieces]
    for piece in [*hold.matte.pieces, *pieces]:
        for raster in (getattr(piece, name, None) for name in ("raster", "base", "doubt")):
            if raster is not None:
                yield Wanted(raster.file, True, raster.box)
    if hold.plate is not None:
        yield Wanted(hold.plate, False)


def wanted(before: Document, after: Document) -> set[Wanted]:
    """The stored pictures that a document refers to where it is not the very same as the one before."""
    found: set[Wanted] = set()
    for id_, hold in after.holds.items():
        if before.holds.get(id_) is not hold:
            found.update(_of_hold(hold))
    known = {id(item) for item in before.project.ground}
    for item in after.project.ground:
        if id(item) not in known:
            found.update(Wanted(file, False) for file in item.source.stored)
    return found


def header_of(path: Path) -> tuple[int, int, int, int]:
    """Width, height, bits a channel and colour type of a PNG. Raises ValueError if it is none."""
    with path.open("rb") as file:
        head = file.read(33)
    if len(head) < 33 or head[:8] != b"\x89PNG\r\n\x1a\n" or head[12:16] != b"IHDR":
        raise ValueError("not a PNG")
    width, height, depth, colour = struct.unpack(">IIBB", head[16:26])
    return width, height, depth, colour


def check(path: Path, wanted: Wanted) -> None:
    """Raises Refusal, with a sentence, if a stored picture is gone or is not what it is taken for."""
    what = "matte" if wanted.alpha else "plate"
    try:
        width, height, depth, colour = header_of(path)
    except OSError as error:
        raise Refusal(f"That {what} is no longer in the data folder. Make it again.") from error
    except ValueError as error:
        raise Refusal(f"The file given as a {what} is not a picture. Give one that was found or read in.") from error
    if depth != 8 or colour != (GREY if wanted.alpha else RGB):
        raise Refusal(f"The picture given as a {what} is of another kind. Give one that was found or read in.")
    if wanted.box is not None:
        left, top, right, bottom = wanted.box
        if not (0 <= left < right <= width and 0 <= top < bottom <= height):
            raise Refusal(f"A part of a {what} was given that lies outside its {width} × {height} pixels.")
