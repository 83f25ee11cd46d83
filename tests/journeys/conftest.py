"""A real server with the demo project, and a real browser to drive its page."""

import atexit
import itertools
import os
import shutil
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path

import pytest
from playwright.sync_api import expect

from nervykite.core.model import Document, Project
from nervykite.demo.project import add_demo
from nervykite.studio import Studio
from nervykite.studio.importing import import_shot
from nervykite.studio.watching import watch_shot

from .driver import CLIP
from .nursery import Nursery

FLAGS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--autoplay-policy=no-user-gesture-required",
]  # fmt: skip

PORTS = itertools.count()
# A page that does not answer is found out all the same; a machine with much to do is not taken for one.
expect.set_options(timeout=60_000)


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args):
    """Debian's Chromium, never one that is fetched."""
    return {**browser_type_launch_args, "executable_path": "/usr/bin/chromium", "args": FLAGS}


@pytest.fixture(scope="session")
def browser_context_args(browser_context_args):
    return {**browser_context_args, "viewport": {"width": 1280, "height": 800}}


def free_port() -> int:
    """A port that nobody uses, and that nobody else is given while the server that had it is down.

    Each worker has a thousand of its own, below those that the system gives to whoever asks.
    """
    worker = int(os.environ.get("PYTEST_XDIST_WORKER", "gw0")[2:])
    while True:
        # Other runs on this machine begin elsewhere.
        port = 20_000 + 1000 * worker + (7 * os.getppid() + next(PORTS)) % 1000
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port)):
                return port


class Server:
    """The real program, in a process of its own; `home` is a folder with a copy of it that runs instead."""

    def __init__(self, data: Path, home: Path | None = None) -> None:
        self.data, self.home = data, home
        self.port = free_port()
        self.url = f"http://127.0.0.1:{self.port}/"
        self.start()

    def start(self) -> None:
        """Starts it, and waits until it answers."""
        arguments = ["serve", "--data", str(self.data), "--port", str(self.port)]
        if self.home:
            command = [sys.executable, "-m", "nervykite.cli", *arguments]
            self.process = subprocess.Popen(command, stdout=subprocess.DEVNULL, cwd=self.home).pid
        else:
            self.process = nursery().start(arguments)
        for _ in range(600):
            try:
                urllib.request.urlopen(self.url, timeout=1).close()
                return
            except OSError:
                assert Path(f"/proc/{self.process}/exe").exists(), "the server ended"
                time.sleep(0.05)
        raise TimeoutError

    def kill(self) -> None:
        """Ends it as a crash would."""
        os.kill(self.process, signal.SIGKILL)
        if self.home:
            os.waitpid(self.process, 0)
        else:
            nursery().wait(self.process)


@cache
def nursery() -> Nursery:
    """Where servers come from, until the tests end."""
    made = Nursery()
    atexit.register(made.close)
    return made


@contextmanager
def serving(folder: Path, copy: Path) -> Iterator[Server]:
    """A server with a copy of a data folder, until it is no longer needed."""
    server = Server(Path(shutil.copytree(folder, copy)))
    try:
        yield server
    finally:
        server.kill()


def look_through(studio: Studio) -> None:
    """Does once what each server would do with its copy of the data."""
    for project in studio.projects.list():
        for shot in studio.projects.state(project.id).document.shots.values():
            watch_shot(studio, shot)


@pytest.fixture(scope="session")
def leaps(tmp_path_factory):
    """A data folder with the first scene of the demo project: four cutouts over the Dune run."""
    folder = tmp_path_factory.mktemp("leaps") / "data"
    studio = Studio(folder)
    add_demo(studio, scenes=1)
    look_through(studio)
    studio.close()
    return folder


@pytest.fixture
def server(leaps, tmp_path):
    """A server with the first scene of the demo project."""
    with serving(leaps, tmp_path / "data") as server:
        yield server


@pytest.fixture(scope="session")
def dune(tmp_path_factory):
    """A data folder with a project, Dune, in which the Dune run lies on the ground."""
    folder = tmp_path_factory.mktemp("dune") / "data"
    studio = Studio(folder)
    made = studio.projects.create(Document(project=Project(name="Dune"))).document.project.id
    import_shot(studio, made, studio.keep_file(CLIP), CLIP.name)
    look_through(studio)
    studio.close()
    return folder


@pytest.fixture
def imported(dune, tmp_path):
    """A server with that project."""
    with serving(dune, tmp_path / "dune") as server:
        yield server


@pytest.fixture
def page(page):
    """A page that fails the test on any error of its own."""
    troubles = []
    page.on("pageerror", lambda error: troubles.append(str(error)))
    page.on("console", lambda m: troubles.append(m.text) if m.type == "error" and not _network(m.text) else None)
    page.on("request", lambda r: troubles.append(r.url) if not _own(r.url) else None)
    yield page
    assert troubles == []


def _network(text: str) -> bool:
    """Whether it only says that the server was not there."""
    return "ERR_CONNECTION_REFUSED" in text or "Failed to load" in text


def _own(url: str) -> bool:
    return url.startswith(("http://127.0.0.1:", "ws://127.0.0.1:", "blob:", "data:"))
