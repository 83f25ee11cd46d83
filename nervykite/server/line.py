"""A line of work: one thing after the other, which can be held up and put into another order."""

import logging
import threading
from collections import deque
from collections.abc import Callable

log = logging.getLogger("nervykite")


class Line:
    """Does calls in a thread of its own, in their order; what waits can be put first, and all of it held up."""

    def __init__(self, name: str) -> None:
        self._waiting: deque[tuple[str, Callable[[], None]]] = deque()
        self._changed = threading.Condition()
        self._held = self._closed = False
        self._name = name
        self._thread: threading.Thread | None = None

    @property
    def held(self) -> bool:
        """True if it is held up."""
        return self._held

    def submit(self, id_: str, call: Callable[[], None]) -> None:
        """Puts a call at the end."""
        with self._changed:
            self._waiting.append((id_, call))
            if self._thread is None:
                self._thread = threading.Thread(target=self._work, name=self._name, daemon=True)
                self._thread.start()
            self._changed.notify_all()

    def put_first(self, id_: str) -> bool:
        """Has a call done next; whether it still waits."""
        with self._changed:
            found = next((one for one in self._waiting if one[0] == id_), None)
            if found is None:
                return False
            self._waiting.remove(found)
            self._waiting.appendleft(found)
            return True

    def hold(self, on: bool) -> None:
        """Holds it up, what is being done as soon as that passes, or lets it go on."""
        with self._changed:
            self._held = on
            self._changed.notify_all()

    def passes(self, stopped: threading.Event) -> None:
        """Waits while it is held up, unless what asks is stopped. To be called by what is being done, now and then."""
        with self._changed:
            while self._held and not self._closed and not stopped.is_set():
                self._changed.wait(0.2)

    def close(self) -> None:
        """Waits for what is being done, and begins nothing more."""
        with self._changed:
            self._closed = True
            self._waiting.clear()
            self._changed.notify_all()
        if self._thread is not None:
            self._thread.join()

    def _work(self) -> None:
        while True:
            with self._changed:
                while not self._closed and (self._held or not self._waiting):
                    self._changed.wait()
                if self._closed:
                    return
                _, call = self._waiting.popleft()
            try:
                call()
            except Exception:  # what comes after it is done all the same
                log.exception("something in the line of %s could not be done", self._name)
