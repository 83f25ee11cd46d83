"""The smoothness of scrolling and dragging a sky of 300 layers, in a real browser.

Needs the packages of the tests and Chromium.
"""

import numpy as np

from nervykite.core.change.edits import AddLayer, MakeGroup, OneEdit, Several
from nervykite.core.kinds.sources.plain_colour import ColourSource
from nervykite.studio import Studio

from . import Result
from .browser import looked_at, needs_browser, serving
from .material import studio_with

LAYERS = 300
FRAMES = 90

# How long the page takes from each frame to the next, until it is asked to stop.
WATCH = """
() => {
  window.gaps = []
  let last = performance.now()
  const tick = (now) => { window.gaps.push(now - last); last = now; if (window.gaps) requestAnimationFrame(tick) }
  requestAnimationFrame(tick)
}
"""
SCROLL = """
() => new Promise((done) => {
  const box = document.querySelector('[data-testid=timeline]')
  let n = 0
  const step = () => {
    box.scrollTop = (n * 37) % (box.scrollHeight - box.clientHeight)
    if (++n < 150) requestAnimationFrame(step)
    else done()
  }
  requestAnimationFrame(step)
})
"""


def measure() -> Result:
    """Milliseconds from one of the page's frames to the next; the ratio is that while dragging over that at rest."""
    needs_browser()
    with studio_with(FRAMES, (360, 640)) as (studio, project, _path):
        crowd(studio, project)
        folder = studio.folder
        studio.close()
        with serving(folder) as url, looked_at(f"{url}#{project}") as page:
            page.locator("[data-layer]").first.wait_for()
            page.wait_for_timeout(1500)
            gaps = {"at rest": _gaps(page, lambda: page.wait_for_timeout(1500))}
            gaps["scrolling"] = _gaps(page, lambda: page.evaluate(SCROLL))
            page.evaluate("document.querySelector('[data-testid=timeline]').scrollTop = 0")
            page.wait_for_timeout(500)
            gaps["dragging a span"] = _gaps(page, lambda: _drag(page, "[data-layer] [data-span]", 60, 0))
            gaps["carrying a lane"] = _gaps(page, lambda: _drag(page, "[data-layer]", 0, 70))
    figures: dict[str, float] = {}
    for name, times in gaps.items():
        figures[f"{name}, frames a second"] = 1000 / float(np.mean(times))
        figures[f"{name}, 95 of 100 gaps under, ms"] = float(np.quantile(times, 0.95))
    ratio = float(np.mean(gaps["dragging a span"]) / np.mean(gaps["at rest"]))
    return Result("sky", ratio, "50 frames a second or more while scrolling and dragging", figures)


def crowd(studio: Studio, project: str) -> None:
    """Adds 300 layers to a project, each of twelve frames within its first three seconds; some of them in groups."""
    edits: list[OneEdit] = []
    for n in range(LAYERS):
        made = AddLayer(source=ColourSource(colour=f"#{n:06x}"), at=n % 60, frames=12)
        edits.append(made)
        if n % 30 == 29:
            edits.append(MakeGroup(layers=[made.layer]))
    studio.edit(project, Several(edits=edits), None)


def _gaps(page, work) -> list[float]:
    page.evaluate(WATCH)
    work()
    return page.evaluate("() => { const g = window.gaps.slice(1); window.gaps = null; return g }")


def _drag(page, what: str, dx: float, dy: float) -> None:
    """Drags something to and fro for two seconds."""
    box = page.locator(what).nth(2).bounding_box()
    x, y = box["x"] + min(40, box["width"] / 2), box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    for n in range(60):
        page.mouse.move(x + dx * np.sin(n / 5), y + dy * np.sin(n / 5))
        page.wait_for_timeout(16)
    page.mouse.move(x, y)
    page.mouse.up()
