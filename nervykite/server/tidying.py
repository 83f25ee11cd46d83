"""Gives room back in quiet times: at the start, when the last job is over, and now and then."""

import logging
import threading
from collections.abc import Callable

log = logging.getLogger("nervykite")
EVERY = 600.0
"""Seconds between two looks, if nothing else gives occasion."""
SOON = 2.0
"""Seconds after an occasion: what comes next may come at once."""


class Tidying:
    """Calls `tidy` in a thread of its own while `busy` says that nothing is being done."""

    def __init__(self, tidy: Callable[[], object], busy: Callable[[], bool]) -> None:
        self._tidy, self._busy = tidy, busy
        self._due, self._over = threading.Event(), threading.Event()
        self._thread: threading.Thread | None = None

    def start(self) -> None:
        """Begins, with a first look soon."""
        self._over.clear()
        self._due.set()
        self._thread = threading.Thread(target=self._run, name="tidying", daemon=True)
        self._thread.start()

    def soon(self) -> None:
        """There may be something to give back."""
        self._due.set()

    def close(self) -> None:
        """Ends; what is being tidied is finished first."""
        self._over.set()
        self._due.set()
        if self._thread is not None:
            self._thread.join()

    def _run(self) -> None:
        while not self._over.is_set():
            self._due.wait(EVERY)
            self._due.clear()
            if self._over.wait(SOON):
                return
            if self._busy():
                continue  # it is told again when that is over
            try:
                self._tidy()
            except Exception:
                log.exception("room could not be given back")
