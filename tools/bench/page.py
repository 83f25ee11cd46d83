"""The pace of the page in a real browser on the demo: frames shown while playing, and the wait under the hand.

Needs the packages of the tests and Chromium.
"""

from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory
from time import perf_counter
from typing import Any

import numpy as np

from nervykite.demo.demo_project import NAME, add_demo
from nervykite.studio import Studio
from nervykite.studio.watching import watch_shot

from . import Result
from .browser import looked_at, serving
from .edit import WATCH, without_browser
from .material import studio_with
from .sky import crowd

BENCHES = ("Catch", "Carve", "Fly", "Dress", "Sound", "Send")
FRAMES, RATE = 180, 30
LAYER = "Leap 2"
PICTURE = "[data-testid=picture] canvas"

# Counts the frames that are drawn from now on, until it is asked for them.
COUNT = """
() => {
  const canvas = document.querySelector('[data-testid=picture] canvas')
  window.drawn = 0
  window.counting = new MutationObserver(() => window.drawn++)
  window.counting.observe(canvas, { attributes: true, attributeFilter: ['data-drawn'] })
}
"""
COUNTED = "() => { window.counting.disconnect(); return window.drawn }"


def measure() -> Result:
    """Frames and milliseconds; the ratio is the wait for a dragged cutout over drawing and packing its frame alone."""
    figures: dict[str, float] = {}
    with TemporaryDirectory() as made:
        folder = Path(made)
        studio = Studio(folder)
        add_demo(studio)
        studio.close()
        figures |= _while_looked_through(folder)
        _look_through(folder)
        with serving(folder) as url, looked_at(url) as page:
            figures |= _opening(page)
            figures |= _playing(page)
    with TemporaryDirectory() as made:
        folder = Path(made)
        studio = Studio(folder)
        add_demo(studio, scenes=1)
        figures["baseline: drawing and packing alone, ms"] = baseline = without_browser(studio)
        studio.close()
        _look_through(folder)
        with serving(folder) as url, looked_at(url) as page:
            _open(page)
            waits = {name: drag(page) for name, drag in DRAGS.items()}
    for name, those in waits.items():
        figures |= _waits(f"dragging {name}", those)
    figures |= _crowded()
    ratio = float(np.median(waits["a cutout, in Carve"])) / baseline
    return Result("page", ratio, "180 of 180 frames, half idle; 40 ms under the hand, 95 of 100 under 70", figures)


def _while_looked_through(folder: Path) -> dict[str, float]:
    """Frames that are shown right after the demo was made."""
    with serving(folder) as url, looked_at(url) as page:
        _open(page)
        shown, _ = _played(page, FRAMES)
    return {f"playing while footage is looked through, of {FRAMES}": shown}


def _look_through(folder: Path) -> None:
    studio = Studio(folder)
    document = studio.state(studio.projects.find(NAME)).document
    for shot in document.shots.values():
        watch_shot(studio, shot)
    studio.close()


def _open(page: Any) -> None:
    page.get_by_role("button", name=f"Open {NAME}", exact=True).click()
    page.wait_for_selector(f"{PICTURE}[data-frame]")


def _opening(page: Any) -> dict[str, float]:
    """Seconds from the address and from the list of projects to the picture; frames in the three seconds after."""
    begun = perf_counter()
    page.reload()
    page.get_by_role("button", name=f"Open {NAME}", exact=True).wait_for()
    listed = perf_counter()
    page.wait_for_timeout(3000)  # somebody looks which one to open
    chosen = perf_counter()
    _open(page)
    seen = perf_counter()
    shown, _ = _played(page, 90)
    return {
        "address to list, s": listed - begun,
        "list to picture, s": seen - chosen,
        "playing within a second of opening, of 90": shown,
    }


def _played(page: Any, frames: int) -> tuple[int, float]:
    """Plays so many frames from the first one on: how many were shown, and the share of the time in which the page's
    main thread had something to do.
    """
    page.evaluate("document.activeElement?.blur()")  # a button that has the focus would take the space bar
    page.keyboard.press("Home")
    page.wait_for_timeout(300)
    devtools = page.context.new_cdp_session(page)
    devtools.send("Performance.enable")
    page.evaluate(COUNT)
    before = _busy(devtools)
    page.keyboard.press("Space")
    page.wait_for_timeout(frames * 1000 / RATE)
    after = _busy(devtools)
    page.keyboard.press("Space")
    shown = page.evaluate(COUNTED)
    devtools.detach()
    return min(frames, shown), (after[0] - before[0]) / (after[1] - before[1])


def _busy(devtools: Any) -> tuple[float, float]:
    """Seconds of work of the main thread so far, and the time."""
    told = {m["name"]: m["value"] for m in devtools.send("Performance.getMetrics")["metrics"]}
    return told["TaskDuration"], told["Timestamp"]


def _playing(page: Any) -> dict[str, float]:
    """Frames shown in each bench, once what is played has been drawn, and how busy the page is; and at rest."""
    page.locator("[data-layer] [data-span]").nth(2).click()
    _played(page, FRAMES)
    figures: dict[str, float] = {}
    for bench in BENCHES:
        _step(page, bench)
        page.wait_for_timeout(1500)
        shown, busy = _played(page, FRAMES)
        figures[f"playing in {bench}, of {FRAMES}"] = shown
        figures[f"playing in {bench}, share of the main thread"] = busy
    _step(page, "Fly")
    page.wait_for_timeout(3000)
    devtools = page.context.new_cdp_session(page)
    devtools.send("Performance.enable")
    before = _busy(devtools)
    page.wait_for_timeout(3000)
    after = _busy(devtools)
    devtools.detach()
    return figures | {"Fly at rest, share of the main thread": (after[0] - before[0]) / (after[1] - before[1])}


def _step(page: Any, bench: str) -> None:
    page.get_by_label("Steps").get_by_role("button", name=bench).click()


def _at_leap(page: Any, bench: str) -> None:
    _step(page, bench)
    page.locator(f'[data-layer="{LAYER}"] [data-span]').click()
    page.keyboard.press("Home")
    for key in ["Shift+ArrowRight"] * 6 + ["ArrowRight"] * 4:
        page.keyboard.press(key)
    page.wait_for_selector(f'{PICTURE}[data-frame="64"]')
    page.wait_for_timeout(1000)


def _waited(page: Any, x: float, y: float, reach: tuple[float, float], moves: int = 60) -> list[float]:
    """Drags from a place to and fro; the milliseconds from each movement to the frame that shows it."""
    page.evaluate(WATCH)
    page.mouse.move(x, y)
    page.mouse.down()
    for n in range(1, moves + 1):
        page.mouse.move(x + reach[0] * np.sin(n / 6), y + reach[1] * (1 - np.cos(n / 6)))
        page.wait_for_timeout(90)
    page.mouse.up()
    waits = page.evaluate("window.waits")
    page.keyboard.press("Control+z")
    page.wait_for_timeout(500)
    return waits


def _cutout(bench: str) -> Callable[[Any], list[float]]:
    def drag(page: Any) -> list[float]:
        _at_leap(page, bench)
        box = page.get_by_test_id("picture").bounding_box()
        return _waited(page, box["x"] + box["width"] * 0.45, box["y"] + box["height"] * 0.52, (60, 20))

    return drag


def _number(page: Any) -> list[float]:
    _at_leap(page, "Fly")
    box = page.get_by_text("Across", exact=True).first.bounding_box()
    return _waited(page, box["x"] + 8, box["y"] + box["height"] / 2, (60, 0))


def _curve(page: Any) -> list[float]:
    _at_leap(page, "Fly")
    box = page.get_by_test_id("curves").locator("[data-key]").first.bounding_box()
    return _waited(page, box["x"] + box["width"] / 2, box["y"] + box["height"] / 2, (0, 12))


DRAGS: dict[str, Callable[[Any], list[float]]] = {
    "a cutout, in Carve": _cutout("Carve"),
    "a cutout, in Fly": _cutout("Fly"),
    "a number": _number,
    "a key's value": _curve,
}


def _waits(name: str, waits: list[float]) -> dict[str, float]:
    if not waits:
        return {f"{name}: frames": 0}
    return {
        f"{name}, ms": float(np.median(waits)),
        f"{name}, 95 of 100 under, ms": float(np.quantile(waits, 0.95)),
        f"{name}: frames": len(waits),
    }


def _crowded() -> dict[str, float]:
    """Dragging a span among 300 layers."""
    with studio_with(90, (360, 640)) as (studio, project, _path):
        crowd(studio, project)
        folder = studio.folder
        studio.close()
        with serving(folder) as url, looked_at(f"{url}#{project}") as page:
            page.locator("[data-layer] [data-span]").first.wait_for()
            page.wait_for_timeout(1500)
            box = page.locator("[data-layer] [data-span]").nth(2).bounding_box()
            waits = _waited(page, box["x"] + box["width"] / 2, box["y"] + box["height"] / 2, (60, 0))
    return _waits("dragging a span among 300 layers", waits)
