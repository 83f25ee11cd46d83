"""Work on single files, without a project: `nervykite cut`, `nervykite carry` and `nervykite plate`."""

import json
from dataclasses import dataclass
from pathlib import Path
from time import perf_counter
from typing import Literal

import cv2
import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ..core.errors import Refusal
from ..core.footage import loose
from ..core.footage.cuts import cuts_of, glance
from ..core.matte import marks, mover, networks
from ..core.matte.combine import grow
from ..core.matte.doubt import DOUBTFUL, doubt
from ..core.matte.fringe import own_colours
from ..core.matte.moving import hint_in
from ..core.matte.person import people, person_hint, pick_person
from ..core.matte.solve import fine_edge
from ..core.matte.svg import area
from ..core.model.document import take_of
from ..core.model.matte import DOUBTFUL as DOUBTFUL_FRAME
from ..core.plate import scene
from ..core.plate.clean import clean_plate
from ..core.track.carry import carry as carry_on
from ..core.track.reel import working_size
from ..core.track.stirring import SIGHT, stirring
from ..core.warm import ready


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

    def strokes(self) -> tuple[list[marks.Stroke], list[marks.Stroke]]:
        """The keep and the drop strokes."""
        keep, drop = (
            [marks.Stroke(np.array(line.points), line.width) for line in lines] for lines in (self.keep, self.drop)
        )
        return keep, drop


@dataclass(frozen=True)
class Cut:
    """What was cut: alpha float32 (h, w), 0…1; the frame, uint8 RGB; warnings; milliseconds of the computation."""

    alpha: np.ndarray
    frame: np.ndarray
    warnings: tuple[str, ...]
    ms: float


Pick = Literal["mover", "person", "difference"]


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
    """Cuts the subject out of one frame of a file. Raises Refusal."""
    if pick == "mover":
        size = scene.working_size(*loose.size_of(source))
        picture, near, at = _around(source, frame, size, 90)
        begun = _begun()
        proposal, _ = mover.pick_mover(near, at, people)
    else:
        looks_beside = pick == "person" or marks_file is not None
        small_size = scene.working_size(*loose.size_of(source)) if looks_beside else None
        picture, near, at = _around(source, frame, small_size, SIGHT)
        height, width = picture.shape[:2]
        begun = _begun()
        if pick == "difference":
            if plate_file is None:
                raise Refusal("Pick difference needs the clean plate: give it with --plate.")
            plate = loose.read_picture(plate_file)
            if plate.shape != picture.shape:
                raise Refusal(
                    f"The plate is {plate.shape[1]} × {plate.shape[0]} pixels and the frame {width} × {height}."
                )
            size = scene.working_size(width, height)
            small, behind = (cv2.resize(p, size, interpolation=cv2.INTER_AREA) for p in (picture, plate))
            proposal = mover.pick_difference(small, behind)
        elif pick == "person":
            proposal = pick_person(picture, stirs=stirring(near, at) if near else None)
        elif path_file is not None:
            alpha = _path(path_file, height, width)
            if fine:
                alpha = fine_edge(picture, alpha, fine)
            return Cut(_grown(alpha, grow_by), picture, (), (perf_counter() - begun) * 1e3)
        else:
            if marks_file is None:
                raise Refusal("Say what to cut with: --marks, --pick or --path.")
            keep, drop = MarksFile.read(marks_file).strokes()
            proposal = None
            hint = hint_in(near, at) if near else person_hint
            alpha = marks.cut_out(picture, keep, drop, hint, 10.0 if fine is None else fine)
    reach = 10.0 if fine is None else fine
    warnings: tuple[str, ...] = ()
    if proposal is not None:
        alpha, warnings = proposal.matte(picture, reach), proposal.warnings
    ms = (perf_counter() - begun) * 1e3
    share = float((doubt(picture, alpha) > 0.4).sum() / max(1, (alpha > 0.5).sum()))
    if share > DOUBTFUL:
        warnings = (*warnings, "In places the edge is a guess: subject and surroundings look alike there.")
    return Cut(_grown(alpha, grow_by), picture, warnings, ms)


def _around(
    source: Path, frame: int, size: tuple[int, int] | None, reach: int
) -> tuple[np.ndarray, list[np.ndarray], int]:
    """A frame in full and those around it of the same take small, see `loose.around`. Raises Refusal."""
    picture, near, at = loose.around(source, frame, size, reach)
    take = take_of(at, len(near), _cuts(near)) if near else range(1)
    return picture, near[take.start : take.stop], at - take.start


def _cuts(frames: list[np.ndarray]) -> list[int]:
    return cuts_of([glance(cv2.cvtColor(f, cv2.COLOR_RGB2GRAY)) for f in frames])


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
    width, height = loose.size_of(source)
    picture, near, index = _around(source, at, (width, height), 45)
    begun = _begun()
    built, guessed = clean_plate(near, index, people)
    ms = (perf_counter() - begun) * 1e3
    unknown = float(guessed.mean())
    guess = "Part of the scene is never seen without the subject; what is there is a guess."
    _write(out, built[..., ::-1])
    if facts is not None:
        record = {"ms": round(ms, 1), "warnings": [guess] if unknown > 0.01 else [], "unknown": round(unknown, 5)}
        facts.write_text(json.dumps(record, indent=2) + "\n")


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
    first, past = min(at, span[0]), max(at + 1, span[1])
    size = working_size(width, height)
    small = [loose.shrunk(f, size) for n, f in enumerate(loose.frames(source)) if n < past][first:]
    if len(small) < past - first:
        raise Refusal(f"{source.name} has no frame {past - 1}; its last one is {first + len(small) - 1}.")
    take = take_of(at - first, len(small), _cuts(small))
    small, first, past = small[take.start : take.stop], first + take.start, first + take.stop
    one_take = f"{source.name} cuts: frames {first} to {past - 1} are one take. A matte is carried within that."
    wanted = [n - first for n in range(*span) if first <= n < past]
    if not wanted:
        raise Refusal(one_take)
    try:
        out.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise Refusal(f"{out} cannot be made: {error.strerror}.") from error
    doubtful = []
    begun, written = _begun(), 0.0
    for found in carry_on(loose.InOrder(source, first, past), {at - first: alpha}, wanted, person=people, small=small):
        number = found.frame + first
        before = perf_counter()
        _write(out / f"{number:06d}.png", np.round(found.alpha * 65535).astype(np.uint16))
        written += perf_counter() - before
        if found.doubt >= DOUBTFUL_FRAME:
            doubtful.append(number)
    ms = (perf_counter() - begun - written) * 1e3
    if facts is not None:
        few = ", ".join(str(n) for n in doubtful[:12]) + (" …" if len(doubtful) > 12 else "")
        warnings = [f"Doubtful frames: {few}. Correct one of them, and carry on from there."] if doubtful else []
        if len(wanted) < span[1] - span[0]:
            warnings.append(one_take)
        record = {
            "ms": round(ms, 1),
            "ms a frame": round(ms / len(wanted), 1),
            "warnings": warnings,
            "frames": len(wanted),
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
