"""Order of who comes first: a hand on the page, playing, what is being made. What can wait waits for a quiet time."""

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

HELD = 0.7
"""For so many seconds what can wait is held up once somebody has done something; pages say so more often than that."""
NAP = 0.02
"""Seconds between two looks whether it may go on."""
LATEST = 0.4
"""For so many seconds a small picture waits, at most, for frames that are being drawn."""


class Quiet:
    """Holds up what can wait while somebody is at work, frames are drawn, or `busy` says that something is being made.

    Small pictures, which a page asks for by the dozen, are made one at a time, and after the frames of the piece.
    """

    def __init__(self, busy: Callable[[], bool]) -> None:
        self._busy = busy
        self._until = 0.0
        self._frames = 0
        self._counting, self._small = threading.Lock(), threading.Lock()

    def hold(self, seconds: float = HELD) -> None:
        """Somebody is at work now: nothing that can wait goes on for a while."""
        self._until = max(self._until, time.monotonic() + seconds)

    def wait(self, over: Callable[[], bool]) -> None:
        """Returns once it is quiet, or as soon as `over` says that nothing is to go on at all."""
        while not over() and (self._frames or time.monotonic() < self._until or self._busy()):
            time.sleep(NAP)

    @contextmanager
    def frame(self) -> Iterator[None]:
        """A frame of the piece is being drawn."""
        with self._counting:
            self._frames += 1
        try:
            yield
        finally:
            with self._counting:
                self._frames -= 1

    @contextmanager
    def small(self) -> Iterator[None]:
        """A small picture is made, once it is its turn."""
        with self._small:
            latest = time.monotonic() + LATEST
            while self._frames and time.monotonic() < latest:
                time.sleep(NAP / 4)
            yield
