"""Looking through shots in the background: one after the other, the one that is asked for first, in quiet times."""

import logging
import threading
import time
from functools import partial

from ..core.common.errors import Cancelled
from ..core.piece.model import Shot
from ..studio import Studio
from ..studio.watching import politely, unwatched, watch_shot
from .hub import Hub
from .messages import WatchedNews
from .quiet import Quiet

log = logging.getLogger("nervykite")
OFTEN = 1.0
"""Seconds from telling how far it has come to telling it again, at least."""


class Watcher:
    """Looks through shots in a thread of its own, and tells those who look at a project how far it has come."""

    def __init__(self, studio: Studio, hub: Hub, quiet: Quiet) -> None:
        self._studio, self._hub, self._quiet = studio, hub, quiet
        self._wanted: dict[str, tuple[set[str], Shot]] = {}
        self._failed: set[str] = set()
        self._changing = threading.Condition()
        self._over = False
        self._told = 0.0
        self._thread: threading.Thread | None = None

    def want(self, project: str, shot: Shot) -> None:
        """Has a shot looked through soon, unless it has been."""
        with self._changing:
            if shot.id in self._failed or self._over or not self._studio.watches:
                return
            if shot.id in self._wanted:
                self._wanted[shot.id][0].add(project)
                return
        if not unwatched(self._studio, shot):
            return
        with self._changing:
            self._wanted[shot.id] = {project}, shot
            if self._thread is None:
                self._thread = threading.Thread(target=self._run, name="watching", daemon=True)
                self._thread.start()
            self._changing.notify()

    def close(self) -> None:
        """Ends; what has been seen is kept."""
        with self._changing:
            self._over = True
            self._changing.notify()
        if self._thread is not None:
            self._thread.join()

    def _run(self) -> None:
        politely()
        while True:
            with self._changing:
                while not self._wanted and not self._over:
                    self._changing.wait()
                if self._over:
                    return
                shot = next(reversed(self._wanted.values()))[1]
            try:
                watch_shot(self._studio, shot, partial(self._tell, shot), self._give_way)
                self._tell(shot, shot.frames)
            except Cancelled:
                return
            except Exception:
                # It helps, and is not asked for: without it there are no curves, and nothing else is missing.
                log.exception("%s could not be looked through", shot.name)
                self._failed.add(shot.id)
            with self._changing:
                self._wanted.pop(shot.id, None)

    def _give_way(self) -> None:
        self._quiet.wait(lambda: self._over)
        if self._over:
            raise Cancelled

    def _tell(self, shot: Shot, past: int) -> None:
        if self._over:
            raise Cancelled
        # Of a long shot it takes a while to work out what that means: it is told less often.
        now = time.monotonic()
        if past < shot.frames and now - self._told < max(OFTEN, shot.frames / 4000):
            return
        self._told = now
        with self._changing:
            projects = self._wanted.get(shot.id, (set(), shot))[0]
        for project in list(projects):
            self._hub.tell(project, WatchedNews(shot=shot.id, past=past))
