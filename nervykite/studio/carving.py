"""Finding and storing what cuts a subject out: the core's ways, fed from a studio's footage."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Literal

import cv2
import numpy as np
from pydantic import BaseModel, Field

from ..core.common.errors import Refusal
from ..core.piece.model import Document, Found, Hold, Mark, Matte, Piece, Raster, Shape, Shot
from ..core.piece.model.matte import MOST_MARKS, Combine, FoundKind
from ..core.see.find.correct import Side, correct
from ..core.see.find.prior import person_hint
from ..core.see.find.rough import Added
from ..core.see.find.strokes import Stroke
from ..core.see.footage.library import Library
from ..core.see.footage.loose import as_alpha, unpacked
from ..core.see.matte import svg_mattes
from ..core.see.matte.calmed import calmed
from ..core.see.matte.combine import matte_alpha, piece_alpha
from ..core.see.matte.doubt import DOUBTFUL, doubt
from ..core.see.matte.outline import outlines
from ..core.see.matte.reduced import reduced
from ..core.warm import ready
from .cutting import UNEVEN, Strokes, by_marks, by_pick, others, roughly, stirs
from .service_footage import looked_at
from .studio import Studio

Progress = Callable[[float], None]
MOST_SVG = 8 << 20
"""How many bytes an SVG document has at most."""
UNSTORED = "0" * 64
"""The name of alpha that is not stored."""
ANSWERED = 12
"""How many frames away an answer still tells where to look for the same person."""


class FindRequest(BaseModel):
    """The order to find something in a source frame: marks on their own, a pick, or marks that correct what is there.

    `before` is the alpha that the newest stroke, the last of its list, corrects.
    """

    kind: Literal["marks", "mover", "person", "difference"]
    frame: Annotated[int, Field(ge=0)]
    keep: Annotated[list[Mark], Field(max_length=MOST_MARKS)] = []
    drop: Annotated[list[Mark], Field(max_length=MOST_MARKS)] = []
    base: Raster | None = None
    before: Raster | None = None
    newest: Side | None = None
    fine: Annotated[float, Field(ge=0, le=40)] = 10.0


class Drawn(BaseModel):
    """A stroke that was just drawn, and what it says of the subject."""

    side: Side
    mark: Mark


class RoughRequest(BaseModel):
    """Strokes in a frame, in order, that add to a piece of a hold or make a new one; how that joins the others."""

    frame: Annotated[int, Field(ge=0)]
    piece: str | None = None
    combine: Combine = "add"
    added: Annotated[list[Drawn], Field(min_length=1, max_length=MOST_MARKS)]


@dataclass(frozen=True)
class FoundPiece:
    """A piece that was found, and what a person should know about it."""

    piece: Found
    warnings: list[str]
    doubtful: bool = False
    """Whether parts of it are less sure than the rest."""


NAMES: dict[FoundKind, str] = {
    "marks": "Marks", "mover": "Pick mover", "person": "Pick person", "difference": "Pick difference",
    "picture": "Matte from file", "carried": "Carried",
}  # fmt: skip


def strokes(found: list[Mark]) -> list[Stroke]:
    """Marks of a document as the core draws them."""
    return [Stroke(np.array(m.points, float), m.width) for m in found]


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
) -> FoundPiece:
    """Finds a piece in a frame of a hold's shot and stores its alpha. Raises Refusal with a sentence."""
    film = studio.film(document.shots[hold.shot])
    picture = calmed(film.picture(request.frame))
    warnings: tuple[str, ...] = ()
    doubtful = False
    base = request.base
    drawn = Strokes(strokes(request.keep), strokes(request.drop), request.newest)
    if request.kind == "marks":
        before = None if request.before is None else alpha_of(studio.library, request.before)
        alpha = by_marks(film, request.frame, picture, drawn, request.fine, studio.remembered, before)
    elif len(drawn):
        if base is None:
            raise Refusal("There is no pick to correct yet. Make one first.")
        # The newest stroke is laid over what was there; without one, all strokes over the pick.
        newest = request.newest if request.before is not None else None
        known = alpha_of(studio.library, request.before or base)
        alpha = correct(picture, known, list(drawn.keep), list(drawn.drop), request.fine, newest)
    else:
        plate = None if hold.plate is None else studio.library.plate(hold.plate)
        answered = _answered(studio, document, hold, request.frame) if request.kind == "person" else None
        proposal = by_pick(
            film, request.frame, picture, request.kind, studio.remembered, plate, answered, progress
        )  # fmt: skip
        alpha, warnings = proposal.matte(picture, request.fine), proposal.warnings
        doubtful = proposal.uneven(alpha)
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
    return FoundPiece(piece=piece, warnings=[*warnings, *([UNEVEN] if doubtful else [])], doubtful=doubtful)


def other_outlines(
    studio: Studio, document: Document, hold: Hold, request: FindRequest, progress: Progress = lambda share: None
) -> list[Raster]:
    """The other outlines that a few marks in a frame of a hold's shot may mean besides `request.before`. Raises
    Refusal.
    """
    if request.kind != "marks" or request.before is None:
        return []
    film = studio.film(document.shots[hold.shot])
    picture = calmed(film.picture(request.frame))
    drawn = Strokes(strokes(request.keep), strokes(request.drop))
    answered = alpha_of(studio.library, request.before)
    found = others(film, request.frame, picture, drawn, request.fine, studio.remembered, answered, progress)
    return [keep_alpha(studio, alpha) for alpha in found]


def at_once(studio: Studio, document: Document, hold: Hold, request: RoughRequest) -> np.ndarray:
    """About what a hold's matte will be once strokes are worked out: float32, 0…1, of a small size. Raises Refusal."""
    shot = document.shots[hold.shot]
    matte = hold.matte_at(request.frame) or hold.matte.model_copy(update={"pieces": []})
    known = next((p for p in matte.pieces if p.id == request.piece and isinstance(p, Found)), None)
    added = [Added(d.side, strokes([d.mark])[0]) for d in request.added]
    drawn = Strokes() if known is None else Strokes(strokes(known.keep), strokes(known.drop))
    before = None if known is None else alpha_of(studio.library, known.raster)
    alpha = roughly(studio.film(shot), request.frame, added, drawn, studio.remembered, before)
    height, width = alpha.shape
    raster = Raster(file=UNSTORED, box=(0, 0, width, height))
    if known is None:
        pieces = [*matte.pieces, Found(kind="marks", raster=raster, combine=request.combine)]
    else:
        pieces = [p if p is not known else known.model_copy(update={"raster": raster}) for p in matte.pieces]

    def stored(file: str) -> np.ndarray:
        return np.round(255 * alpha).astype(np.uint8) if file == UNSTORED else studio.library.alpha(file)

    return matte_alpha(reduced(matte.model_copy(update={"pieces": pieces}), width / shot.width), height, width, stored)


def look_ahead(studio: Studio, document: Document, hold: Hold, frame: int) -> None:
    """Works out what the first stroke in a frame will ask, before it is drawn. Raises Refusal if it cannot be read."""
    ready()
    film = studio.film(document.shots[hold.shot])
    looked_at(film)
    picture = film.picture(frame)
    stirs(film, frame, studio.remembered)
    empty = np.zeros(picture.shape[:2], bool)
    person_hint(picture, empty, empty)


def _answered(studio: Studio, document: Document, hold: Hold, frame: int) -> np.ndarray | None:
    """The subject as it is known: the matte that the hold has at a frame, or one of the same shot a little off it."""
    shot = document.shots[hold.shot]
    take = shot.take(frame)
    near = take[max(0, frame - ANSWERED - take.start) : frame + ANSWERED + 1 - take.start]
    others = [h for h in document.holds.values() if h.shot == shot.id and h.frame in near]
    places = [(hold, frame), *((h, h.frame) for h in sorted(others, key=lambda h: abs(h.frame - frame)))]
    answers = (known_alpha(studio, shot, h, f) for h, f in places)
    return next((alpha for alpha in answers if alpha is not None), None)


def known_alpha(studio: Studio, shot: Shot, hold: Hold, frame: int) -> np.ndarray | None:
    """The matte that a hold's pieces at a frame make, float32 (h, w), before what is done to the whole; None if it is
    empty.
    """
    matte = hold.matte_at(frame)
    if matte is None or not matte.pieces:
        return None
    alpha = studio.renderer.sprites.mattes.alpha(shot, frame, Matte(pieces=matte.pieces))
    return alpha if alpha.max() > 0.5 else None


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
    return svg_mattes.document(shapes, shot.width, shot.height)


def read_pieces(
    studio: Studio, shot: Shot, data: bytes, name: str, progress: Progress = lambda share: None
) -> list[Piece]:
    """The pieces that a file holds: SVG paths as pen pieces, a picture as one found piece. Raises Refusal."""
    if data.lstrip()[:5].lower() in (b"<?xml", b"<svg ") or b"<svg" in data[:2000]:
        try:
            if len(data) > MOST_SVG:
                raise Refusal(
                    f"{name} is larger than {MOST_SVG >> 20} MB, too large for SVG. Keep only the matte's paths."
                )
            return list(studio.apart.call(svg_mattes.pieces, data.decode(), name=name, report=progress))
        except UnicodeDecodeError as error:
            raise Refusal(f"{name} is not written in UTF-8, as SVG has to be.") from error
    matte = unpacked(data, cv2.IMREAD_UNCHANGED, name)
    if matte is None:
        raise Refusal(f"{name} is neither SVG nor a picture. Choose an SVG, or a grey PNG.")
    alpha = as_alpha(matte)
    if alpha.shape != (shot.height, shot.width):
        raise Refusal(
            f"{name} is {alpha.shape[1]} × {alpha.shape[0]} pixels and the frame {shot.width} × {shot.height}."
            " A matte has to be as large as its frame."
        )
    label = "".join(c for c in name.replace("\\", "/").split("/")[-1].rsplit(".", 1)[0] if c.isprintable())
    label = label[:120].strip() or NAMES["picture"]
    return [Found(kind="picture", name=label, raster=keep_alpha(studio, alpha))]
