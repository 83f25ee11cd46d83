"""The clean plate behind a hold: built, taken from a frame or a file, and mended, over a studio's footage."""

import functools
from collections.abc import Callable
from typing import Annotated, Literal

import cv2
import numpy as np
from pydantic import BaseModel, Field

from ..core.common.errors import Refusal
from ..core.piece.model import Hold, Mark, Shot
from ..core.see.find.prior import people
from ..core.see.find.strokes import draw
from ..core.see.footage.loose import unpacked
from ..core.see.matte.calmed import calmed
from ..core.see.scene.clean import Elsewhere, clean_plate, laid_over
from ..core.see.scene.mend import cloned, filled
from .carving import known_alpha, strokes
from .cutting import Pick, Remembered, by_pick
from .service_footage import Film, looked_at, nothing, window_of
from .studio import Studio

Progress = Callable[[float], None]


class PlateRequest(BaseModel):
    """Where a plate comes from: the shot's other frames, or one empty frame of it."""

    source: Literal["shot", "frame"]
    frame: Annotated[int, Field(ge=0)] | None = None


class MendRequest(BaseModel):
    """A stroke over a plate, filled from its surroundings, or with what another frame of the shot shows there."""

    stroke: Mark
    source: Literal["around", "frame"]
    frame: Annotated[int, Field(ge=0)] | None = None


class Plate(BaseModel):
    """A stored plate by its hash, and what a person should know about it."""

    plate: str
    warnings: list[str] = []


GUESS = "Part of the scene is never seen without the subject: what is there is a guess. Mend it with the brush."


def build(
    film: Film, frame: int, remembered: Remembered, subject: np.ndarray | None = None,
    elsewhere: Elsewhere = lambda number: None, progress: Progress = nothing,
) -> tuple[np.ndarray, np.ndarray]:  # fmt: skip
    """The scene behind a frame of any film, uint8 RGB (h, w, 3); where it is a guess, bool (h, w). Raises Refusal.

    subject: what was cut out of the frame, float32 (h, w), 0…1; what moves if that is not known; elsewhere: what was
    cut out of other frames, by their numbers.
    """
    looked_at(film)
    window = window_of(film, frame)
    if subject is None:
        subject = _what_moves(film, frame, remembered, lambda share: progress(0.2 * share))
    frames = film.exact(window, lambda share: progress(0.2 + 0.5 * share))
    return clean_plate(frames, frame - window.start, people, subject, lambda number: elsewhere(window[number]))


def _what_moves(film: Film, frame: int, remembered: Remembered, progress: Progress = nothing) -> np.ndarray | None:
    """The movers in a frame, and all of the people of whom a part moves, float32 (h, w), 0…1; None if nothing does."""
    picture = calmed(film.picture(frame))

    def picked(pick: Pick) -> np.ndarray | None:
        try:
            return by_pick(film, frame, picture, pick, remembered, progress=progress).outline(picture)
        except Refusal:
            return None

    moves = picked("mover")
    somebody = None if moves is None else picked("person")
    if moves is None or somebody is None:
        return moves
    labels = cv2.connectedComponents((somebody > 0.5).astype(np.uint8))[1]
    whole = np.isin(labels, np.setdiff1d(np.unique(labels[moves > 0.5]), [0]))
    return np.where(whole, np.maximum(moves, somebody), moves)


def make(studio: Studio, shot: Shot, hold: Hold, request: PlateRequest, progress: Progress) -> Plate:
    """The plate behind a held frame, by what was cut out of it and of where its matte travels. Raises Refusal."""
    at = hold.frame
    if request.source == "shot":
        subject = known_alpha(studio, shot, hold, at)
        elsewhere = functools.partial(_travelled, studio, shot, hold)
        built, guess = build(studio.film(shot), at, studio.remembered, subject, elsewhere, progress)
        return Plate(plate=studio.keep_picture(built), warnings=[GUESS] if guess.mean() > 0.01 else [])
    if request.frame is None:
        raise Refusal("Say which frame is empty.")
    film = studio.film(shot)
    looked_at(film)
    laid, seen = laid_over(film.picture(request.frame), film.picture(at))
    warnings = [] if seen.mean() > 0.98 else ["That frame does not show all of this one: its rim goes on as it ends."]
    return Plate(plate=studio.keep_picture(laid), warnings=warnings)


def _travelled(studio: Studio, shot: Shot, hold: Hold, frame: int) -> np.ndarray | None:
    """A hold's alpha where its matte has travelled to, float32 (h, w), 0…1; None where that is not sure."""
    stop = None if hold.travel is None else hold.travel.at(frame)
    sure = stop is not None and stop.state in ("locked", "fixed", "carried")
    return known_alpha(studio, shot, hold, frame) if sure else None


def read(studio: Studio, shot: Shot, data: bytes, name: str) -> Plate:
    """A picture from outside as the plate. Raises Refusal if it is none, or not of the shot's shape."""
    picture = unpacked(data, cv2.IMREAD_COLOR, name)
    if picture is None:
        raise Refusal(f"{name} cannot be read as a picture. Choose a PNG, JPEG, WebP or TIFF.")
    h, w = picture.shape[:2]
    if abs(w / h - shot.width / shot.height) > 0.01 * shot.width / shot.height:
        raise Refusal(
            f"{name} is {w} × {h} pixels and the frame {shot.width} × {shot.height}: the shapes differ."
            " Give a picture from the same camera."
        )
    fitted = cv2.resize(picture, (shot.width, shot.height), interpolation=cv2.INTER_AREA)
    return Plate(plate=studio.keep_picture(np.ascontiguousarray(fitted[..., ::-1])))


def mend(studio: Studio, shot: Shot, frame: int, plate: str, request: MendRequest) -> Plate:
    """A plate with what lies under a stroke replaced. Raises Refusal."""
    behind = studio.library.plate(plate)
    h, w = behind.shape[:2]
    area = draw(strokes([request.stroke]), h, w)
    if not area.any():
        raise Refusal("The stroke lies outside the frame. Draw it over the plate.")
    if request.source == "around":
        return Plate(plate=studio.keep_picture(filled(behind, area)))
    if request.frame is None:
        raise Refusal("Say which frame to take it from.")
    film = studio.film(shot)
    looked_at(film)
    laid, seen = laid_over(film.picture(request.frame), film.picture(frame))
    if (area & ~seen).any():
        raise Refusal(f"Frame {request.frame} does not show that place. Choose another one.")
    return Plate(plate=studio.keep_picture(cloned(behind, laid, area)))
