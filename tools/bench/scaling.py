"""The growth of a frame's time with the piece: with finishes on frozen cutouts, with layers, with its length.

Each is a ratio of two pieces in the same run, taken in turn, so that a machine that is busy for a while does not tell.
"""

import resource
from time import perf_counter
from typing import Any

import numpy as np

from nervykite.core.change.edits import AddColour, ChangeLayer
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.picture.sprites import SPRITE_BYTES
from nervykite.core.kinds.sources.plain_colour import ColourSource
from nervykite.core.piece.model import Document, Finish
from nervykite.studio import Studio

from . import Result
from .material import studio_with, with_cutouts

SIZE = (540, 960)
REPEATS = 60


def measure() -> Result:
    """Ratios of times; the ratio reported is that of eight finishes over none."""
    with studio_with(30) as (studio, project, _path):
        bare = studio.projects.state(project).document
        document = with_cutouts(studio, project, 8)
        few = document.model_copy(update={"project": _with_layers(document, 5)})
        none, eight = _in_turn(studio, [few, _dressed(few)])
        counts = (0, 1, 8, 32)
        pieces = [bare, *(_many(document, n) for n in counts[1:])]
        ground, *layered = _in_turn(studio, pieces)
        covered = [_covered(studio, p) for p in pieces[1:]]
        each = [(t - ground) / c for t, c in zip(layered, covered, strict=True)]
        short, long = _in_turn(studio, [_lasting(few, 5), _lasting(few, 300)])
    figures = {
        "five cutouts without finishes, ms a frame": none,
        "with eight finishes on each, ms a frame": eight,
        "eight over none": eight / none,
        **{f"{n} layers, ms a frame": t for n, t in zip(counts, (ground, *layered), strict=True)},
        **{f"{n} layers, ns a covered pixel": 1e6 * t for n, t in zip(counts[1:], each, strict=True)},
        "a covered pixel of 32 layers over one of 8": each[2] / each[1],
        "five seconds long, ms a frame": short,
        "five minutes long, ms a frame": long,
        "five minutes over five seconds": long / short,
        "sprites kept at most, MB": SPRITE_BYTES / 1e6,
        "memory at its highest, MB": resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e3,
    }
    aim = "finishes and length flat within 10 %; a covered pixel costs the same however many layers there are"
    return Result("scaling", eight / none, aim, figures, "times as long with eight finishes as with none")


def _with_layers(document: Document, count: int):
    return document.project.model_copy(update={"layers": document.project.layers[:count]})


EIGHT: dict[str, dict[str, Any]] = {
    "tone": {"contrast": 0.3},
    "posterise": {},
    "side-light": {},
    "ink": {},
    "halftone": {"amount": 0.2},
    "sharpen": {},
    "grain": {"boils": 0},
    "outline": {"place": "inside"},
}
"""Finishes that stand still and keep within the edge, so that no more is covered than without."""


def _dressed(document: Document) -> Document:
    """The document with eight finishes on each layer."""
    worn = [Finish(kind=kind, settings=settings) for kind, settings in EIGHT.items()]
    for layer in document.project.layers:
        document = ChangeLayer(layer=layer.id, finishes=worn).apply(document)
    return document


def _many(document: Document, count: int) -> Document:
    """The document with so many layers: copies of those there are."""
    layers = [
        x.model_copy(update={"id": f"{n:016x}"}) for n, x in enumerate((document.project.layers * count)[:count], 1)
    ]
    return document.model_copy(update={"project": document.project.model_copy(update={"layers": layers})})


def _lasting(document: Document, seconds: int) -> Document:
    """The document with so many seconds of colour after its footage."""
    lasts = seconds * 30
    return AddColour(source=ColourSource(lasting=lasts), at=len(document.project.ground)).apply(document)


def _covered(studio: Studio, document: Document) -> float:
    """The number of pixels of the preview the layers cover in a frame, each counted by itself."""
    total = 0.0
    for draw in Evaluation(document).at(20).layers:
        sprite = studio.renderer.sprites.sprite(Canvas(document, SIZE, draft=True), draw.sprite)  # type: ignore[union-attr]
        matrix = np.array(draw.matrix).reshape(3, 3)  # type: ignore[union-attr]
        if sprite is not None:
            total += float((sprite.alpha > 0).sum()) * abs(np.linalg.det(matrix[:2, :2]))
    return total


def _in_turn(studio: Studio, documents: list[Document]) -> list[float]:
    """The median milliseconds that a frame of each document takes, once all that stands still is made."""
    evaluations = [Evaluation(d) for d in documents]
    times: list[list[float]] = [[] for _ in documents]
    for n in range(REPEATS + 6):
        for own, evaluation in zip(times, evaluations, strict=True):
            begun = perf_counter()
            draws = evaluation.at(14 + n % 12)
            studio.renderer.render(Canvas(evaluation.document, SIZE, draft=True), draws)
            if n >= 6:
                own.append(perf_counter() - begun)
    return [float(np.median(t)) * 1e3 for t in times]
