"""Sending, and jobs of all kinds."""

from fastapi import APIRouter
from fastapi.responses import FileResponse

from ...core.errors import Refusal
from ...core.send.writer import Writer
from ...store.jobs import Job
from ...store.projects import Missing
from ..answers import bounded_router
from ..desk import Desk
from ..requests import ExportRequest
from ..work import JobView


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio = bounded_router(), desk.studio

    @router.post("/api/projects/{project}/exports")
    def start_export(project: str, body: ExportRequest) -> JobView:
        document = studio.state(project).document
        try:
            writer: Writer = Writer.family.parse(body.writer)
        except ValueError as error:
            raise Refusal(f"{str(error)[:1].upper()}{str(error)[1:]}.") from error

        def task(progress) -> dict:
            out = studio.export_path(document, writer.suffix)
            studio.export(document, out, writer, body.range, progress)
            return {"file": out.name, "size": out.stat().st_size, "type": writer.media_type}

        return desk.work.start("export", project, f"Send {document.project.name}", task)

    @router.get("/api/projects/{project}/jobs")
    def list_jobs(project: str) -> list[JobView]:
        studio.projects.revision(project)  # there is such a project
        return [desk.work.view(j) for j in studio.jobs.of_project(project)]

    def job_of(job: str) -> Job:
        try:
            return studio.jobs.get(job)
        except KeyError as error:
            raise Missing("There is no such job.") from error

    @router.post("/api/jobs/{job}/cancel")
    def cancel(job: str) -> JobView:
        return desk.work.cancel(job_of(job).id)

    @router.get("/api/jobs/{job}/file", response_class=FileResponse)
    def exported(job: str) -> FileResponse:
        """The file that an export wrote."""
        found = job_of(job)
        result = found.result or {}
        path = studio.exports / str(result.get("file", ""))
        if found.kind != "export" or found.state != "done" or not path.is_file():
            raise Missing("That file is no longer there. Send the piece again.")
        return FileResponse(path, media_type=result.get("type", "video/mp4"), filename=path.name)

    return router
