"""Doing long work in the background: progress, estimate, cancel, and a clear end."""

import logging
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from typing import Any

from ..core.common.errors import Cancelled, Refusal
from ..store.jobs import Job, Jobs
from ..studio.job_kinds import JOBS
from ..studio.troubles import told
from .hub import Hub
from .line import Line
from .messages import JobNews, JobView

log = logging.getLogger("nervykite")
Task = Callable[[Callable[..., None]], dict[str, Any]]
"""Long work: it is given what it tells its progress, 0…1, and what it is doing, if that is told in words."""


def _nothing() -> None:
    """Does nothing."""


@dataclass
class _At:
    """A job that is not over: its line, how to stop it, whether it has begun, and what to do when it is over."""

    line: Line
    afterwards: Callable[[], None]
    begun: bool = False
    stop: threading.Event = field(default_factory=threading.Event)


class Work:
    """Runs jobs, those of one line one after the other; a task is given a function to report its progress, 0…1.

    `idle` is called whenever the last of them is over.
    """

    def __init__(self, jobs: Jobs, hub: Hub, idle: Callable[[], None] = _nothing) -> None:
        self._jobs, self._hub, self._idle = jobs, hub, idle
        self._lines = {k.line: Line(f"{k.line} job") for k in JOBS.values()}
        self._at: dict[str, _At] = {}
        self._projects: dict[str, str] = {}
        self._changing = threading.Lock()
        self._closing = False
        self._remaining: dict[str, float] = {}

    def start(
        self,
        kind: str,
        project: str,
        title: str,
        task: Task,
        afterwards: Callable[[], None] = _nothing,
        asked: dict[str, Any] | None = None,
    ) -> JobView:
        """Records and queues a job; `afterwards` is called once when it is over, whichever way it ends.

        asked: what it was asked for, if it is to be taken up again after a restart, see `take_up`
        """
        try:
            job = self._jobs.add(kind, project, title, asked)
        except BaseException:
            afterwards()
            raise
        return self.take_up(job, task, afterwards)

    def take_up(self, job: Job, task: Task, afterwards: Callable[[], None] = _nothing) -> JobView:
        """Queues a job that is recorded already."""
        with self._changing:
            line = self._lines[JOBS[job.kind].line]
            self._at[job.id] = _At(line, afterwards)
            self._projects[job.id] = job.project
        line.submit(job.id, lambda: self._run(job, task))
        return self.view(job)

    def first(self, job_id: str) -> JobView:
        """Has a job done before all others that wait; one that has begun stays as it is. Raises KeyError."""
        job = self._jobs.get(job_id)
        self._lines[JOBS[job.kind].line].put_first(job_id)
        return self.view(job)

    def hold(self, kind: str, on: bool) -> None:
        """Holds up the line that a kind of job waits in, or lets it go on."""
        line = JOBS[kind].line
        self._lines[line].hold(on)
        with self._changing:
            there = list(self._at)
        for job in (self._jobs.get(id_) for id_ in there):
            if JOBS[job.kind].line == line:
                self._tell(job)

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
        """True if anything is being done or waits to be, for a project or for any."""
        with self._changing:
            return bool(self._at) if project is None else project in self._projects.values()

    def running(self) -> bool:
        """True if anything is being done now: what waits, or is held up, is not."""
        with self._changing:
            return any(at.begun and not at.line.held for at in self._at.values())

    def view(self, job: Job) -> JobView:
        """The job, with the estimate."""
        kind = JOBS[job.kind]
        remaining = self._remaining.get(job.id)
        held = self._lines[kind.line].held
        return JobView(**job.__dict__, remaining=remaining, edits=kind.edits, quiet=kind.quiet, held=held)

    def close(self) -> None:
        """Stops everything; what runs ends as soon as it reports again. What can be taken up again stays recorded."""
        with self._changing:
            self._closing = True
            for at in self._at.values():
                at.stop.set()
        for line in self._lines.values():
            line.close()

    def _run(self, job: Job, task: Task) -> None:
        with self._changing:
            at = self._at.get(job.id)
            if at is None or at.stop.is_set():
                return
            at.begun = True
        begun = announced = time.monotonic()
        said: str | None = None
        self._tell(self._jobs.update(job.id, "running"))

        line = self._lines[JOBS[job.kind].line]

        def report(share: float, says: str | None = None) -> None:
            nonlocal announced, begun, said
            if line.held:
                since = time.monotonic()
                line.passes(at.stop)
                begun += time.monotonic() - since
            if at.stop.is_set():
                raise Cancelled
            now = time.monotonic()
            if now - announced > 0.15 or says != said:
                announced, said = now, says
                if share > 0:
                    self._remaining[job.id] = (now - begun) * (1 - share) / share
                self._tell(self._jobs.update(job.id, "running", share, says))

        try:
            result = task(report)
        except Cancelled:
            if self._closing and job.asked is not None:
                self._jobs.update(job.id, "waiting")
            else:
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
        self._hub.tell(job.project, JobNews(job=self.view(job)))


class Lookahead:
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
