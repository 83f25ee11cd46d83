"""Copying layers, and putting them down again, here or in another project."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from ...core.change.edits import Clip, PasteLayers, clip_of
from ...core.common.errors import Refusal
from ...core.common.kept import Kept
from ...core.piece.model.base import FrameNumber, Id, new_id
from ..answers import bounded_router
from ..desk import Desk
from ..views import ProjectView

KEPT = 12
"""How many clips are remembered, until the program ends."""


class CopyRequest(BaseModel):
    """The layers to be copied, with all that belongs to them."""

    layers: Annotated[list[Id], Field(min_length=1, max_length=2000)]


class Copied(BaseModel):
    """The receipt of a copy: an id to put it down by, and how many layers that are."""

    clip: str
    layers: int


class PasteRequest(BaseModel):
    """The order to put something down, from which project frame on, and the revision that was asked for on."""

    revision: int
    clip: Id
    at: FrameNumber


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio = bounded_router(), desk.studio
    clips: Kept[Clip] = Kept(KEPT)

    @router.post("/api/projects/{project}/copy")
    def copy(project: str, body: CopyRequest) -> Copied:
        """Remembers layers as they are now."""
        clip, id_ = clip_of(studio.state(project).document, body.layers), new_id()
        clips[id_] = clip
        return Copied(clip=id_, layers=len(clip.layers))

    @router.post("/api/projects/{project}/paste")
    def paste(project: str, body: PasteRequest) -> ProjectView:
        """Puts copied layers down; footage, mattes and pictures come along."""
        clip = clips.peek(body.clip)
        if clip is None:
            raise Refusal("What was copied is no longer remembered. Copy it again.")
        if not all(studio.files.path(shot.file).is_file() for shot in clip.shots.values()):
            raise Refusal("The footage of what was copied is gone, with the project that it was in. Import it again.")
        edit = PasteLayers(clip=clip, at=body.at)
        return desk.changed(studio.edit(project, edit, body.revision), body.revision)

    return router
