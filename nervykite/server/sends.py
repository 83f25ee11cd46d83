"""Sending, as jobs: a file of some format, a bundle, or stills."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from pydantic import BaseModel

from ..core.draw.send.export import Output
from ..core.draw.send.writer import writer_of
from ..core.piece.model import Document
from ..core.piece.timeline.clock import timecode
from ..store.jobs import Job
from ..studio import Studio
from ..studio.bundle import BUNDLE, write_bundle
from ..studio.stills_archive import write_stills
from ..studio.timelines import write_timeline
from .requests import BundleRequest, ExportRequest, StillsRequest, TimelineRequest
from .work import JobView, Task, Work


def queued(work: Work, studio: Studio, project: str, what: str, body: BaseModel) -> JobView:
    """Begins to send a project, as it is now. Raises Refusal."""
    document, (title, _, make) = studio.state(project).document, SENDS[what]
    task = make(studio, document, body)
    asked = {"what": what} | body.model_dump(mode="json")
    return work.start("export", project, f"{title} {document.project.name}", task, asked=asked)


def sending_again(studio: Studio, job: Job) -> Task:
    """The job that does once more what was broken off, of the piece as it is now."""

    def task(progress) -> dict[str, Any]:
        asked = dict(job.asked or {})
        _, form, make = SENDS[asked.pop("what")]
        return make(studio, studio.state(job.project).document, form.model_validate(asked))(progress)

    return task


def _exported(studio: Studio, document: Document, body: ExportRequest) -> Task:
    wanted = [(writer_of(one.writer), one.sending) for one in (body, *body.also)]

    def task(progress) -> dict[str, Any]:
        outputs, told = list[Output](), list[dict[str, Any]]()
        for writer, sending in wanted:
            first = sending.span[0] if sending.span else 0
            at = timecode(first, document.project.rate).replace(":", "-") if writer.single else ""
            path = studio.export_path(document, writer.suffix, at, [o.path for o in outputs])
            outputs.append(Output(path, writer, sending))
            told.append({"first": first, "rate": float(sending.rate or document.project.rate)})
        studio.export(document, *outputs, progress=progress)
        sent = [_told(o.path, o.writer.media_type, **more) for o, more in zip(outputs, told, strict=True)]
        return {**sent[0], "also": sent[1:]}

    return task


def _bundled(studio: Studio, document: Document, body: BundleRequest) -> Task:
    def task(progress) -> dict[str, Any]:
        out = studio.export_path(document, BUNDLE)
        write_bundle(studio, document, out, body.unused, progress)
        return _told(out, "application/zip")

    return task


def _stilled(studio: Studio, document: Document, body: StillsRequest) -> Task:
    def task(progress) -> dict[str, Any]:
        out = studio.export_path(document, ".zip", body.which)
        count = write_stills(studio, document, body.which, out, progress)
        return _told(out, "application/zip", stills=count)

    return task


def _laid_out(studio: Studio, document: Document, body: TimelineRequest) -> Task:
    def task(progress) -> dict[str, Any]:
        out = studio.export_path(document, ".otioz")
        write_timeline(studio, document, out, progress)
        return _told(out, "application/zip")

    return task


def _told(out: Path, kind: str, **more: Any) -> dict[str, Any]:
    return {"file": out.name, "path": str(out), "size": out.stat().st_size, "type": kind, **more}


SENDS: dict[str, tuple[str, type[BaseModel], Callable[[Studio, Document, Any], Task]]] = {
    "export": ("Send", ExportRequest, _exported),
    "bundle": ("Bundle of", BundleRequest, _bundled),
    "stills": ("Stills of", StillsRequest, _stilled),
    "timeline": ("Timeline of", TimelineRequest, _laid_out),
}
"""What can be sent: what it is called, what it is asked for by, and what does it."""
