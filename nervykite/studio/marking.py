"""Carving: strokes, marks rubbed out and picks, each found and put into the matte at once.

The finding goes by the matte as it was when it was asked for. What it finds is put in by an edit that says nothing of
the other pieces, so that whatever is done to them meanwhile stays.
"""

from collections.abc import Callable
from typing import Annotated, Literal

import numpy as np
from pydantic import BaseModel, Field

from ..core.change.edits import PutFound
from ..core.common.errors import Refusal
from ..core.piece.model import Document, Found, Hold, Mark, Raster
from ..core.piece.model.base import FrameNumber, Id, Number
from ..core.piece.model.matte import MOST_MARKS, Combine
from ..core.see.find.correct import Side
from ..store.projects import Missing, State
from .carving import FindRequest, FoundPiece, find, other_outlines
from .studio import Studio

Progress = Callable[[float], None]
FIXED = {"carried", "picture"}
"""Kinds of pieces that came as they are: marks correct them as they correct a pick, by what moves and how it looks."""


class MarkedRequest(BaseModel):
    """A found piece of the matte that a hold has at a frame."""

    frame: FrameNumber
    piece: Id
    """The id of the piece."""


class StrokeRequest(MarkedRequest):
    """A stroke: it corrects the piece, or finds a new one of that id if there is none."""

    combine: Combine = "add"
    """The way in which a new piece joins the others."""
    side: Side
    mark: Mark


class RubRequest(MarkedRequest):
    """A place at which marks are rubbed out."""

    place: tuple[Number, Number]
    """The place in source pixels, across and down."""
    reach: Annotated[float, Field(ge=0, le=4000)]
    """The distance from the edge of a mark up to which the mark is rubbed out, in source pixels, from 0 to 4000."""


class PickRequest(MarkedRequest):
    """A pick: a new piece of that id for what is found without marks."""

    combine: Combine = "add"
    """The way in which it joins the others."""
    kind: Literal["mover", "person", "difference"]


def stroke(
    studio: Studio, project: str, hold: str, request: StrokeRequest, progress: Progress
) -> tuple[State, list[str]]:
    """Finds what a stroke says and puts it in; also what a person should know about it. Raises Refusal."""
    document, at = _hold(studio, project, hold)
    known = _piece(at, request)
    if known is None and request.side == "drop":
        raise Refusal("Draw a keep mark over the subject first; drop marks then take away what is too much.")
    keep, drop = ([], []) if known is None else (list(known.keep), list(known.drop))
    side = keep if request.side == "keep" else drop
    if len(side) == MOST_MARKS:
        raise Refusal(f"A piece has {MOST_MARKS} {request.side} marks at most. Rub some out, or begin another piece.")
    side.append(request.mark)
    asked = _asked(request.frame, known, keep, drop)
    if known is not None:
        asked = asked.model_copy(update={"before": known.raster, "newest": request.side})
    return _put(studio, project, hold, request, known, find(studio, document, at, asked, progress))


def rub(studio: Studio, project: str, hold: str, request: RubRequest, progress: Progress) -> tuple[State, list[str]]:
    """Finds a piece anew without the marks at a place; a piece that only they made goes. Raises Refusal."""
    document, at = _hold(studio, project, hold)
    known = _piece(at, request)
    if known is None:
        raise Refusal("That piece is no longer there. Choose another.")
    keep, drop = ([m for m in marks if _away(m, request)] for marks in (known.keep, known.drop))
    if len(keep) == len(known.keep) and len(drop) == len(known.drop):
        return studio.state(project), []
    if not keep and not drop and known.base is not None:
        piece = known.model_copy(update={"raster": known.base, "doubt": None, "keep": keep, "drop": drop})
        return _edit(studio, project, hold, request, piece), []
    if not keep and known.base is None:
        return _edit(studio, project, hold, request, None), []
    asked = _asked(request.frame, known, keep, drop)
    return _put(studio, project, hold, request, known, find(studio, document, at, asked, progress))


def pick(studio: Studio, project: str, hold: str, request: PickRequest, progress: Progress) -> tuple[State, list[str]]:
    """Finds a subject without marks and puts it in; also what a person should know about it. Raises Refusal."""
    document, at = _hold(studio, project, hold)
    found = find(studio, document, at, FindRequest(kind=request.kind, frame=request.frame), progress)
    return _put(studio, project, hold, request, None, found)


def others(studio: Studio, project: str, hold: str, request: MarkedRequest, progress: Progress) -> list[Raster]:
    """The other outlines that the few marks of a piece may mean, likeliest first. Raises Refusal."""
    document, at = _hold(studio, project, hold)
    known = _piece(at, request)
    if known is None or known.kind != "marks":
        return []
    asked = _asked(request.frame, known, known.keep, known.drop).model_copy(update={"before": known.raster})
    return other_outlines(studio, document, at, asked, progress)


def _hold(studio: Studio, project: str, hold: str) -> tuple[Document, Hold]:
    document = studio.state(project).document
    if hold not in document.holds:
        raise Missing("That hold is no longer there. Choose another.")
    return document, document.holds[hold]


def _piece(hold: Hold, request: MarkedRequest) -> Found | None:
    matte = hold.matte_at(request.frame)
    pieces = [] if matte is None else matte.pieces
    return next((p for p in pieces if p.id == request.piece and isinstance(p, Found)), None)


def _asked(frame: int, known: Found | None, keep: list[Mark], drop: list[Mark]) -> FindRequest:
    """The search that all marks of a piece ask for."""
    if known is None or known.kind == "marks":
        return FindRequest(kind="marks", frame=frame, keep=keep, drop=drop)
    kind = "mover" if known.kind in FIXED else known.kind
    return FindRequest(kind=kind, frame=frame, keep=keep, drop=drop, base=known.base or known.raster)  # type: ignore[arg-type]


def _put(
    studio: Studio, project: str, hold: str, request: MarkedRequest, known: Found | None, finding: FoundPiece
) -> tuple[State, list[str]]:
    piece = finding.piece
    if known is not None:
        new = {name: getattr(piece, name) for name in ("raster", "base", "doubt", "keep", "drop")}
        piece = known.model_copy(update=new)
    elif isinstance(request, StrokeRequest | PickRequest):
        piece = piece.model_copy(update={"combine": request.combine})
    return _edit(studio, project, hold, request, piece), finding.warnings


def _edit(studio: Studio, project: str, hold: str, request: MarkedRequest, piece: Found | None) -> State:
    return studio.edit(project, PutFound(hold=hold, frame=request.frame, id=request.piece, piece=piece), None)


def _away(mark: Mark, request: RubRequest) -> bool:
    """True if a mark is out of a rubber's reach."""
    points, place = np.array(mark.points, float), np.array(request.place)
    starts, along = points[:-1], np.diff(points, axis=0)
    share = ((place - starts) * along).sum(1) / np.maximum((along**2).sum(1), 1e-9)
    nearest = np.vstack([points, starts + np.clip(share, 0, 1)[:, None] * along])
    return bool(np.hypot(*(nearest - place).T).min() - mark.width / 2 > request.reach)
