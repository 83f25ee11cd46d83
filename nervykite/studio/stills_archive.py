"""Stills of a project in the sizes of their footage: all moments, or all cutouts, in a zip archive."""

import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Literal

import cv2
import numpy as np

from ..core.common.errors import Refusal
from ..core.draw.send.atomic_files import whole
from ..core.piece.model import Document, Hold
from ..core.piece.timeline.clock import timecode
from ..core.see.footage.planes import to_bgr
from ..core.see.matte.fringe import own_colours
from .studio import Studio

Which = Literal["moments", "cutouts"]
Still = tuple[str, Callable[[], np.ndarray]]
"""A name without its ending, and what makes the picture, B'G'R'(A), uint8."""


def write_stills(
    studio: Studio, document: Document, which: Which, out: Path, progress: Callable[[float], None] = lambda share: None
) -> int:
    """Writes all flagged frames of a project's footage, or all that was cut out with its alpha; how many those are.

    Each is named after its shot, its timecode there and its own name. Whatever happens, `out` is as it was before or
    complete. Raises Refusal if there are none.
    """
    stills = list(_moments(studio, document) if which == "moments" else _cutouts(studio, document))
    if not stills:
        what = "No frame is flagged yet. Flag some at Catch." if which == "moments" else "Nothing is cut out yet."
        raise Refusal(what)
    with whole(out) as part, zipfile.ZipFile(part, "w", zipfile.ZIP_STORED) as archive:
        for n, (name, make) in enumerate(stills):
            data = cv2.imencode(".png", make(), [cv2.IMWRITE_PNG_COMPRESSION, 3])[1].tobytes()
            archive.writestr(zipfile.ZipInfo(f"{name}.png", (2026, 1, 1, 0, 0, 0)), data)
            progress((n + 1) / len(stills))
    return len(stills)


def _moments(studio: Studio, document: Document) -> Iterator[Still]:
    for shot in document.shots.values():
        for moment in sorted(shot.moments, key=lambda m: m.frame):
            frame, taken = moment.frame, shot
            at = timecode(frame, shot.rate).replace(":", "-")
            name = _plain(f"{shot.name} {at} {moment.name or ''}")
            yield name, lambda taken=taken, frame=frame: to_bgr(studio.library.exact(taken, frame))  # type: ignore[misc]


def _cutouts(studio: Studio, document: Document) -> Iterator[Still]:
    named: set[str] = set()
    for hold in sorted(document.holds.values(), key=lambda h: (document.shots[h.shot].name, h.frame)):
        if not hold.matte.carved:
            continue
        shot = document.shots[hold.shot]
        at = timecode(hold.frame, shot.rate).replace(":", "-")
        name = plain = _plain(f"{shot.name} {at} {hold.name}")
        n = 2
        while name in named:
            name, n = f"{plain} {n}", n + 1
        named.add(name)
        yield name, lambda hold=hold: _cut_out(studio, document, hold)  # type: ignore[misc]


def _cut_out(studio: Studio, document: Document, hold: Hold) -> np.ndarray:
    shot, number = document.shots[hold.shot], hold.frame
    alpha = studio.renderer.sprites.mattes.alpha(shot, number, hold.matte)
    rgb = np.ascontiguousarray(to_bgr(studio.library.exact(shot, number))[..., ::-1])
    colours = own_colours(rgb, alpha) if hold.matte.fringe else rgb
    return np.dstack([colours[..., ::-1], np.rint(alpha * 255).astype(np.uint8)])


def _plain(name: str) -> str:
    return "".join(c if c.isalnum() or c in "-_. " else "-" for c in name).strip()[:180]
