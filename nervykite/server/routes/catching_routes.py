"""Catching: what was seen of a shot, proposals, cadence, ghosts; from chosen frames to cutouts; sheets and stills."""

from typing import Annotated

import cv2
import numpy as np
from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field

from ...core.common.errors import Refusal
from ...core.piece.model import Shot
from ...core.piece.model.base import FrameNumber, Id
from ...core.piece.timeline.clock import timecode
from ...core.see.catch.apexes import MOVEMENTS, unasked
from ...core.see.catch.ghosts import overlaps
from ...core.see.catch.sheet import contact_sheet
from ...core.see.footage.planes import to_bgr
from ...store.projects import Missing
from ...studio import catching
from ...studio.catching import CarveAllRequest
from ...studio.watching import Cadence, ShotObservations, takes
from ..answers import ASK_AGAIN, bounded_router, download
from ..desk import Desk
from ..messages import JobView

MOST_VALUES = 4000
"""How many values a curve has at most; of a longer shot each stands for several frames."""
MOST_ON_SHEET = 240


class ProposalView(BaseModel):
    """A frame worth holding, why, how much of a peak it is and how crisp, 0…1."""

    frame: int
    why: str
    peak: float
    crisp: float


class WatchedView(BaseModel):
    """The looking-through of a shot: `known` are the frames that were looked at, half-open ranges.

    The curves have a value for every `step` frames: how crisp the subject is and how far its chief movement has gone,
    0…1, none where it is not there. `movements` say what that movement is, take by take, from the first frame of each.
    Of the proposals, the best first, so many are `unasked`. `there`: where the subject is seen longest, half-open.
    """

    known: list[tuple[int, int]]
    step: int
    crisp: list[float | None]
    gone: list[float | None]
    movements: list[tuple[int, str]]
    proposals: list[ProposalView]
    unasked: int
    there: tuple[int, int] | None
    note: str | None


class Overlap(BaseModel):
    """Two frames whose bodies cover each other, and what share of the smaller one is covered, 0…1."""

    one: int
    other: int
    share: float


class NudgeRequest(BaseModel):
    """The frame that a moment goes to."""

    frame: FrameNumber


class FramesRequest(BaseModel):
    """Frames of a shot."""

    frames: Annotated[list[FrameNumber], Field(max_length=60)]


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio, looks = bounded_router(), desk.studio, desk.looks

    def places(project: str, shot: Shot, item: str | None) -> list[int]:
        """The frames that may be chosen: those that a ground item shows, or all."""
        if item is None:
            return list(range(shot.frames))
        document = studio.state(project).document
        found = document.item(item)
        if found is None or found.source.footage(document) != shot.id:
            raise Missing("That piece of footage is no longer in the ground. Choose another.")
        return sorted({int(f) for f in found.source.frames(document)})

    @router.get("/api/projects/{project}/shots/{shot}/watched")
    def watched(project: str, shot: str, item: Id | None = None) -> WatchedView:
        """The records of a shot so far; what was not looked at yet will be soon. `item`: what shows it."""
        found = desk.shot(project, shot)
        desk.watcher.want(project, found)
        allowed = None if item is None else frozenset(places(project, found, item))
        return _watched(looks, found, allowed)

    @router.post("/api/projects/{project}/shots/{shot}/cadence")
    def cadence(project: str, shot: str, body: Cadence, item: Id | None = None) -> list[int]:
        """The frames of a cadence."""
        found = desk.shot(project, shot)
        return looks.cadence(found, body, places(project, found, item))

    @router.post("/api/projects/{project}/shots/{shot}/overlaps")
    def overlapping(project: str, shot: str, body: FramesRequest) -> list[Overlap]:
        """The bodies of some frames that cover each other."""
        found = desk.frame_of(project, shot, *body.frames)
        pairs = overlaps(looks.bodies(found, body.frames))
        return [Overlap(one=body.frames[a], other=body.frames[b], share=round(share, 3)) for a, b, share in pairs]

    @router.get("/api/projects/{project}/shots/{shot}/ghosts.jpg", response_class=Response)
    def ghosts(
        project: str,
        shot: str,
        under: Annotated[int, Query(ge=0)],
        frames: Annotated[str, Query(pattern=r"^\d{1,7}(,\d{1,7}){0,59}$")],
        strength: Annotated[float, Query(ge=0, le=1)] = 0.8,
    ) -> Response:
        """The bodies of some frames (their numbers, with commas) over another one."""
        chosen = sorted({int(f) for f in frames.split(",")})
        found = desk.frame_of(project, shot, under, *chosen)
        picture = looks.ghosts(found, chosen, under, strength)
        data = cv2.imencode(".jpg", np.ascontiguousarray(picture[..., ::-1]), [cv2.IMWRITE_JPEG_QUALITY, 86])[1]
        return Response(data.tobytes(), media_type="image/jpeg", headers=ASK_AGAIN)

    @router.post("/api/projects/{project}/carve-all")
    def carve_all(project: str, body: CarveAllRequest) -> JobView:
        """Holds frames and cuts the subject out of each; stopped, it goes on from there the next time."""
        studio.projects.revision(project)  # there is such a project

        def task(progress) -> dict:
            return catching.hold_and_carve(studio, project, body, progress, lambda: desk.tell(project))

        count = len(body.frames)
        return desk.work.start("carve", project, f"Cut out of {count} frame{'' if count == 1 else 's'}", task)

    @router.post("/api/projects/{project}/shots/{shot}/moments/{moment}/nudge")
    def nudge(project: str, shot: str, moment: str, body: NudgeRequest) -> JobView:
        """Moves a moment to a frame, with the holds taken there: their mattes are carried."""
        desk.shot(project, shot)

        def task(progress) -> dict:
            told = lambda: desk.tell(project)  # noqa: E731
            return catching.nudge(studio, project, shot, moment, body.frame, progress, told)

        return desk.work.start("nudge", project, f"Move a moment to frame {body.frame}", task)

    @router.get("/api/projects/{project}/shots/{shot}/sheet.png", response_class=Response)
    def sheet(
        project: str,
        shot: str,
        first: Annotated[int, Query(ge=0)],
        past: Annotated[int, Query(ge=1)],
        every: Annotated[int, Query(ge=1)] = 1,
    ) -> Response:
        """A contact sheet of a range, every so manyth frame, numbered."""
        found = desk.shot(project, shot)
        frames = list(range(first, min(past, found.frames), every))
        if not frames:
            raise Refusal(f"{found.name} has no frames there; its last one is {found.frames - 1}.")
        if len(frames) > MOST_ON_SHEET:
            least = -(-(frames[-1] + 1 - first) // MOST_ON_SHEET)
            raise Refusal(f"A sheet has at most {MOST_ON_SHEET} frames. Take every {least}th, or a shorter range.")
        proxy = studio.library.proxy(found)
        shown = [np.ascontiguousarray(to_bgr(proxy.planes(f))[..., ::-1]) for f in frames]
        made = contact_sheet(shown, [str(f) for f in frames], f"{found.name}, {found.width} × {found.height}")
        data = cv2.imencode(".png", np.ascontiguousarray(made[..., ::-1]))[1].tobytes()
        return download(data, "image/png", f"{found.name} {frames[0]}-{frames[-1]}.png")

    @router.get("/api/projects/{project}/shots/{shot}/frames/{frame}.png", response_class=Response)
    def still(project: str, shot: str, frame: int, at: Annotated[int | None, Query(ge=0)] = None) -> Response:
        """A source frame as PNG in its own size, named by its timecode in the piece if `at` gives its project frame."""
        found = desk.frame_of(project, shot, frame)
        rate = studio.state(project).document.project.rate
        code = timecode(frame, found.rate) if at is None else timecode(at, rate)
        data = cv2.imencode(".png", to_bgr(studio.library.exact(found, frame)))[1].tobytes()
        return download(data, "image/png", f"{found.name} {code.replace(':', '-')}.png")

    return router


def _watched(looks: ShotObservations, shot: Shot, allowed: frozenset[int] | None) -> WatchedView:
    known = looks.known(shot)
    step = -(-shot.frames // MOST_VALUES)
    curves = looks.curves(shot)
    found = looks.proposals(shot, allowed)

    there = np.concatenate([c.there for c in curves])

    def thinned(values: np.ndarray) -> np.ndarray:
        return np.pad(values, (0, -len(values) % step), mode="edge").reshape(-1, step).max(1)

    def shown(values: np.ndarray) -> list[float | None]:
        both = zip(thinned(values).round(3).tolist(), thinned(there), strict=True)
        return [value if here else None for value, here in both]

    done = sum(len(k) for k in known) == shot.frames
    return WatchedView(
        known=[(k.start, k.stop) for k in known],
        step=step,
        crisp=shown(np.concatenate([c.crisp for c in curves])),
        gone=shown(np.concatenate([c.gone for c in curves])),
        movements=[(t.start, MOVEMENTS[c.movement]) for t, c in zip(takes(shot), curves, strict=True)],
        proposals=[ProposalView(frame=p.frame, why=p.why, peak=p.peak, crisp=p.crisp) for p in found],
        unasked=unasked(found),
        there=_longest(there if allowed is None else there & np.isin(np.arange(shot.frames), list(allowed))),
        note=_note(shot, bool(found), allowed) if done else None,
    )


def _longest(there: np.ndarray) -> tuple[int, int] | None:
    """The longest run of a row of yes and no, half-open; frames that a ground item leaves out do not end it."""
    at = np.flatnonzero(there)
    if not len(at):
        return None
    breaks = np.flatnonzero(np.diff(at) > 8)
    first, last = np.r_[at[0], at[breaks + 1]], np.r_[at[breaks], at[-1]]
    longest = int((last - first).argmax())
    return int(first[longest]), int(last[longest]) + 1


def _note(shot: Shot, found: bool, allowed: frozenset[int] | None) -> str | None:
    """The note that a person should have about a shot that was looked through."""
    if shot.frames == 1:
        return "There is one picture only, and no movement to go by. Hold it, and carve it by marks or a pick."
    if not found:
        return "Nothing moves here that could be followed. Choose frames by hand, or by an even spacing."
    if allowed and len(allowed) > 1:
        step = round((max(allowed) - min(allowed)) / (len(allowed) - 1))
        if step > 1:
            ordinal = {2: "second", 3: "third"}.get(step, f"{step}th")
            return f"The piece shows every {ordinal} frame of it. Slow it down under “In the piece” to choose of more."
    return None
