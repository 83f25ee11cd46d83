"""Carving and carrying: what is found in held frames, mattes in and out, mattes taken along."""

from typing import Annotated

import cv2
import numpy as np
from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import FileResponse
from pydantic import BaseModel

from ...core.common.errors import Refusal
from ...core.piece.model import Node, Piece, Raster, Shape
from ...core.see.matte.combine import piece_alpha
from ...core.see.matte.outline import even_chain, fitted, outlines
from ...store.projects import Missing
from ...studio import carrying, carving, marking
from ...studio.carrying import CarryRequest
from ...studio.marking import MarkedRequest, PickRequest, RubRequest, StrokeRequest
from ..answers import FOREVER, HASH, Report, attended, bounded_router, download, received
from ..desk import Desk
from ..messages import JobView
from ..requests import OutlineRequest, PathRequest, StepRequest
from ..views import ProjectView

MAX_MATTE = 64 << 20


class StrokeAsked(StrokeRequest, StepRequest):
    """A stroke, and what the page has seen of the project."""


class RubAsked(RubRequest, StepRequest):
    """A place to rub marks out at, with the same."""


class CarvedView(BaseModel):
    """The outcome of a stroke: what has changed since the revision that the page has seen, and what it should know."""

    view: ProjectView
    warnings: list[str]


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio = bounded_router(), desk.studio

    @router.post("/api/projects/{project}/holds/{hold}/strokes")
    async def stroke(project: str, hold: str, body: StrokeAsked, request: Request) -> CarvedView:
        """Finds the subject by a stroke, or corrects a piece with it, and puts that into the matte: one edit."""
        state, said = await attended(request, lambda report: marking.stroke(studio, project, hold, body, report))
        return CarvedView(view=desk.changed(state, body.revision, body.at), warnings=said)

    @router.post("/api/projects/{project}/holds/{hold}/rub")
    async def rub(project: str, hold: str, body: RubAsked, request: Request) -> CarvedView:
        """Rubs marks out and finds their piece anew without them: one edit."""
        state, said = await attended(request, lambda report: marking.rub(studio, project, hold, body, report))
        return CarvedView(view=desk.changed(state, body.revision, body.at), warnings=said)

    @router.post("/api/projects/{project}/holds/{hold}/pick")
    def start_pick(project: str, hold: str, body: PickRequest) -> JobView:
        """Finds a subject without marks and puts it into the matte, in the background; what it says is its result."""
        _, found = desk.document_with(project, hold)

        def task(progress) -> dict:
            state, said = marking.pick(studio, project, hold, body, progress)
            desk.tell(project, state.revision)
            return {"warnings": said}

        return desk.work.start("find", project, f"{carving.NAMES[body.kind]} in {found.name}", task)

    @router.post("/api/projects/{project}/holds/{hold}/other-outlines")
    async def other_outlines(project: str, hold: str, body: MarkedRequest, request: Request) -> list[Raster]:
        """The other outlines that few marks may mean, likeliest first: none if that is clear."""
        return await attended(request, lambda report: marking.others(studio, project, hold, body, report))

    @router.post("/api/projects/{project}/holds/{hold}/look-ahead", status_code=202)
    def look_ahead(project: str, hold: str, frame: Annotated[int, Query(ge=0)]) -> None:
        """Begins to work out what marks in a frame will ask, as somebody has come to carve there."""
        document, found = desk.document_with(project, hold)
        desk.ahead.start(lambda: carving.look_ahead(studio, document, found, frame))

    @router.post("/api/projects/{project}/holds/{hold}/outline")
    async def outline(project: str, hold: str, body: OutlineRequest, request: Request) -> list[Shape]:
        """A found piece as pen pieces with few points."""

        def work(report: Report) -> list[Shape]:
            found, shot = desk.hold(project, hold)
            alpha = piece_alpha(body.piece, shot.height, shot.width, studio.library.alpha)
            shapes = outlines(alpha, body.tolerance, report=report)
            if not shapes:
                raise Refusal("There is no outline to draw: the piece is empty, or fainter than one half everywhere.")
            return shapes

        return await attended(request, work)

    @router.post("/api/path")
    async def path(body: PathRequest, request: Request) -> list[Node]:
        """A line drawn by hand, closed, as a path with few points."""

        def work(report: Report) -> list[Node]:
            line = np.array(body.points, float)
            if np.ptp(line, axis=0).max() < 2:
                raise Refusal("That shape is too small to see. Draw it larger, or zoom in.")
            return fitted(even_chain(line), body.tolerance, report)

        return await attended(request, work)

    @router.get("/api/rasters/{file}.png", response_class=FileResponse)
    def raster(file: str) -> FileResponse:
        """A stored alpha or plate."""
        place = studio.files.path(file) if HASH.fullmatch(file) else None
        if place is None or not place.is_file() or place.open("rb").read(4) != b"\x89PNG":
            raise Missing("There is no such picture.")
        return FileResponse(place, media_type="image/png", headers=FOREVER)

    @router.get("/api/projects/{project}/holds/{hold}/matte.svg", response_class=Response)
    def matte_svg(project: str, hold: str) -> Response:
        """The hold's matte as SVG paths, in source pixels."""
        found, shot = desk.hold(project, hold)
        data = carving.as_svg(studio, shot, found.matte)
        return download(data.encode(), "image/svg+xml", f"{found.name}.svg")

    @router.get("/api/projects/{project}/holds/{hold}/matte.png", response_class=Response)
    def matte_png(project: str, hold: str) -> Response:
        """The hold's matte as a 16-bit grey picture of the source's size."""
        found, shot = desk.hold(project, hold)
        alpha = studio.renderer.sprites.mattes.alpha(shot, found.frame, found.matte)
        data = cv2.imencode(".png", np.round(alpha * 65535).astype(np.uint16))[1].tobytes()
        return download(data, "image/png", f"{found.name}.png")

    @router.post("/api/projects/{project}/holds/{hold}/pieces")
    async def read_pieces(project: str, hold: str, request: Request, name: str = Query(max_length=300)) -> list[Piece]:
        """Reads the request's body, an SVG document or a grey picture, as pieces to put into the matte."""
        _, shot = await run_in_threadpool(desk.hold, project, hold)
        data = await received(request, name, "a matte", MAX_MATTE)
        return await attended(request, lambda report: carving.read_pieces(studio, shot, data, name, report))

    @router.post("/api/projects/{project}/holds/{hold}/carry")
    def start_carry(project: str, hold: str, body: CarryRequest) -> JobView:
        """Carries the hold's matte through its range, or to moments; stopped, it goes on from there the next time."""
        found, _ = desk.hold(project, hold)

        def told() -> None:
            desk.tell(project)

        def task(progress) -> dict:
            if body.to == "range":
                return carrying.through(studio, project, hold, body.again, progress, told)
            return carrying.to_moments(studio, project, hold, body.to == "next", progress, told)

        return desk.work.start("carry", project, f"Carry {found.name}", task)

    return router
