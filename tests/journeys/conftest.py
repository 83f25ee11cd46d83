"""A real server with the demo project, and a real browser to drive its page."""

import atexit
import itertools
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import pytest
from playwright.sync_api import Response, expect

from nervykite.core.piece.model import Document, Project
from nervykite.demo.demo_project import add_demo
from nervykite.demo.seen_shipped import put_seen
from nervykite.studio import Studio
from nervykite.studio.importing import import_shot

from ..shared import made_once, own_copy
from .driver import CLIP
from .house import House
from .nursery import Nursery

FLAGS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--autoplay-policy=no-user-gesture-required",
]  # fmt: skip

PORTS = itertools.count()
"""Ports of servers that are processes of their own."""
TILES = ["*/fitting/*", "*/samples/*", "*/thumbnail.png*", "*/poster.jpg*", "*/rehearsal*"]
"""Small pictures of what could be chosen."""
LARGE = 3_000_000_000
"""With so many bytes a process of servers gives way to a new one."""
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


@cache
def house() -> House:
    """Where the servers of this worker run, until the tests end."""
    made = House()
    atexit.register(made.close)
    return made


@dataclass(frozen=True)
class Guest:
    """A server in the house: the whole program over a data folder, but for its process."""

    data: Path
    port: int

    @property
    def url(self) -> str:
        """Where its page is."""
        return f"http://127.0.0.1:{self.port}/"


@pytest.fixture(scope="session")
def port() -> int:
    """Where all servers in the house listen, one after the other: the browser knows the page already."""
    return free_port()


@pytest.fixture
def serving(port, tmp_path):
    """Serves a copy of a data folder until the test has ended. Shots are looked through only where a test asks."""

    def serve(folder: Path) -> Guest:
        guest = Guest(own_copy(folder, tmp_path / "data"), port)
        house().serve(guest.data, port)
        return guest

    yield serve
    house().rest()
    if house().size > LARGE:
        house().close()
        house.cache_clear()


def film(studio: Studio, name: str, *clips: Path) -> str:
    """Makes a project of that name, in which some of the demo's clips lie on the ground, looked through; its id."""
    made = studio.projects.create(Document(project=Project(name=name))).document.project.id
    for clip in clips:
        shot, _ = import_shot(studio, made, studio.keep_file(clip), clip.name)
        put_seen(studio, shot.id, clip.stem)
    return made


def filmed(factory: pytest.TempPathFactory, name: str, clip: Path) -> Path:
    """A data folder with such a project alone."""

    def make(folder: Path) -> None:
        studio = Studio(folder, watches=False)
        film(studio, name, clip)
        studio.close()

    return made_once(factory, f"filmed-{name}", make)


@pytest.fixture(scope="session")
def leaps(tmp_path_factory):
    """A data folder with the first scene of the demo project: four cutouts over the Dune run."""

    def make(folder: Path) -> None:
        studio = Studio(folder, watches=False)
        add_demo(studio, scenes=1)
        studio.close()

    return made_once(tmp_path_factory, "leaps", make)


@pytest.fixture
def server(leaps, serving):
    """A server with the first scene of the demo project."""
    return serving(leaps)


@pytest.fixture
def process(leaps, tmp_path):
    """The same, in a process of its own, which can be killed; it looks shots through as it does for everybody."""
    server = Server(own_copy(leaps, tmp_path / "data"))
    yield server
    server.kill()


@pytest.fixture
def fresh(tmp_path):
    """A server as it is the first time, with an empty data folder and a process of its own."""
    server = Server(tmp_path / "data")
    yield server
    server.kill()


@pytest.fixture
def imported(tmp_path_factory, serving):
    """A server with a project, Dune, in which the Dune run lies on the ground."""
    return serving(filmed(tmp_path_factory, "Dune", CLIP))


@pytest.fixture(scope="session")
def _kept(browser, browser_context_args):
    """The browser's memory: one for all tests of a worker, so that the page's code is read once."""
    context = browser.new_context(**browser_context_args)
    yield context
    context.close()


@pytest.fixture
def context(_kept, port):
    """The browser as somebody has it who was never here: nothing remembered but the page's code."""
    page = _kept.new_page()
    session = _kept.new_cdp_session(page)
    what = {"origin": f"http://127.0.0.1:{port}", "storageTypes": "local_storage,session_storage,indexeddb"}
    session.send("Storage.clearDataForOrigin", what)
    page.close()
    yield _kept
    for page in _kept.pages:
        page.close()


@pytest.fixture
def page(context, request):
    """A page that fails the test on any error of its own.

    But for tests that are marked with `everything` it makes no pictures ready ahead, as a page in a tab behind others,
    and its tiles stay empty: both are drawn anew with each edit, which takes longer than the edit.
    """
    page = context.new_page()
    if request.node.get_closest_marker("everything") is None:
        page.add_init_script("Object.defineProperty(document, 'hidden', { get: () => true })")
        context.new_cdp_session(page).send("Network.setBlockedURLs", {"urls": TILES})
    troubles = []
    page.on("pageerror", lambda error: troubles.append(str(error)))
    page.on("console", lambda m: troubles.append(m.text) if m.type == "error" and not _network(m.text) else None)
    page.on("request", lambda r: troubles.append(r.url) if not _own(r.url) else None)
    # What somebody does may be refused; what the page asks for by itself is there.
    page.on("response", lambda r: troubles.append(f"{r.status} {r.url}") if _asked_in_vain(r) else None)
    yield page
    assert troubles == []


def _network(text: str) -> bool:
    """Whether it only says that the server was not there."""
    return "ERR_CONNECTION_REFUSED" in text or "Failed to load" in text


def _asked_in_vain(response: Response) -> bool:
    # A project that cannot be shown is asked for all the same: what is stored of it is known by that.
    return response.status >= 400 and response.status != 422 and response.request.method == "GET"


def _own(url: str) -> bool:
    return url.startswith(("http://127.0.0.1:", "ws://127.0.0.1:", "blob:", "data:"))
