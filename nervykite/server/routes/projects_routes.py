"""Projects: the list, edits, undo and redo, the keys of frames."""

from typing import Annotated

from fastapi import APIRouter, Query

from ...core.common.errors import Refusal
from ...store.projects import Entry, Room, Step
from ..answers import bounded_router
from ..desk import Desk
from ..requests import EditRequest, FrameKeysView, NewProject, RescueRequest, StepRequest
from ..views import ProjectView

MOST_KEYS = 1200
"""How many frames' keys are told in one answer."""


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio = bounded_router(), desk.studio

    @router.get("/api/projects")
    def list_projects() -> list[Entry]:
        return studio.projects.list()

    @router.post("/api/projects")
    def new_project(body: NewProject) -> ProjectView:
        return desk.view(studio.projects.new(body.name))

    @router.get("/api/projects/{project}")
    def get_project(project: str, since: int | None = None) -> ProjectView:
        """A project; with `since`, only what has changed since that revision, if it is remembered."""
        if since is None:
            desk.warming.opened(project)
        return desk.view(studio.state(project), since)

    @router.delete("/api/projects/{project}", status_code=204)
    def delete_project(project: str) -> None:
        studio.projects.delete(project)

    @router.post("/api/projects/{project}/restore")
    def restore_project(project: str) -> ProjectView:
        studio.projects.restore(project)
        return desk.view(studio.state(project))

    @router.get("/api/deleted-projects")
    def list_deleted() -> list[Entry]:
        """Projects that were deleted and can be restored yet."""
        return studio.projects.list(deleted=True)

    @router.delete("/api/deleted-projects/{project}", status_code=204)
    def forget_project(project: str) -> None:
        """Takes a deleted project away for good, and gives its room back."""
        if desk.work.busy(project):
            raise Refusal("Something is being made in that project yet. Cancel that first, or wait until it is done.")
        studio.projects.forget(project)
        desk.tidying.soon()

    @router.get("/api/projects/{project}/room")
    def room(project: str) -> Room:
        """The room on the disk that a project takes."""
        return studio.projects.room(project)

    @router.get("/api/projects/{project}/steps")
    def steps(project: str) -> list[Step]:
        """The steps of a project, the newest first, even if the project cannot be shown."""
        return studio.projects.steps(project)

    @router.post("/api/projects/{project}/rescue")
    def rescue(project: str, body: RescueRequest) -> ProjectView:
        """Takes back a step and all after it, and shows what is left; for a project that could not be shown."""
        studio.projects.take_back(project, body.step)
        return desk.changed(studio.state(project), None)

    @router.post("/api/projects/{project}/duplicate")
    def duplicate_project(project: str) -> ProjectView:
        return desk.view(studio.duplicate(project))

    @router.post("/api/projects/{project}/edits")
    def edit(project: str, body: EditRequest) -> ProjectView:
        """Makes an edit; the answer is what has changed since the revision it was made on."""
        return desk.changed(studio.edit(project, body.edit, body.revision), body.revision, body.at)

    @router.post("/api/projects/{project}/undo")
    def undo(project: str, body: StepRequest) -> ProjectView:
        return desk.changed(studio.projects.undo(project, body.revision), body.revision, body.at)

    @router.post("/api/projects/{project}/redo")
    def redo(project: str, body: StepRequest) -> ProjectView:
        return desk.changed(studio.projects.redo(project, body.revision), body.revision, body.at)

    @router.get("/api/projects/{project}/keys")
    def frame_keys(
        project: str, first: Annotated[int, Query(ge=0)] = 0, past: Annotated[int, Query(ge=0)] = MOST_KEYS
    ) -> FrameKeysView:
        """The keys of frames first…past (half-open), of so many as one answer holds."""
        state = studio.state(project)
        keys = desk.seen(state).keys.of(first, min(past, first + MOST_KEYS))
        return FrameKeysView(revision=state.revision, first=first, keys=keys)

    return router
