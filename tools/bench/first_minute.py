"""From a file to a sent piece by a recipe, on the demo's footage: how long that takes, and what it did not find."""

from pathlib import Path
from tempfile import TemporaryDirectory
from time import perf_counter

import numpy as np

from nervykite.core.draw.send.export import Output
from nervykite.core.draw.send.writers.mp4 import Mp4
from nervykite.core.piece.model import Recipe
from nervykite.demo import FOOTAGE
from nervykite.studio import Studio
from nervykite.studio.cooking import cook, project_for

from . import Result

MADE = (
    ("trail", ("dune-run",)),
    ("trail", ("kite-catch",)),
    ("trail", ("groyne-pan",)),
    ("trail", ("change-over",)),
    ("waiting-figures", ("dune-run",)),
    ("name-strips", ("dune-run",)),
    ("name-strips", ("kite-catch",)),
    ("drop-on-the-cut", ("kite-catch", "splash-down")),
)


def measure() -> Result:
    """Seconds for each; the ratio is the middle one over importing and sending the same footage as it is."""
    figures: dict[str, float] = {}
    ratios = []
    for kind, clips in MADE:
        plain = _seconds(None, clips)
        made = _seconds(kind, clips)
        figures[f"{kind} of {' and '.join(clips)}, s"] = made
        ratios.append(made / plain)
    return Result("first-minute", float(np.median(ratios)), "every one within 60 s", figures)


def _seconds(kind: str | None, clips: tuple[str, ...]) -> float:
    """The seconds from files to a sent piece, in a new folder; without a recipe, of the footage as it is."""
    with TemporaryDirectory(prefix="nervykite-") as folder:
        studio = Studio(Path(folder))
        begun = perf_counter()
        project = project_for(studio, "Measured", [FOOTAGE / f"{clip}.mp4" for clip in clips])
        if kind is not None:
            cook(studio, project, Recipe.family[kind]())
        studio.export(studio.state(project).document, Output(Path(folder) / "out.mp4", Mp4()))
        seconds = perf_counter() - begun
        studio.close()
    return seconds
