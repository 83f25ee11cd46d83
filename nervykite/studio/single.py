"""Single files, without a project, by the same services: `nervykite cut`, `nervykite carry`, `nervykite plate`."""

import json
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import chain
from pathlib import Path
from time import perf_counter

import cv2
import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ..core.common.errors import Refusal
from ..core.piece.model.matte import DOUBTFUL as DOUBTFUL_FRAME
from ..core.see.carry.carry import Carried
from ..core.see.carry.reel import working_size
from ..core.see.find.strokes import Stroke
from ..core.see.footage import loose
from ..core.see.matte import networks
from ..core.see.matte.calmed import calmed
from ..core.see.matte.combine import grow
from ..core.see.matte.doubt import DOUBTFUL, doubt
from ..core.see.matte.fine import fine_edge
from ..core.see.matte.fringe import own_colours
from ..core.see.matte.svg_mattes import area
from ..core.see.scene import scene
from ..core.warm import ready
from . import carrying, plates
from .cutting import UNEVEN, Pick, Remembered, Strokes, by_marks, by_pick
from .service_footage import LooseFilm

FINE = 10.0
"""How far to each side an edge is solved, in pixels, unless somebody says otherwise."""


class _Line(BaseModel):
    model_config = ConfigDict(extra="forbid")
    points: list[tuple[float, float]] = Field(min_length=1)
    width: float = Field(gt=0, le=2000)


class MarksFile(BaseModel):
    """Keep and drop strokes, in source pixels after rotation."""

    model_config = ConfigDict(extra="forbid")
    keep: list[_Line] = []
    drop: list[_Line] = []

    @classmethod
    def read(cls, path: Path) -> "MarksFile":
        """Raises Refusal with a sentence that says what is wrong."""
        try:
            return cls.model_validate_json(path.read_bytes())
        except OSError as error:
            raise Refusal(f"{path} cannot be read: {error.strerror}.") from error
        except ValidationError as error:
            first = error.errors()[0]
            where = ".".join(str(part) for part in first["loc"])
            raise Refusal(f"{path.name} is not a marks file: {where + ': ' if where else ''}{first['msg']}.") from error

    def strokes(self) -> tuple[list[Stroke], list[Stroke]]:
        """The keep and the drop strokes."""
        keep, drop = ([Stroke(np.array(line.points), line.width) for line in lines] for lines in (self.keep, self.drop))
        return keep, drop


@dataclass(frozen=True)
class Cut:
    """The cut: alpha float32 (h, w), 0…1; the frame, uint8 RGB; warnings; milliseconds of the computation."""

    alpha: np.ndarray
    frame: np.ndarray
    warnings: tuple[str, ...]
    ms: float


def _begun() -> float:
    """When a computation begins: all is loaded that it needs, and nothing is remembered of one before."""
    ready()
    networks.forget()
    return perf_counter()


def cut(
    source: Path,
    frame: int,
    marks_file: Path | None = None,
    pick: Pick | None = None,
    plate_file: Path | None = None,
    path_file: Path | None = None,
    grow_by: float = 0.0,
    fine: float | None = None,
) -> Cut:
    """Cuts the subject out of one frame of a file.

    marks_file: keep and drop strokes; pick: or what proposes the subject; plate_file: the clean plate, for a
    difference; path_file: or an SVG document that is the matte; grow_by: moves the edge out, in pixels; fine: how far
    to each side the edge is solved. Raises Refusal.
    """
    looks_beside = marks_file is not None or pick in ("mover", "person")
    film = LooseFilm(source, frame, scene.working_size(*loose.size_of(source)) if looks_beside else None)
    picture = film.picture(frame)
    seen = calmed(picture)
    height, width = picture.shape[:2]
    reach = FINE if fine is None else fine
    remembered = Remembered()
    warnings: tuple[str, ...] = ()
    plate = None if plate_file is None else loose.read_picture(plate_file)
    if pick == "difference" and plate is None:
        raise Refusal("Pick difference needs the clean plate: give it with --plate.")
    if plate is not None and plate.shape != picture.shape:
        raise Refusal(f"The plate is {plate.shape[1]} × {plate.shape[0]} pixels and the frame {width} × {height}.")
    begun = _begun()
    if path_file is not None:
        alpha = _path(path_file, height, width)
        alpha = fine_edge(picture, alpha, fine) if fine else alpha
        return Cut(_grown(alpha, grow_by), picture, (), (perf_counter() - begun) * 1e3)
    if pick is not None:
        proposal = by_pick(film, frame, seen, pick, remembered, plate)
        alpha, warnings = proposal.matte(seen, reach), proposal.warnings
        warnings = (*warnings, *([UNEVEN] if proposal.uneven(alpha) else []))
    elif marks_file is not None:
        strokes = Strokes(*MarksFile.read(marks_file).strokes())
        alpha = by_marks(film, frame, seen, strokes, reach, remembered)
    else:
        raise Refusal("Say what to cut with: --marks, --pick or --path.")
    ms = (perf_counter() - begun) * 1e3
    share = float((doubt(seen, alpha) > 0.4).sum() / max(1, (alpha > 0.5).sum()))
    if share > DOUBTFUL:
        warnings = (*warnings, "In places the edge is a guess: subject and surroundings look alike there.")
    return Cut(_grown(alpha, grow_by), picture, warnings, ms)


def _grown(alpha: np.ndarray, by: float) -> np.ndarray:
    return np.clip(grow(alpha, by), 0, 1).astype(np.float32)


def _path(path: Path, height: int, width: int) -> np.ndarray:
    try:
        text = path.read_text()
    except (OSError, UnicodeDecodeError) as error:
        raise Refusal(f"{path} cannot be read as SVG.") from error
    return area(text, height, width)


def write_cut(done: Cut, matte: Path, out: Path | None, facts: Path | None) -> None:
    """Writes the matte (16-bit grey PNG), the cutout (straight alpha, own colours) and the facts (JSON)."""
    _write(matte, np.round(done.alpha * 65535).astype(np.uint16))
    if out is not None:
        colours = own_colours(done.frame, done.alpha)
        _write(out, np.dstack([colours[..., ::-1], np.round(done.alpha * 255).astype(np.uint8)]))
    if facts is not None:
        covered = float((done.alpha > 0.5).mean())
        record = {"ms": round(done.ms, 1), "warnings": list(done.warnings), "covered": round(covered, 5)}
        facts.write_text(json.dumps(record, indent=2) + "\n")


def plate(source: Path, at: int, out: Path, facts: Path | None) -> None:
    """Writes the scene without what moves through it, at one moment, in full size. Raises Refusal."""
    if source.suffix.lower() in loose.PICTURES:
        raise Refusal("A plate is built from the frames of a video, and this is one picture.")
    film = LooseFilm(source, at, scene.working_size(*loose.size_of(source)))
    begun = _begun()
    built, guessed = plates.build(film, at, Remembered())
    ms = (perf_counter() - begun) * 1e3
    unknown = float(guessed.mean())
    _write(out, built[..., ::-1])
    if facts is not None:
        record = {
            "ms": round(ms, 1),
            "warnings": [plates.GUESS] if unknown > 0.01 else [],
            "unknown": round(unknown, 5),
        }
        facts.write_text(json.dumps(record, indent=2) + "\n")


def carried(source: Path, at: int, alpha: np.ndarray, wanted: range) -> tuple[Iterator[Carried], str | None]:
    """Mattes for frames of a video, carried from one whose alpha, float32 (h, w), 0…1, is known.

    Returns them as they are found, not always in order, and why some are left out, if they are: a matte is carried as
    far as its take. Raises Refusal if none of the frames wanted belongs to it.
    """
    film = LooseFilm(source, at, working_size(*loose.size_of(source)), max(at - wanted.start, wanted.stop - 1 - at, 0))
    if film.last < wanted.stop - 1:
        raise Refusal(f"{source.name} has no frame {wanted.stop - 1}; its last one is {film.last}.")
    take = film.take(at)
    frames = range(max(wanted.start, take.start), min(wanted.stop, take.stop))
    if not frames:
        raise Refusal(one_take(film, at))
    left = len(frames) < len(wanted)
    return carrying.carry_through(film, at, alpha, frames), one_take(film, at) if left else None


def one_take(film: LooseFilm, at: int) -> str:
    """That a matte goes no farther than the take of its frame, and where that begins and ends."""
    take, ends = film.take(at), []
    if take.start > film.first:
        ends.append(f"begins at frame {take.start}")
    if take.stop <= film.last:
        ends.append(f"ends with frame {take.stop - 1}")
    return f"{film.name} cuts: the take of frame {at} {' and '.join(ends)}. A matte is carried within that."


def carry(source: Path, at: int, matte_file: Path, span: tuple[int, int], out: Path, facts: Path | None) -> None:
    """Carries the matte of frame `at` of a video to the frames of a span, half-open, and writes one PNG for each.

    Raises Refusal.
    """
    if source.suffix.lower() in loose.PICTURES:
        raise Refusal("A matte is carried through the frames of a video, and this is one picture.")
    width, height = loose.size_of(source)
    alpha = loose.read_matte(matte_file)
    if alpha.shape != (height, width):
        raise Refusal(
            f"The matte is {alpha.shape[1]} × {alpha.shape[0]} pixels and the video {width} × {height}."
            " Give the matte of one of its frames."
        )
    if alpha.max() <= 0.5:
        raise Refusal("The matte is empty, so there is nobody to carry on. Give one that covers the subject.")
    found, left_out = carried(source, at, alpha, range(*span))
    try:
        out.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise Refusal(f"{out} cannot be made: {error.strerror}.") from error
    doubtful = []
    begun, written, count = _begun(), 0.0, 0
    given = [Carried(at, alpha, 0.0)] if at in range(*span) else []
    for one in chain(given, found):
        before = perf_counter()
        _write(out / f"{one.frame:06d}.png", np.round(one.alpha * 65535).astype(np.uint16))
        written += perf_counter() - before
        count += 1
        if one.doubt >= DOUBTFUL_FRAME:
            doubtful.append(one.frame)
    ms = (perf_counter() - begun - written) * 1e3
    if facts is not None:
        doubtful.sort()
        few = ", ".join(str(n) for n in doubtful[:12]) + (" …" if len(doubtful) > 12 else "")
        warnings = [f"Doubtful frames: {few}. Correct one of them, and carry on from there."] if doubtful else []
        if left_out:
            warnings.append(left_out)
        record = {
            "ms": round(ms, 1),
            "ms a frame": round(ms / max(1, count), 1),
            "warnings": warnings,
            "frames": count,
        }
        facts.write_text(json.dumps(record, indent=2) + "\n")


def _write(path: Path, picture: np.ndarray) -> None:
    kind = path.suffix.lower() if path.suffix.lower() in loose.PICTURES else ".png"
    done, data = cv2.imencode(kind, np.ascontiguousarray(picture))
    if not done:
        raise Refusal(f"{path.name} cannot be written as a picture.")
    try:
        path.write_bytes(data.tobytes())
    except OSError as error:
        raise Refusal(f"{path} cannot be written: {error.strerror}.") from error
