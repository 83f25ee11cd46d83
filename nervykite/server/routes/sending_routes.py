"""Sending, and jobs of all kinds."""

from typing import Any

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import FileResponse, Response

from ...core.draw.send.writer import writer_of
from ...store.jobs import Job
from ...store.projects import Missing
from ...studio.handed import open_handed
from ...studio.timelines import read_timeline, timeline_of
from ..answers import MAX_UPLOAD, blocks, bounded_router, download, file_name, room_for
from ..desk import Desk
from ..messages import JobView
from ..requests import (
    BundleRequest,
    ExportRequest,
    ForetoldView,
    HoldRequest,
    OpenedView,
    OutputRequest,
    StillsRequest,
    TimelineFile,
    TimelineRequest,
    TimelineView,
)
from ..sends import queued


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio = bounded_router(), desk.studio

    def job_of(job: str) -> Job:
        try:
            return studio.jobs.get(job)
        except KeyError as error:
            raise Missing("There is no such job.") from error

    @router.post("/api/projects/{project}/exports")
    def start_export(project: str, body: ExportRequest) -> JobView:
        """Writes the piece, or what of it is asked for, to a file of some format."""
        return queued(desk.work, studio, project, "export", body)

    @router.post("/api/projects/{project}/exports/foretold")
    def foretell(project: str, body: OutputRequest) -> ForetoldView:
        """The estimate of a file's size and time, by a few of its frames."""
        found = studio.foretold(studio.state(project).document, writer_of(body.writer), body.sending)
        return ForetoldView(size=found.size, seconds=found.seconds)

    @router.post("/api/projects/{project}/bundle")
    def start_bundle(project: str, body: BundleRequest) -> JobView:
        """Writes the project and all that it needs to one file."""
        return queued(desk.work, studio, project, "bundle", body)

    @router.post("/api/projects/{project}/stills")
    def start_stills(project: str, body: StillsRequest) -> JobView:
        """Writes all flagged frames, or all that was cut out, as PNG in a zip archive."""
        return queued(desk.work, studio, project, "stills", body)

    @router.post("/api/projects/{project}/timeline.otioz")
    def start_timeline(project: str) -> JobView:
        """Writes the piece as an OpenTimelineIO file with its footage in it."""
        return queued(desk.work, studio, project, "timeline", TimelineRequest())

    @router.post("/api/sending")
    def hold(body: HoldRequest) -> None:
        """Holds up all that is sent, or lets it go on."""
        desk.work.hold("export", body.held)

    @router.post("/api/jobs/{job}/first")
    def first(job: str) -> JobView:
        """Has a job done before all others that wait."""
        return desk.work.first(job_of(job).id)

    @router.get("/api/projects/{project}/timeline.otio")
    def timeline(project: str) -> Response:
        """The piece as an OpenTimelineIO file, footage referenced where it lies."""
        document = studio.state(project).document
        data = timeline_of(studio, document).to_json_string(indent=1).encode()
        return download(data, "application/json", f"{document.project.name}.otio")

    @router.post("/api/projects/{project}/timeline")
    def take_over(project: str, body: TimelineFile) -> TimelineView:
        """Part of a timeline that can be taken over, as edits that are not made yet, and what cannot, in sentences."""
        read = read_timeline(studio.state(project).document, body.text, body.name)
        return TimelineView(edits=[e.model_dump(mode="json") for e in read.edits], left=read.left)

    @router.post("/api/bundles")
    async def open_bundle(request: Request, name: str = Query(max_length=300)) -> OpenedView:
        """Opens a bundle or a timeline that was collected, the request's body, as a project of its own."""
        # Of the files that a plain timeline names, only those are taken that are this data folder's.
        shown = file_name(name, "Bundle")
        await room_for(studio, request, shown)
        with studio.files.incoming() as coming:
            async for block in blocks(request, shown, "a bundle", MAX_UPLOAD):
                await run_in_threadpool(coming.write, block)
            await run_in_threadpool(coming.flush)
            made, left = await run_in_threadpool(open_handed, studio, coming.path, shown, studio.folder / "files")
        return OpenedView(project=made, left=left)

    @router.get("/api/projects/{project}/jobs")
    def list_jobs(project: str) -> list[JobView]:
        studio.projects.revision(project)  # there is such a project
        return [desk.work.view(j) for j in studio.jobs.of_project(project)]

    @router.post("/api/jobs/{job}/cancel")
    def cancel(job: str) -> JobView:
        return desk.work.cancel(job_of(job).id)

    @router.get("/api/jobs/{job}/file", response_class=FileResponse)
    def exported(job: str, n: int = Query(0, ge=0)) -> FileResponse:
        """The file that an export wrote, or the n-th of several."""
        found = job_of(job)
        first = found.result or {}
        result: dict[str, Any] = next(iter([first, *first.get("also", [])][n : n + 1]), {})
        path = studio.exports / str(result.get("file", ""))
        if found.kind != "export" or found.state != "done" or not path.is_file():
            raise Missing("That file is no longer there. Send the piece again.")
        return FileResponse(path, media_type=result.get("type", "video/mp4"), filename=path.name)

    return router
