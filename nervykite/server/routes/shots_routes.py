"""Shots: importing them, and pictures of their frames, of layers, of the piece."""

from contextlib import ExitStack
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool

from ...core.common.errors import Refusal
from ...core.piece.model import Shot
from ...store.projects import Missing
from ...studio import Studio, importing
from ..answers import ASK_AGAIN, FOREVER, MAX_UPLOAD, blocks, bounded_router, file_name, room_for
from ..desk import Desk
from ..messages import JobView

PART = 1 << 20
"""So many bytes are hashed and written in one go, in a thread: others are answered meanwhile."""


async def _stored(studio: Studio, request: Request, name: str, stack: ExitStack) -> str:
    """Keeps a request's body as a file, in use until the stack ends; its hash. Raises Refusal, HTTPException."""
    with studio.files.incoming() as coming:
        try:
            part = bytearray()
            async for block in blocks(request, name, "a shot", MAX_UPLOAD):
                part += block
                if len(part) >= PART:
                    await run_in_threadpool(coming.write, bytes(part))
                    part.clear()
            await run_in_threadpool(coming.write, bytes(part))
            return await run_in_threadpool(studio.files.keep, coming, stack)
        except OSError as error:
            raise Refusal(f"{name} could not be stored: {error.strerror}. Make room on the disk.") from error


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio, pictures = bounded_router(), desk.studio, desk.pictures

    @router.post("/api/projects/{project}/shots")
    async def import_shot(project: str, request: Request, name: str = Query(max_length=300)) -> JobView:
        """Takes the request's body as a file, and starts importing it."""
        await run_in_threadpool(studio.projects.revision, project)  # there is such a project
        shown = file_name(name, "Shot")
        await room_for(studio, request, shown)
        with ExitStack() as stack:
            source = await _stored(studio, request, shown, stack)

            def task(progress) -> dict:
                made, state = importing.import_file(studio, project, source, shown, progress)
                desk.tell(project, state.revision)
                if isinstance(made, Shot):
                    desk.watcher.want(project, made)
                    return {"shot": made.id, "note": made.note}
                return {"asset": made.id}

            # Whoever comes to need the file by then keeps it; else it goes.
            over = stack.pop_all().close
            return await run_in_threadpool(desk.work.start, "import", project, f"Import {shown}", task, over)

    @router.post("/api/projects/{project}/assets/{asset}/shot")
    def picture_as_shot(project: str, asset: str) -> JobView:
        """Begins to make a shot of one frame of a picture on the shelf, so that somebody can be cut out of it."""
        found = studio.state(project).document.assets.get(asset)
        if found is None or found.kind != "picture":
            raise Missing("There is no such picture on this project's shelf.")

        def task(progress) -> dict:
            made, state = importing.picture_as_shot(studio, project, found)
            desk.tell(project, state.revision)
            return {"shot": made.id, "note": None}

        return desk.work.start("import", project, f"Import {found.name}", task)

    @router.get("/api/projects/{project}/shots/{shot}/frames/{frame}.jpg", response_class=Response)
    def source_frame(
        project: str, shot: str, frame: int, width: Annotated[int | None, Query(ge=16, le=8192)] = None
    ) -> Response:
        """A source frame, at its own size or at a width."""
        found = desk.frame_of(project, shot, frame)
        return Response(pictures.source(found, frame, width), media_type="image/jpeg", headers=FOREVER)

    @router.get("/api/projects/{project}/shots/{shot}/strip.jpg", response_class=Response)
    def strip(
        project: str,
        shot: str,
        first: Annotated[int, Query(ge=0)],
        past: Annotated[int, Query(ge=1)],
        count: Annotated[int, Query(ge=1, le=120)],
        height: Annotated[int, Query(ge=16, le=240)] = 48,
    ) -> Response:
        """Evenly spaced frames of a range, side by side."""
        found = desk.shot(project, shot)
        span = np.clip([first, past - 1], 0, found.frames - 1)
        at = span[0] + (np.arange(count) + 0.5) / count * (span[1] + 1 - span[0])
        frames = tuple(int(f) for f in np.clip(at, 0, found.frames - 1))
        return Response(pictures.strip(found, frames, height), media_type="image/jpeg", headers=FOREVER)

    @router.get("/api/projects/{project}/assets/{asset}.png", response_class=Response)
    def picture(project: str, asset: str, side: Annotated[int, Query(ge=16, le=512)] = 80) -> Response:
        """A picture of the shelf, small, with its alpha."""
        found = studio.state(project).document.assets.get(asset)
        if found is None or found.kind != "picture":
            raise Missing("There is no such picture on this project's shelf.")
        return Response(pictures.drawing(found.file, side), media_type="image/png", headers=FOREVER)

    @router.get("/api/projects/{project}/layers/{layer}/thumbnail.png", response_class=Response)
    def thumbnail(
        project: str,
        layer: str,
        side: Annotated[int, Query(ge=16, le=512)] = 64,
        r: Annotated[int | None, Query(ge=0, description="The revision that it is asked for by.")] = None,
    ) -> Response:
        """A layer's picture, without its surroundings; nothing if the layer has gone since it was asked for."""
        state = studio.state(project)
        found = state.document.layer(layer)
        if found is None and r is not None and r < state.revision:
            return Response(status_code=204)
        if found is None:
            raise Missing("There is no such layer.")
        data = pictures.thumbnail(studio.evaluation(state), found, side)
        return Response(data, media_type="image/png", headers=ASK_AGAIN)

    @router.get("/api/projects/{project}/poster.jpg", response_class=Response)
    def poster(project: str, height: Annotated[int, Query(ge=32, le=960)] = 240) -> Response:
        """A frame that stands for the piece."""
        evaluation = studio.evaluation(studio.state(project))
        if evaluation.length == 0:
            raise Missing("There is nothing in this piece yet.")
        data = pictures.poster(evaluation, height)
        return Response(data, media_type="image/jpeg", headers=ASK_AGAIN)

    return router
