"""Finding out what a stranger's file holds, in a process of its own.

Libraries that read pictures, drawings, fonts and films are large; a file made for it keeps them busy for minutes, has
them take all memory, or makes them fall over. Apart, they do so by themselves: nobody else waits, and what takes too
much is ended. A process is started when it is needed, and kept for the next file.
"""

import logging
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from multiprocessing.connection import Pipe
from typing import Any, TypeVar

from ..errors import Refusal
from .quota import Bounds, Failed

log = logging.getLogger("nervykite")
T = TypeVar("T")
Report = Callable[[float], None]
LOADING = 60.0
"""Seconds in which a process is there to work, on a machine that does much else."""
__all__ = ["Apart", "Bounds", "TooMuch"]


class TooMuch(Refusal):
    """A file takes more than is given to it, or makes what reads it fall over."""


def _nobody(share: float) -> None:
    """Is told how far work is."""


class Apart:
    """Calls functions of this program in another process, one after the other. Safe for several threads.

    bounds: what each call may take
    """

    def __init__(self, bounds: Bounds | None = None) -> None:
        self.bounds = bounds or Bounds()
        self._turn = threading.Lock()
        self._child: _Child | None = None

    def call(self, function: Callable[..., T], *given: object, name: str, report: Report = _nobody) -> T:
        """Calls a function of a module apart, and returns what it returns.

        given: what it is called with, to be pickled; name: the file's, for sentences; report: is told that it goes on,
        and may raise to end it. Raises the function's Refusal; TooMuch if it takes more than its bounds, or ends in any
        other way.
        """
        with self._turn:
            child = self._child or _Child()
            self._child = None  # only what answers is used again
            try:
                answer = child.ask(function, given, self.bounds, report)
            except BaseException:
                child.end()
                raise
            if isinstance(answer, Failed) or child.asked >= self.bounds.calls:
                child.end()
            else:
                self._child = child
        if isinstance(answer, Failed):
            log.warning("%s could not be read apart (%s)%s", name, answer.why, answer.trace and ":\n" + answer.trace)
            raise TooMuch(answer.sentence(name, self.bounds))
        if isinstance(answer, Refusal):
            raise answer
        return answer

    def close(self) -> None:
        """Ends the process."""
        with self._turn:
            if self._child is not None:
                self._child.end()
            self._child = None


class _Child:
    """The other process: `__main__` is what it does."""

    def __init__(self) -> None:
        self.asked = 0
        self._line, theirs = Pipe()
        with theirs:
            self._process = subprocess.Popen(
                [sys.executable, "-m", __name__, str(theirs.fileno())],
                stdin=subprocess.DEVNULL,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
                pass_fds=[theirs.fileno()],
            )

    def ask(self, function: Callable[..., Any], given: tuple[object, ...], bounds: Bounds, report: Report) -> Any:
        """Asks a function, and returns its answer, its refusal, or why there is neither."""
        self.asked += 1
        try:
            self._line.send((function, given, bounds))
            for seconds in (LOADING, bounds.seconds):  # it says that it begins, then what came of it
                if not self._heard(seconds, report):
                    return Failed("time")
                answer = self._line.recv()
        except (EOFError, OSError):
            return Failed("fall")
        return answer

    def _heard(self, seconds: float, report: Report) -> bool:
        until = time.monotonic() + seconds
        while not self._line.poll(0.1):
            if time.monotonic() >= until:
                return False
            report(0.5)
        return True

    def end(self) -> None:
        """Ends it, whatever it is at."""
        self._line.close()
        self._process.kill()
        self._process.wait()
