"""Dressing: each finish as it would look, and colours out of what is shown."""

from typing import Annotated

from fastapi import APIRouter, Query, Response

from ...core.model import GroundItem, Layer
from ...store.projects import Missing
from ..answers import ASK_AGAIN, bounded_router
from ..desk import Desk
from ..fitting import Fitting


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio, fitting = bounded_router(), desk.studio, Fitting(desk.studio)

    @router.get("/api/projects/{project}/fitting/{owner}/{kind}.jpg", response_class=Response)
    def fit(project: str, owner: str, kind: str, frame: Annotated[int, Query(ge=0)] = 0) -> Response:
        """A layer or an item of the ground with a finish on, small; of the ground and of washes, the frame seen."""
        state = studio.state(project)
        found: Layer | GroundItem | None = state.document.layer(owner) or state.document.item(owner)
        if found is None:
            raise Missing("There is no such layer, nor such a piece of the ground.")
        data = fitting.picture(studio.evaluation(state), found, kind, frame)
        return Response(data, media_type="image/jpeg", headers=ASK_AGAIN)

    @router.get("/api/projects/{project}/layers/{layer}/clothes")
    def clothes(project: str, layer: str) -> list[str]:
        """The colours of what a layer shows, those that cover most first."""
        state = studio.state(project)
        found = state.document.layer(layer)
        if found is None:
            raise Missing("There is no such layer.")
        return fitting.clothes(studio.evaluation(state), found) if not found.source.washes else []

    return router
