"""Doing long work in the background: progress, estimate, cancel, and a clear end."""

import logging
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from typing import Any

from pydantic import BaseModel

from ..core.errors import Cancelled, Refusal
from ..store.jobs import Job, Jobs
from ..studio.jobs import JOBS
from ..studio.troubles import told
from .hub import Hub

log = logging.getLogger("nervykite")
Task = Callable[[Callable[[float], None]], dict[str, Any]]


class JobView(BaseModel):
    """A job as the page sees it; `remaining` is an estimate in seconds.

    `edits` says that it may change the document while it runs, `quiet` that the place it was started from tells how it
    ended.
    """

    id: str
    kind: str
    project: str
    title: str
    state: str
    progress: float
    message: str | None
    result: dict[str, Any] | None
    made: str
    remaining: float | None = None
    edits: bool = False
    quiet: bool = False


def _nothing() -> None:
    """Does nothing."""


@dataclass
class _At:
    """A job that is not over: how to stop it, whether it has begun, and what to do when it is over."""

    afterwards: Callable[[], None]
    begun: bool = False
    stop: threading.Event = field(default_factory=threading.Event)


class Work:
    """Runs jobs, those of one line one after the other; a task is given a function to report its progress, 0…1.

    `idle` is called whenever the last of them is over.
    """

    def __init__(self, jobs: Jobs, hub: Hub, idle: Callable[[], None] = _nothing) -> None:
        self._jobs, self._hub, self._idle = jobs, hub, idle
        self._lines = {k.line: ThreadPoolExecutor(1, f"{k.line} job") for k in JOBS.values()}
        self._at: dict[str, _At] = {}
        self._projects: dict[str, str] = {}
        self._changing = threading.Lock()
        self._remaining: dict[str, float] = {}

    def start(
        self, kind: str, project: str, title: str, task: Task, afterwards: Callable[[], None] = _nothing
    ) -> JobView:
        """Records and queues a job; `afterwards` is called once when it is over, whichever way it ends."""
        try:
            job = self._jobs.add(kind, project, title)
        except BaseException:
            afterwards()
            raise
        with self._changing:
            self._at[job.id] = _At(afterwards)
            self._projects[job.id] = project
        self._lines[JOBS[kind].line].submit(self._run, job, task)
        return self.view(job)

    def cancel(self, job_id: str) -> JobView:
        """Asks a job to stop; one that is over stays as it is. Raises KeyError."""
        with self._changing:
            at = self._at.get(job_id)
            if at is not None:
                at.stop.set()
        if at is not None and not at.begun:
            return self._end(self._jobs.get(job_id), "cancelled", "Cancelled before it began.")
        return self.view(self._jobs.get(job_id))

    def busy(self, project: str | None = None) -> bool:
        """Whether anything is being done or waits to be, for a project or for any."""
        with self._changing:
            return bool(self._at) if project is None else project in self._projects.values()

    def view(self, job: Job) -> JobView:
        """The job, with the estimate."""
        kind = JOBS[job.kind]
        remaining = self._remaining.get(job.id)
        return JobView(**job.__dict__, remaining=remaining, edits=kind.edits, quiet=kind.quiet)

    def close(self) -> None:
        """Stops everything; what runs ends as soon as it reports again."""
        with self._changing:
            for at in self._at.values():
                at.stop.set()
        for line in self._lines.values():
            line.shutdown(cancel_futures=True)

    def _run(self, job: Job, task: Task) -> None:
        with self._changing:
            at = self._at.get(job.id)
            if at is None or at.stop.is_set():
                return
            at.begun = True
        begun = announced = time.monotonic()
        self._tell(self._jobs.update(job.id, "running"))

        def report(share: float) -> None:
            nonlocal announced
            if at.stop.is_set():
                raise Cancelled
            now = time.monotonic()
            if now - announced > 0.15:
                announced = now
                if share > 0:
                    self._remaining[job.id] = (now - begun) * (1 - share) / share
                self._tell(self._jobs.update(job.id, "running", share))

        try:
            result = task(report)
        except Cancelled:
            self._end(job, "cancelled", "Cancelled.")
        except Refusal as refusal:
            self._end(job, "failed", str(refusal))
        except Exception as error:
            log.exception("%s failed", job.title)
            self._end(job, "failed", told(error, job.title))
        else:
            self._end(job, "done", None, result)

    def _end(self, job: Job, state, message: str | None, result: dict[str, Any] | None = None) -> JobView:
        with self._changing:
            at = self._at.pop(job.id, None)
            self._projects.pop(job.id, None)
            over = not self._at
        self._remaining.pop(job.id, None)
        if at is None:  # it was cancelled in the very moment in which it ended
            return self.view(self._jobs.get(job.id))
        at.afterwards()
        ended = self._jobs.update(job.id, state, 1.0 if state == "done" else 0.0, message, result)
        self._tell(ended)
        if over:
            self._idle()
        return self.view(ended)

    def _tell(self, job: Job) -> None:
        self._hub.tell(job.project, {"type": "job", "job": self.view(job).model_dump()})


class Ahead:
    """Does what may be asked for soon: always the newest such thing, after the one that it is at."""

    def __init__(self) -> None:
        self._pool = ThreadPoolExecutor(1, "ahead")
        self._next: Future | None = None

    def start(self, task: Callable[[], None]) -> None:
        """Begins with a task as soon as it can, unless a newer one comes first."""
        if self._next is not None:
            self._next.cancel()
        self._next = self._pool.submit(self._run, task)

    def close(self) -> None:
        """Waits for what it is at, and begins nothing more."""
        self._pool.shutdown(cancel_futures=True)

    def _run(self, task: Callable[[], None]) -> None:
        try:
            task()
        except Refusal:
            pass  # who asks for it in earnest is told
        except Exception:
            log.exception("something could not be done ahead")
