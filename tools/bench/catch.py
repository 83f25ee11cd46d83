"""The quality of the frames found worth holding on the demo's footage, and what looking through a shot takes."""

import json
import threading
from pathlib import Path
from tempfile import TemporaryDirectory
from time import perf_counter

import cv2
import numpy as np

from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.piece.model import Shot
from nervykite.core.see.catch.apexes import curves_of, proposals, unasked
from nervykite.core.see.catch.seen import Seen
from nervykite.core.see.catch.watch import looked_through
from nervykite.core.see.footage.proxy import proxy_size
from nervykite.demo import FOOTAGE
from nervykite.studio import Studio
from nervykite.studio.importing import import_shot
from nervykite.studio.watching import politely, watch_shot

from . import Result
from .material import enlarged_demo, frames_of

NEAR = 2
"""A proposal is of an apex if it is within so many frames of it."""
WINDOW = 9
"""Frames of which the crispest is looked for."""


def measure(frames: int = 150) -> Result:
    """The ratio is how long a shot of 1080 × 1920 takes to be looked through, to how long it is."""
    figures: dict[str, float | str] = {}
    hits = true = made = right = windows = held = holds = 0
    for path in sorted((FOOTAGE / "truth").glob("*.json")):
        truth = json.loads(path.read_text())
        if not truth["holds"]:
            continue
        seen, wide = _watched(FOOTAGE / f"{truth['shot']}.mp4", truth["rate"])
        found = proposals(seen, truth["rate"], wide)
        best = [p.frame for p in found[: unasked(found)]]
        tops = [a["while"] for a in truth["apexes"]]
        met = [t for t in tops if any(t[0] - NEAR <= f <= t[1] + NEAR for f in best)]
        of_holds = [h["frame"] for h in truth["holds"]]
        good = [t for t in of_holds if any(abs(t - f) <= NEAR for f in best)]
        ours, all_of = _crispest(curves_of(seen, truth["rate"], wide).crisp, truth["blur"])
        figures[truth["shot"]] = (
            f"apexes {len(met)} of {len(tops)}, proposed {len(best)}, holds {len(good)} of {len(of_holds)}, "
            f"sharpest {ours} of {all_of}"
        )
        hits, true, made = hits + len(met), true + len(tops), made + len(best)
        right, windows = right + ours, windows + all_of
        held, holds = held + len(good), holds + len(of_holds)
    took, beside = _speed(frames)
    figures |= {
        "true apexes among the proposals, %": 100 * hits / true,
        "proposals per true apex": made / true,
        "the demo's holds among them, %": 100 * held / holds,
        "sharpest within our crispest third, %": 100 * right / windows,
        "preview frames, looking through beside / alone": beside,
    }
    return Result(
        "catch", took, "at most 2; 80 % of apexes, 2 proposals each; 90 %", figures, "times the shot's length"
    )


def _watched(path: Path, rate: float) -> tuple[list[Seen], float]:
    """The records of a clip, and how wide it is in heights."""
    pictures = [
        cv2.resize(p, proxy_size(p.shape[1], p.shape[0]), interpolation=cv2.INTER_AREA) for p in frames_of(path)
    ]
    found = looked_through(lambda frames: (pictures[n] for n in frames), range(len(pictures)), rate)
    seen = [one for one, _ in found]
    return seen, pictures[0].shape[1] / pictures[0].shape[0]


def _crispest(crisp: np.ndarray, blur: list[float | None]) -> tuple[int, int]:
    """In how many windows of frames the one that moves least is in our crispest third, and how many there are."""
    right = count = 0
    for first in range(len(blur) - WINDOW + 1):
        part = blur[first : first + WINDOW]
        if any(b is None for b in part):
            continue
        least = int(np.argmin(np.array(part, float)))
        third = np.argsort(-crisp[first : first + WINDOW])[: WINDOW // 3]
        right, count = right + (least in third), count + 1
    return right, count


def _speed(frames: int) -> tuple[float, float]:
    """The time that a large shot takes, to its length; and how long preview frames take meanwhile, to alone."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / "shot.mp4"
        enlarged_demo(path, frames)
        studio = Studio(Path(folder) / "data")
        project = studio.projects.new("Bench").document.project.id
        shot, state = import_shot(studio, project, studio.keep_file(path), path.name)
        evaluation = studio.evaluation(state)

        def drawn() -> float:
            begun = perf_counter()
            for frame in range(0, frames, 3):
                studio.renderer.render(Canvas(state.document, (540, 960), draft=True), evaluation.at(frame))
            return perf_counter() - begun

        drawn()
        alone = min(drawn() for _ in range(3))
        begun = perf_counter()
        watch_shot(studio, shot)
        took = (perf_counter() - begun) / float(shot.frames / shot.rate)
        again = Studio(Path(folder) / "again")
        other = again.projects.new("Bench").document.project.id
        shot, _ = import_shot(again, other, again.keep_file(path), path.name)
        beside = threading.Thread(target=_watch, args=(again, shot), daemon=True)
        beside.start()
        busy = min(drawn() for _ in range(3))
        beside.join()
        studio.close()
        again.close()
        return took, busy / alone


def _watch(studio: Studio, shot: Shot) -> None:
    politely()
    watch_shot(studio, shot)
