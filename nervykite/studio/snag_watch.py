"""Looking a piece over for snags, with what the studio keeps of it."""

import json

import numpy as np

from ..core.change.snags.snag import Check, Inspection, Snag, snags_of
from ..core.common.errors import Refusal
from ..core.draw.picture.evaluate import Evaluation
from ..core.draw.sound.faults import Fault, fault_of
from .studio import Studio
from .watching import ShotObservations


def look_at(studio: Studio, evaluation: Evaluation) -> list[tuple[Snag, str]]:
    """The snags of a piece, each with the title of what looked for it."""
    document = evaluation.document

    def alpha(hold: str) -> np.ndarray | None:
        found = document.holds[hold]
        if not found.matte.carved:
            return None
        try:
            return studio.renderer.sprites.mattes.alpha(document.shots[found.shot], found.frame, found.matte)
        except (Refusal, OSError):
            return None  # the picture itself says what is missing

    looks = ShotObservations(studio)

    def detail(shot: str) -> list[float] | None:
        return [one.detail for one in looks.seen(document.shots[shot])]

    def fault(file: str) -> Fault | None:
        try:
            return studio.faults.get(file, lambda: fault_of(studio.sound_in(file)))
        except OSError:
            return None  # what is played says so

    titles = {kind: check.title for kind, check in Check.family.all().items()}
    return [(snag, titles[snag.check]) for snag in snags_of(Inspection(evaluation, alpha, detail, fault))]


def told(found: list[tuple[Snag, str]], as_json: bool) -> str:
    """Snags as lines, or as JSON."""
    if as_json:
        return json.dumps([
            {"check": s.check, "says": s.says, "frame": s.frame, "layer": s.layer, "item": s.item,
             "fix": None if s.fix is None else s.fix.model_dump(mode="json")}
            for s, _ in found
        ], indent=2)  # fmt: skip
    return "\n".join(f"{'–' if s.frame is None else s.frame:>6}  {s.says}" for s, _ in found) or "No snags."
