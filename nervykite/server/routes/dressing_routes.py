"""Dressing: each finish as it would look, and colours out of what is shown."""

from typing import Annotated, Any

from fastapi import APIRouter, Query, Response

from ...core.common.errors import Refusal
from ...core.draw.picture.tone_table import tone_table
from ...core.piece.model import Document, GroundItem, Layer
from ...core.see.footage.cube_lut import written_table
from ...store.projects import Missing
from ..answers import ASK_AGAIN, bounded_router, download
from ..desk import Desk
from ..fitting import Fitting


def worn_by(document: Document, owner: str) -> Layer | GroundItem:
    """The layer or the piece of the ground of that id. Raises Missing."""
    found: Layer | GroundItem | None = document.layer(owner) or document.item(owner)
    if found is None:
        raise Missing("There is no such layer, nor such a piece of the ground.")
    return found


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio, fitting = bounded_router(), desk.studio, Fitting(desk.studio)

    @router.get("/api/projects/{project}/fitting/{owner}/{kind}.jpg", response_class=Response)
    def fit(project: str, owner: str, kind: str, frame: Annotated[int, Query(ge=0)] = 0) -> Response:
        """A layer or an item of the ground with a finish on, small; of the ground and of washes, the frame seen."""
        state = studio.state(project)
        found = worn_by(state.document, owner)
        data = fitting.picture(studio.evaluation(state), found, kind, frame)
        return Response(data, media_type="image/jpeg", headers=ASK_AGAIN)

    @router.get("/api/projects/{project}/tones/{owner}.cube", response_class=Response)
    def written_tones(project: str, owner: str, frame: Annotated[int, Query(ge=0)] = 0) -> Response:
        """The tone finishes of a layer or an item of the ground at a frame, as a table of colours."""
        state = studio.state(project)
        evaluation, found = studio.evaluation(state), worn_by(state.document, owner)
        supplies = studio.renderer.sprites.supplies(state.document)
        called = found.name if isinstance(found, Layer) else state.document.called(found)
        title = f"{state.document.project.name} {called}"
        text = written_table(tone_table(evaluation, found, frame, supplies), title)
        return download(text.encode(), "text/plain; charset=utf-8", f"{title}.cube")

    @router.get("/api/projects/{project}/fitting/{owner}/{kind}/beginning")
    def beginning(project: str, owner: str, kind: str, frame: Annotated[int, Query(ge=0)] = 0) -> dict[str, Any]:
        """The settings that a finish begins with on something, where these depend on what there is."""
        state = studio.state(project)
        return fitting.beginning(studio.evaluation(state), worn_by(state.document, owner), kind, frame)

    @router.get("/api/projects/{project}/tones")
    def tones(
        project: str,
        frame: Annotated[int, Query(ge=0)] = 0,
        layer: str | None = None,
        asset: str | None = None,
    ) -> list[float]:
        """The tones of a layer, or of a picture of the shelf, else of the ground at a frame."""
        state = studio.state(project)
        found = state.document.layer(layer) if layer else None
        picture = state.document.assets.get(asset) if asset else None
        if (layer and found is None) or (asset and (picture is None or picture.kind != "picture")):
            raise Missing("What the tones should be taken from is no longer there. Choose another.")
        taken = fitting.tones(studio.evaluation(state), frame, found, picture)
        if taken is None:
            raise Refusal("There is nothing to see there whose tones could be taken. Choose another.")
        return taken

    @router.get("/api/projects/{project}/layers/{layer}/clothes")
    def clothes(project: str, layer: str) -> list[str]:
        """The colours of what a layer shows, those that cover most first."""
        state = studio.state(project)
        found = state.document.layer(layer)
        if found is None:
            raise Missing("There is no such layer.")
        return fitting.clothes(studio.evaluation(state), found) if not found.source.washes else []

    return router
