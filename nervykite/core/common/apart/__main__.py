"""The process apart: is told over its line what to call, and answers. It ends with the line."""

import contextlib
import pickle
import resource
import sys
import time
import traceback
from collections.abc import Callable, Iterator
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from ..errors import Refusal
from .quota import Bounds, Failed

STATM = Path("/proc/self/statm")
"""Where Linux says how much memory a process has, in pages (proc(5))."""


def serve(line: Connection) -> None:
    """Answers calls until nobody asks any more."""
    with contextlib.suppress(EOFError, OSError):
        while True:
            function, given, bounds = line.recv()
            line.send(None)
            line.send_bytes(_answer(function, given, bounds))


def _answer(function: Callable[..., Any], given: tuple[object, ...], bounds: Bounds) -> bytes:
    """The answer or refusal of a function, pickled, or the reason why there is neither."""
    try:
        with _within(bounds):
            packed = pickle.dumps(function(*given), pickle.HIGHEST_PROTOCOL)
        return packed if len(packed) <= bounds.answer else pickle.dumps(Failed("room"))
    except Refusal as refusal:
        return pickle.dumps(Refusal(str(refusal)))
    except MemoryError:
        return pickle.dumps(Failed("room"))
    except Exception:
        return pickle.dumps(Failed("fall", traceback.format_exc()))


@contextlib.contextmanager
def _within(bounds: Bounds) -> Iterator[None]:
    """Bounds memory, and processor time: should whoever asked be gone, what was asked does not go on for ever."""
    most = resource.getrlimit(resource.RLIMIT_AS)
    time_soft, time_hard = resource.getrlimit(resource.RLIMIT_CPU)
    with contextlib.suppress(OSError, ValueError):
        has = int(STATM.read_text().split()[0]) * resource.getpagesize()
        resource.setrlimit(resource.RLIMIT_AS, (has + bounds.memory, most[1]))
    with contextlib.suppress(OSError, ValueError):
        resource.setrlimit(resource.RLIMIT_CPU, (int(time.process_time() + 4 * bounds.seconds) + 1, time_hard))
    try:
        yield
    finally:
        resource.setrlimit(resource.RLIMIT_AS, most)
        resource.setrlimit(resource.RLIMIT_CPU, (time_soft, time_hard))


if __name__ == "__main__":
    serve(Connection(int(sys.argv[1])))
