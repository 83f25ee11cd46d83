"""The time until the server answers others while a large file comes in."""

import http.client
import threading
import time
from pathlib import Path
from tempfile import TemporaryDirectory
from urllib.parse import urlsplit

import numpy as np

from nervykite.studio import Studio
from nervykite.studio.importing import import_shot

from . import Result
from .broken import whole_files
from .crash import Served

GIGABYTES = 3
PAUSE = 0.03
"""Seconds between two questions."""


def measure() -> Result:
    """The longest of a hundred answers, for most: while three gigabytes come in, over the same in quiet."""
    with TemporaryDirectory() as folder:
        data = Path(folder) / "data"
        studio = Studio(data)
        project = studio.projects.new("Upload").document.project.id
        clip = whole_files(Path(folder))[0]
        import_shot(studio, project, studio.keep_file(clip), clip.name)
        studio.close()
        server = Served(data)
        try:
            quiet = _waits(server, project, lambda: False, 3.0)
            took: list[float] = []
            thread = threading.Thread(target=lambda: took.append(_send(server, project)))
            thread.start()
            busy = _waits(server, project, thread.is_alive, 0.0)
            thread.join()
        finally:
            server.kill()
    figures = {
        "quiet, median ms": float(np.median(quiet)),
        "quiet, 99 of 100 within ms": float(np.percentile(quiet, 99)),
        "while it comes in, median ms": float(np.median(busy)),
        "while it comes in, 99 of 100 within ms": float(np.percentile(busy, 99)),
        "while it comes in, longest ms": float(np.max(busy)),
        "answers meanwhile": len(busy),
        "MB a second": GIGABYTES * 1e3 / took[0],
    }
    ratio = float(np.percentile(busy, 99) / np.percentile(quiet, 99))
    return Result("upload", ratio, "every answer under 200 ms while it comes in", figures)


def _waits(server: Served, project: str, going_on, seconds: float) -> list[float]:
    """Milliseconds that answers take, one after the other, while something goes on and for so many seconds."""
    until = time.monotonic() + seconds
    waits = []
    while going_on() or time.monotonic() < until:
        for path in (f"projects/{project}", f"projects/{project}/keys"):
            begun = time.perf_counter()
            server.call(path)
            waits.append((time.perf_counter() - begun) * 1e3)
        time.sleep(PAUSE)
    return waits


def _send(server: Served, project: str) -> float:
    """Sends a file of nothing in particular; how many seconds that takes."""
    part = np.random.default_rng(1).bytes(1 << 20)
    count = GIGABYTES * 1000
    begun = time.monotonic()
    wire = http.client.HTTPConnection(urlsplit(server.url).netloc, timeout=600)
    wire.putrequest("POST", f"/api/projects/{project}/shots?name=long.mp4")
    wire.putheader("Content-Length", str(count << 20))
    wire.endheaders()
    for _ in range(count):
        wire.send(part)
    answer = wire.getresponse()
    answer.read()
    if answer.status != 200:
        raise RuntimeError(f"the file was refused with {answer.status}")
    return time.monotonic() - begun
