"""From a pointer that moves a cutout to the new preview frame on the page, in a real browser.

Needs the packages of the tests and Chromium.
"""

from pathlib import Path
from tempfile import TemporaryDirectory
from time import perf_counter

import numpy as np

from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.demo.demo_project import NAME, add_demo
from nervykite.server.pictures import Pictures
from nervykite.studio import Studio

from . import Result
from .browser import looked_at, needs_browser, serving
from .material import median_ms

MOVES = 60

# Times from each pointer movement to the next drawn frame, taken inside the page.
WATCH = """
() => {
  const canvas = document.querySelector('[data-testid=picture] canvas')
  const watched = window.waits
  window.waits = []
  if (watched) return
  let moved = null
  window.addEventListener('pointermove', (e) => { if (e.buttons) moved ??= performance.now() }, true)
  new MutationObserver(() => {
    if (moved !== null && canvas.dataset.draft === 'yes') { window.waits.push(performance.now() - moved); moved = null }
  }).observe(canvas, { attributes: true, attributeFilter: ['data-drawn'] })
}
"""


def measure() -> Result:
    """Milliseconds a movement; the ratio is that over drawing and packing the same frames without a browser."""
    needs_browser()
    with TemporaryDirectory() as folder:
        studio = Studio(Path(folder))
        add_demo(studio, scenes=1)
        baseline = without_browser(studio)
        studio.close()
        with serving(Path(folder)) as url, looked_at(url) as page:
            waits = waits_on(page)
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


def without_browser(studio: Studio) -> float:
    """Milliseconds for drawing and packing a preview frame of the demo, the middle one of thirty."""
    state = studio.projects.state(studio.projects.find(NAME))
    evaluation, pictures = Evaluation(state.document), Pictures(studio)
    times = []
    for frame in range(60, 90):
        draws = evaluation.at(frame)
        begun = perf_counter()
        pictures.frame(state.document, draws, (540, 960))
        times.append(perf_counter() - begun)
    return median_ms(times)
