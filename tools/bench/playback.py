"""Playing a piece of five moving cutouts with motion blur and three finishes each: drawn cold, and on the page.

The first part needs nothing; the second drives a browser, and is left out where there is none.
"""

from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from time import perf_counter

from nervykite.core.change.edits import ChangeLayer, ChangePiece
from nervykite.core.common.errors import Refusal
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.piece.model import Blur, Document, Finish
from nervykite.core.see.footage.planes import jpeg
from nervykite.studio import Studio

from . import Result
from .browser import looked_at, needs_browser, serving
from .material import studio_with, with_cutouts

SIZE = (540, 960)
FRAMES = 90
RATE = 30

# How many different frames are drawn over some seconds, and how many were due.
PLAYED = """(seconds) => new Promise((done) => {
  const canvas = document.querySelector('[data-testid=picture] canvas')
  const begun = performance.now()
  const shown = []
  let last = ''
  const tick = () => {
    if (canvas.dataset.drawn !== last) { last = canvas.dataset.drawn; shown.push(Number(canvas.dataset.frame)) }
    if (performance.now() - begun < seconds * 1000) requestAnimationFrame(tick)
    else done(shown.length / seconds)
  }
  tick()
})"""


def measure() -> Result:
    """Frames a second, drawn cold by two threads; the ratio is that over the piece's own rate."""
    with studio_with(FRAMES) as (studio, project, _path):
        document = piece(studio, project)
        evaluation = Evaluation(document)
        # Compiles what is not compiled yet.
        studio.renderer.render(Canvas(document, SIZE, draft=True), evaluation.at(20))
        for layer in evaluation.at(20).layers:
            studio.renderer.sprites.sprite(Canvas(document, SIZE, draft=True), layer.sprite)  # type: ignore[union-attr]

        def one(frame: int) -> int:
            return len(jpeg(studio.renderer.render(Canvas(document, SIZE, draft=True), evaluation.at(frame))))

        begun = perf_counter()
        with ThreadPoolExecutor(2) as pool:
            list(pool.map(one, range(FRAMES)))
        cold = FRAMES / (perf_counter() - begun)
        figures: dict[str, float] = {"drawn cold, frames a second": cold} | _stages(studio, document)
        studio.close()  # a folder has one at work at a time
        figures |= _on_the_page(studio.folder)
    return Result("playback", cold / RATE, "at least 1.0 cold; 30 frames a second on the page after one loop", figures)


def piece(studio: Studio, project: str) -> Document:
    """Five cutouts that move all along, three outlines each, and motion blur of 180° on all of it."""
    document = with_cutouts(studio, project)
    for layer in document.project.layers:
        finishes = [Finish(kind="outline", settings={"width": 3.0 + 3 * n}) for n in range(3)]
        studio.projects.edit(project, ChangeLayer(layer=layer.id, finishes=finishes), None)
    return studio.projects.edit(project, ChangePiece(blur=Blur()), None).document


def _stages(studio: Studio, document: Document) -> dict[str, float]:
    """The share of the time of each stage, one frame after the other: what is left of one without the stages after."""
    evaluation = Evaluation(document)
    bare = document.model_copy(update={"project": document.project.model_copy(update={"layers": []})})
    ground = Evaluation(bare)
    sums = dict.fromkeys(("evaluating", "ground", "cutouts", "packing"), 0.0)
    for frame in range(FRAMES):
        marks = [perf_counter()]
        draws = evaluation.at(frame)
        marks.append(perf_counter())
        studio.renderer.render(Canvas(bare, SIZE, draft=True), ground.at(frame))
        marks.append(perf_counter())
        planes = studio.renderer.render(Canvas(document, SIZE, draft=True), draws)
        marks.append(perf_counter())
        jpeg(planes)
        marks.append(perf_counter())
        evaluated, grounded, drawn, packed = (b - a for a, b in zip(marks, marks[1:], strict=False))
        parts = evaluated, grounded, max(0.0, drawn), packed
        for name, seconds in zip(sums, parts, strict=True):
            sums[name] += seconds
    whole = sum(sums.values())
    return {f"share of {k}": v / whole for k, v in sums.items()}


def _on_the_page(folder: Path) -> dict[str, float]:
    """Frames a second that the page shows, the first time round and after one loop."""
    try:
        needs_browser()
    except Refusal:
        return {}
    with serving(folder) as url, looked_at(url) as page:
        page.get_by_role("button", name="Open Bench", exact=True).click()
        page.get_by_label("Steps").get_by_role("button", name="Fly").click()
        page.keyboard.press("Home")
        page.wait_for_selector('[data-testid=picture] canvas[data-frame="0"]')
        # Round and round: the whole piece as its loop.
        ruler = page.get_by_test_id("ruler").bounding_box()
        page.keyboard.down("Shift")
        page.mouse.move(ruler["x"] + 2, ruler["y"] + 12)
        page.mouse.down()
        page.mouse.move(ruler["x"] + ruler["width"] - 2, ruler["y"] + 12, steps=4)
        page.mouse.up()
        page.keyboard.up("Shift")
        page.wait_for_timeout(600)
        page.keyboard.press("Space")
        rounds = [page.evaluate(PLAYED, FRAMES / RATE) for _ in range(3)]
    return {"on the page, first loop, frames a second": rounds[0], "on the page, third loop": rounds[2]}
