"""Snags: what will look wrong in a piece."""

from typing import Any

from fastapi import APIRouter
from pydantic import BaseModel

from ...studio.snag_watch import look_at
from ..answers import bounded_router
from ..desk import Desk


class SnagView(BaseModel):
    """Something that will look wrong: where it is seen, the step at which it is mended by hand, and an edit that mends
    it.
    """

    check: str
    title: str
    says: str
    frame: int | None
    layer: str | None
    item: str | None
    step: str
    fix: dict[str, Any] | None
    fixes: str


class SnagsView(BaseModel):
    """The snags of a revision, in the order in which they are seen."""

    revision: int
    snags: list[SnagView]


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio = bounded_router(), desk.studio

    @router.get("/api/projects/{project}/snags")
    def snags(project: str) -> SnagsView:
        """The snags of the piece as it is now."""
        state = studio.state(project)
        found = [
            SnagView(
                check=s.check, title=title, says=s.says, frame=s.frame, layer=s.layer, item=s.item, step=s.step,
                fix=None if s.fix is None else s.fix.model_dump(mode="json"), fixes=s.fixes,
            )
            for s, title in look_at(studio, desk.seen(state).keys.evaluation)
        ]  # fmt: skip
        return SnagsView(revision=state.revision, snags=found)

    return router
