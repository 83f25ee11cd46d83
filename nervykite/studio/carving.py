"""Finding and storing what cuts a subject out: the core's ways, fed from a studio's footage."""

from collections.abc import Callable, Sequence
from typing import Annotated, Literal

import cv2
import numpy as np
from pydantic import BaseModel, Field

from ..core.errors import Refusal
from ..core.footage.library import Library
from ..core.footage.loose import as_alpha
from ..core.footage.planes import to_bgr
from ..core.matte import marks, mover, svg
from ..core.matte.combine import piece_alpha
from ..core.matte.correct import Side, correct
from ..core.matte.doubt import DOUBTFUL, doubt
from ..core.matte.moving import joined
from ..core.matte.outline import outlines
from ..core.matte.person import people, person_hint, pick_person
from ..core.model import Document, Found, Hold, Mark, Matte, Piece, Raster, Shape, Shot
from ..core.model.matte import FoundKind
from ..core.plate.scene import working_size
from ..core.plate.stack import FOLLOWED
from ..core.track.stirring import SIGHT, stirring
from ..core.warm import ready
from .studio import Studio

Progress = Callable[[float], None]
REACH = 90
"""How many frames are looked at for what moves, at least, before or after."""
ANSWERED = 12
"""How many frames away an answer still tells where to look for the same person."""
FULL_SEARCH = 2
"""Up to so many strokes the whole subject is looked for anew; after that a stroke changes only what is near it. As
many strokes one after the other then end as well as if three were looked for anew, and are answered much sooner."""


class FindRequest(BaseModel):
    """What to find in a source frame: marks on their own, a pick, or marks that correct what is there.

    `before` is the alpha that the newest stroke, the last of its list, corrects.
    """

    kind: Literal["marks", "mover", "person", "difference"]
    frame: Annotated[int, Field(ge=0)]
    keep: Annotated[list[Mark], Field(max_length=400)] = []
    drop: Annotated[list[Mark], Field(max_length=400)] = []
    base: Raster | None = None
    before: Raster | None = None
    newest: Side | None = None
    fine: Annotated[float, Field(ge=0, le=40)] = 10.0


class Finding(BaseModel):
    """A piece that was found, and what a person should know about it."""

    piece: Found
    warnings: list[str]


NAMES: dict[FoundKind, str] = {
    "marks": "Marks", "mover": "Pick mover", "person": "Pick person", "difference": "Pick difference",
    "picture": "Matte from file", "carried": "Carried",
}  # fmt: skip


def strokes(found: list[Mark]) -> list[marks.Stroke]:
    """Marks of a document as the core draws them."""
    return [marks.Stroke(np.array(m.points, float), m.width) for m in found]


def picture_of(library: Library, shot: Shot, frame: int) -> np.ndarray:
    """A source frame as uint8 RGB (h, w, 3). Raises Refusal if the shot has no such frame."""
    if not 0 <= frame < shot.frames:
        raise Refusal(f"{shot.name} has no frame {frame}; its last one is {shot.frames - 1}.")
    return np.ascontiguousarray(to_bgr(library.exact(shot, frame))[..., ::-1])


def keep_alpha(studio: Studio, alpha: np.ndarray) -> Raster:
    """Stores alpha (h, w), 0…1. Raises Refusal if there is nothing in it."""
    # What is fainter than one half belongs to it, but does not say where it is, unless there is nothing else.
    level = 0.5 if alpha.max() > 0.5 else 0.02
    rows, columns = np.flatnonzero(alpha.max(1) > level), np.flatnonzero(alpha.max(0) > level)
    if not len(rows):
        raise Refusal("Nothing is left of the subject. Draw a keep stroke over it, or undo.")
    box = int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1
    return Raster(file=studio.keep_picture(np.round(np.clip(alpha, 0, 1) * 255).astype(np.uint8)), box=box)


def alpha_of(library: Library, raster: Raster) -> np.ndarray:
    """Stored alpha as float32 (h, w), 0…1."""
    return library.alpha(raster.file).astype(np.float32) / 255


def find(
    studio: Studio, document: Document, hold: Hold, request: FindRequest, progress: Progress = lambda share: None
) -> Finding:
    """Finds a piece in a frame of a hold's shot and stores its alpha. Raises Refusal with a sentence."""
    shot = document.shots[hold.shot]
    picture = picture_of(studio.library, shot, request.frame)
    warnings: tuple[str, ...] = ()
    base = request.base
    if request.kind == "marks":
        alpha = _by_marks(studio, shot, picture, request)
    elif request.keep or request.drop:
        if base is None:
            raise Refusal("There is no pick to correct yet. Make one first.")
        alpha = _corrected(studio, picture, request)
    else:
        proposal = _picked(studio, document, hold, picture, request, progress)
        alpha, warnings = proposal.matte(picture, request.fine), proposal.warnings
        base = keep_alpha(studio, alpha)
    progress(0.95)
    unsure = doubt(picture, alpha)
    shown = keep_alpha(studio, unsure) if (unsure > 0.4).sum() > DOUBTFUL * (alpha > 0.5).sum() else None
    if base is not None and not (request.keep or request.drop):
        raster = base
    else:
        raster = keep_alpha(studio, alpha)
    piece = Found(
        kind=request.kind, name=NAMES[request.kind], raster=raster, base=base, doubt=shown,
        keep=request.keep, drop=request.drop,
    )  # fmt: skip
    return Finding(piece=piece, warnings=list(warnings))


def _by_marks(studio: Studio, shot: Shot, picture: np.ndarray, request: FindRequest) -> np.ndarray:
    keep, drop = strokes(request.keep), strokes(request.drop)
    if request.before is not None and request.newest and len(keep) + len(drop) > FULL_SEARCH and keep and drop:
        return _corrected(studio, picture, request)
    before = None if request.before is None else alpha_of(studio.library, request.before)
    hint = joined(lambda: _stirs(studio, shot, request.frame))
    return marks.cut_out(picture, keep, drop, hint, request.fine, before)


def _stirs(studio: Studio, shot: Shot, frame: int) -> np.ndarray | None:
    """What moves in a frame at a glance, see `stirring`; remembered, as each stroke asks it."""
    known = studio.stirs.peek((shot.id, frame))
    if known is None:
        take = shot.take(frame)
        window = range(max(take.start, frame - SIGHT), min(take.stop, frame + SIGHT + 1))
        beside = SmallFrames(studio.library, shot, window, working_size(shot.width, shot.height))
        studio.stirs[shot.id, frame] = known = (stirring(beside, frame - window.start),)
    return known[0]


def look_ahead(studio: Studio, document: Document, hold: Hold, frame: int) -> None:
    """Works out what the first stroke in a frame will ask, before it is drawn. Raises Refusal if it cannot be read."""
    ready()
    shot = document.shots[hold.shot]
    picture = picture_of(studio.library, shot, frame)
    _stirs(studio, shot, frame)
    nothing = np.zeros(picture.shape[:2], bool)
    person_hint(picture, nothing, nothing)


def _corrected(studio: Studio, picture: np.ndarray, request: FindRequest) -> np.ndarray:
    """The newest stroke laid over what was there; without one, all strokes over the pick."""
    keep, drop = strokes(request.keep), strokes(request.drop)
    newest = request.newest if request.before is not None else None
    before = request.before or request.base
    if before is None:
        raise Refusal("There is nothing to correct yet. Draw a keep stroke over the subject first.")
    return correct(picture, alpha_of(studio.library, before), keep, drop, request.fine, newest)


def _picked(
    studio: Studio, document: Document, hold: Hold, picture: np.ndarray, request: FindRequest, progress: Progress
) -> mover.Proposal:
    shot = document.shots[hold.shot]
    size = working_size(shot.width, shot.height)
    if request.kind == "person":
        answered = _answered(studio, document, hold, request.frame)
        proposal = pick_person(picture, answered, _stirs(studio, shot, request.frame))
    elif request.kind == "difference":
        if hold.plate is None:
            raise Refusal("Pick difference compares with the clean plate, and there is none yet. Build one first.")
        behind = studio.library.plate(hold.plate)
        if behind.shape != picture.shape:
            behind = cv2.resize(behind, picture.shape[1::-1], interpolation=cv2.INTER_LINEAR)
        small, other = (cv2.resize(p, size, interpolation=cv2.INTER_AREA) for p in (picture, behind))
        proposal = mover.pick_difference(small, other)
    else:
        window = window_of(request.frame, shot)
        near = SmallFrames(studio.library, shot, window, size, lambda share: progress(0.7 * share))
        key = shot.id, window
        proposal, scene = mover.pick_mover(near, request.frame - window.start, people, studio.scenes.peek(key))
        studio.scenes[key] = scene
    progress(0.85)
    return proposal


def _answered(studio: Studio, document: Document, hold: Hold, frame: int) -> np.ndarray | None:
    """What is known of the subject: the matte that the hold has at a frame, or one of the same shot a little off it."""
    shot = document.shots[hold.shot]
    take = shot.take(frame)
    near = take[max(0, frame - ANSWERED - take.start) : frame + ANSWERED + 1 - take.start]
    others = [h for h in document.holds.values() if h.shot == shot.id and h.frame in near]
    places = [(hold, frame), *((h, h.frame) for h in sorted(others, key=lambda h: abs(h.frame - frame)))]
    answers = (known_alpha(studio, shot, h, f) for h, f in places)
    return next((alpha for alpha in answers if alpha is not None), None)


def known_alpha(studio: Studio, shot: Shot, hold: Hold, frame: int) -> np.ndarray | None:
    """What a hold's pieces at a frame make, float32 (h, w), before what is done to the whole; None if that is empty."""
    matte = hold.matte_at(frame)
    if matte is None or not matte.pieces:
        return None
    alpha = studio.renderer.mattes.alpha(shot, frame, Matte(pieces=matte.pieces))
    return alpha if alpha.max() > 0.5 else None


def window_of(frame: int, shot: Shot) -> range:
    """The frames of a shot that tell what moves in one of them; neighbouring frames mostly have the same ones."""
    take = shot.take(frame)
    within, frames = frame - take.start, len(take)
    first = min(max(0, within // REACH * REACH - REACH // 2), max(0, frames - 2 * REACH))
    return take[first : first + 2 * REACH]


class _Frames(Sequence[np.ndarray]):
    """The frames of a range of a shot, uint8 RGB (h, w, 3), read when they are asked for."""

    def __init__(self, library: Library, shot: Shot, window: range, progress: Progress = lambda share: None) -> None:
        self._library, self._shot, self._window, self._progress = library, shot, window, progress
        self._read = 0

    def __len__(self) -> int:
        return len(self._window)

    def __getitem__(self, index):
        if isinstance(index, slice):
            return [self[k] for k in range(len(self))[index]]
        frame = self._frame(self._window[index])
        self._read += 1
        self._progress(min(1.0, self._read / (2 * FOLLOWED)))
        return frame

    def _frame(self, number: int) -> np.ndarray:
        raise NotImplementedError


class ExactFrames(_Frames):
    """In full size, from the original file."""

    def _frame(self, number: int) -> np.ndarray:
        return picture_of(self._library, self._shot, number)


class SmallFrames(_Frames):
    """At a size (w, h), from the proxy; those that were read are remembered."""

    def __init__(
        self,
        library: Library,
        shot: Shot,
        window: range,
        size: tuple[int, int],
        progress: Progress = lambda share: None,
    ) -> None:
        super().__init__(library, shot, window, progress)
        self._size, self._known = size, dict[int, np.ndarray]()

    def _frame(self, number: int) -> np.ndarray:
        if number not in self._known:
            self._known[number] = small_frame(self._library, self._shot, number, self._size)
        return self._known[number]


def small_frame(library: Library, shot: Shot, frame: int, size: tuple[int, int]) -> np.ndarray:
    """A source frame at a size (w, h) no larger than the proxy's: uint8 RGB (h, w, 3)."""
    bgr = to_bgr(library.proxy(shot).planes(frame))
    return np.ascontiguousarray(cv2.resize(bgr, size, interpolation=cv2.INTER_AREA)[..., ::-1])


def as_svg(studio: Studio, shot: Shot, matte: Matte) -> str:
    """A matte as an SVG document: drawn pieces as they are, found ones as outlines. Raises Refusal if it is empty."""
    shapes: list[Shape] = []
    for piece in matte.pieces:
        if isinstance(piece, Shape):
            shapes.append(piece)
            continue
        for drawn in outlines(piece_alpha(piece, shot.height, shot.width, studio.library.alpha)):
            body = drawn.combine == "add"
            if piece.combine == "overlap" or (not body and piece.combine == "cut away"):
                continue  # a gap in what is cut away, and an area to stay within, have no path of their own
            name = piece.name if body else f"{piece.name}: gap"
            shapes.append(drawn.model_copy(update={"name": name, "combine": piece.combine if body else "cut away"}))
    if not shapes:
        raise Refusal("There is nothing in this matte yet. Draw a piece first.")
    return svg.document(shapes, shot.width, shot.height)


def read_pieces(studio: Studio, shot: Shot, data: bytes, name: str) -> list[Piece]:
    """The pieces that a file holds: SVG paths as pen pieces, a picture as one found piece. Raises Refusal."""
    if data.lstrip()[:5].lower() in (b"<?xml", b"<svg ") or b"<svg" in data[:2000]:
        try:
            return list(svg.pieces(data.decode()))
        except UnicodeDecodeError as error:
            raise Refusal(f"{name} is not written in UTF-8, as SVG has to be.") from error
    matte = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED) if data else None
    if matte is None:
        raise Refusal(f"{name} is neither SVG nor a picture. Choose an SVG, or a grey PNG.")
    alpha = as_alpha(matte)
    if alpha.shape != (shot.height, shot.width):
        raise Refusal(
            f"{name} is {alpha.shape[1]} × {alpha.shape[0]} pixels and the frame {shot.width} × {shot.height}."
            " A matte has to be as large as its frame."
        )
    label = name.replace("\\", "/").split("/")[-1].rsplit(".", 1)[0][:120].strip() or NAMES["picture"]
    return [Found(kind="picture", name=label, raster=keep_alpha(studio, alpha))]
