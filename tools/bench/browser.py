"""The page as somebody sees it: the program over a data folder, and a browser at it."""

import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from socket import socket
from typing import Any

from nervykite.core.common.errors import Refusal

CHROMIUM = Path("/usr/bin/chromium")
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


def wait_for(url: str) -> None:
    """Waits until a server answers: one that makes the demo first takes half a minute and more."""
    for _ in range(1200):
        try:
            urllib.request.urlopen(url, timeout=1).close()
            return
        except OSError:
            time.sleep(0.1)
    raise Refusal("The server did not start.")


@contextmanager
def serving(folder: Path) -> Iterator[str]:
    """The program over a data folder, in a process of its own, by its address."""
    with socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    command = [sys.executable, "-m", "nervykite.cli", "serve", "--data", str(folder), "--port", str(port)]
    server = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    try:
        wait_for(f"http://127.0.0.1:{port}/")
        yield f"http://127.0.0.1:{port}/"
    finally:
        server.terminate()
        server.wait()


def needs_browser() -> None:
    """Raises Refusal if there is nothing to look at the page with."""
    try:
        import playwright.sync_api  # noqa: F401
    except ImportError as error:
        raise Refusal("This measurement drives a browser: it needs the packages of the tests (make test).") from error
    if not CHROMIUM.is_file():
        raise Refusal(f"This measurement needs a browser at {CHROMIUM}: install chromium, or run make test once.")


@contextmanager
def looked_at(url: str) -> Iterator[Any]:
    """A page of a browser, 1280×800, at an address. Raises Refusal if there is no browser."""
    needs_browser()
    from playwright.sync_api import sync_playwright

    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(url)
        yield page
        browser.close()
