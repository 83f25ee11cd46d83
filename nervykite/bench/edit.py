"""From a pointer that moves a cutout to the new preview frame on the page, in a real browser.

Needs the packages of the tests and Chromium.
"""

import subprocess
import sys
import time
import urllib.request
from pathlib import Path
from socket import socket
from tempfile import TemporaryDirectory
from time import perf_counter

import numpy as np

from ..core.errors import Refusal
from ..core.picture.evaluate import Evaluation
from ..demo.project import NAME, add_demo
from ..server.pictures import Pictures
from ..studio import Studio
from . import Result
from .material import median_ms

MOVES = 60
CHROMIUM = "/usr/bin/chromium"
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]

# Times from each pointer movement to the next drawn frame, taken inside the page.
WATCH = """
() => {
  const canvas = document.querySelector('[data-testid=picture] canvas')
  window.waits = []
  let moved = null
  window.addEventListener('pointermove', (e) => { if (e.buttons) moved ??= performance.now() }, true)
  new MutationObserver(() => {
    if (moved !== null && canvas.dataset.draft === 'yes') { window.waits.push(performance.now() - moved); moved = null }
  }).observe(canvas, { attributes: true, attributeFilter: ['data-drawn'] })
}
"""


def measure() -> Result:
    """Milliseconds a movement; the ratio is that over drawing and packing the same frames without a browser."""
    try:
        from playwright.sync_api import sync_playwright
    except ImportError as error:
        raise Refusal("This measurement drives a browser: it needs the packages of the tests (make test).") from error
    with TemporaryDirectory() as folder:
        studio = Studio(Path(folder))
        add_demo(studio, scenes=1)
        baseline = _without_browser(studio)
        studio.close()
        with socket() as probe:
            probe.bind(("127.0.0.1", 0))
            port = probe.getsockname()[1]
        server = subprocess.Popen(
            [sys.executable, "-m", "nervykite.cli", "serve", "--data", folder, "--port", str(port)],
            stdout=subprocess.DEVNULL,
        )
        try:
            wait_for(f"http://127.0.0.1:{port}/")
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
                page = browser.new_page(viewport={"width": 1280, "height": 800})
                page.goto(f"http://127.0.0.1:{port}/")
                waits = waits_on(page)
                browser.close()
        finally:
            server.terminate()
            server.wait()
    figures = {
        "movement to drawn frame, ms": float(np.median(waits)),
        "95 of 100 under, ms": float(np.quantile(waits, 0.95)),
        "movements": len(waits),
        "baseline: drawing and packing alone, ms": baseline,
    }
    return Result("edit", float(np.median(waits)) / baseline, "median under 80 ms at 540×960", figures)


def waits_on(page) -> list[float]:
    """Drags a cutout of the demo project about on an open page; the waits in milliseconds."""
    page.get_by_role("button", name=f"Open {NAME}", exact=True).click()
    page.locator('[data-layer="Leap 2"] [data-span]').click()
    page.keyboard.press("Home")
    for key in ["Shift+ArrowRight"] * 6 + ["ArrowRight"] * 4:
        page.keyboard.press(key)
    page.wait_for_selector('[data-testid=picture] canvas[data-frame="64"]')
    page.evaluate(WATCH)
    box = page.get_by_test_id("picture").bounding_box()
    x, y = box["x"] + box["width"] * 0.45, box["y"] + box["height"] * 0.52
    page.mouse.move(x, y)
    page.mouse.down()
    for n in range(MOVES):
        angle = n / 6
        page.mouse.move(x + 60 * np.sin(angle), y + 40 * np.cos(angle))
        page.wait_for_timeout(90)
    page.mouse.up()
    return page.evaluate("window.waits")


def _without_browser(studio: Studio) -> float:
    state = studio.projects.state(studio.projects.find(NAME))
    evaluation, pictures = Evaluation(state.document), Pictures(studio)
    times = []
    for frame in range(60, 90):
        draws = evaluation.at(frame)
        begun = perf_counter()
        pictures.frame(state.document, draws, (540, 960))
        times.append(perf_counter() - begun)
    return median_ms(times)


def wait_for(url: str) -> None:
    """Waits until a server answers: one that makes the demo first takes half a minute and more."""
    for _ in range(1200):
        try:
            urllib.request.urlopen(url, timeout=1).close()
            return
        except OSError:
            time.sleep(0.1)
    raise Refusal("The server did not start.")
