"""Gets ready what is going to be needed: compiled kernels while the list of projects is looked at, then the newest
projects themselves, and the first seconds of one that is opened. In a thread of its own, out of the way.
"""

import logging
import threading
from collections.abc import Callable

from ..core.common.errors import Refusal
from ..core.craft.synthesis.sample_rate import RATE
from ..core.warm import drawing
from ..store.projects import State
from ..studio import Studio
from ..studio.watching import politely
from .catalogue import catalogue
from .pictures import Pictures
from .quiet import Quiet

log = logging.getLogger("nervykite")
NEWEST = 2
"""So many projects are made ready before anybody opens one, the newest for its first seconds, others for a frame."""
LONG = 960
"""The longer side of the page's picture, in pixels."""
SECONDS, STEP = 4.0, 5
"""Of so many seconds from where a project begins, every so manyth frame is drawn: the frames between show the same."""


class Warming:
    """Makes projects ready, the one that was opened last first."""

    def __init__(self, studio: Studio, pictures: Pictures, view: Callable[[State], object], quiet: Quiet) -> None:
        self._studio, self._pictures, self._view, self._quiet = studio, pictures, view, quiet
        self._wanted: str | None = None
        self._changing = threading.Condition()
        self._over = False
        self._thread: threading.Thread | None = None

    def start(self) -> None:
        """Begins with what all projects need."""
        self._thread = threading.Thread(target=self._run, name="warming", daemon=True)
        self._thread.start()

    def close(self) -> None:
        """Ends; nothing is lost by it."""
        with self._changing:
            self._over = True
            self._changing.notify()
        if self._thread is not None:
            self._thread.join()

    def opened(self, project: str) -> None:
        """Somebody has opened a project: its first seconds come next."""
        with self._changing:
            self._wanted = project
            self._changing.notify()

    def _run(self) -> None:
        politely()
        drawing()
        catalogue()
        for n, entry in enumerate(self._studio.projects.list()[:NEWEST]):
            if not self._over:
                self._safely(entry.id, 0.0 if n else SECONDS)
        while True:
            with self._changing:
                while self._wanted is None and not self._over:
                    self._changing.wait()
                if self._over or self._wanted is None:
                    return
                project, self._wanted = self._wanted, None
            self._safely(project, SECONDS)

    def _safely(self, project: str, seconds: float) -> None:
        try:
            self._make_ready(project, seconds)
        except Refusal:
            pass  # who opens it is told
        except Exception:
            log.exception("project %s could not be made ready", project)

    def _make_ready(self, project: str, seconds: float) -> None:
        state = self._studio.state(project)
        self._view(state)
        document, evaluation = state.document, self._studio.evaluation(state)
        shape = document.project
        begin = shape.loop[0] if shape.loop else 0
        past = min(evaluation.timeline.length, begin + 1 + round(seconds * float(shape.rate)))
        fit = min(1.0, LONG / max(shape.width, shape.height))
        size = round(shape.width * fit / 2) * 2, round(shape.height * fit / 2) * 2
        for frame in range(begin, past, STEP):
            self._quiet.wait(lambda: self._over or self._wanted is not None)
            if self._over or self._wanted is not None:
                return
            self._pictures.frame(document, evaluation.at(frame), size)
        self._studio.master(evaluation.timeline).samples(0, RATE)
