"""Trial of whether a document can be shown: laid out once, as by everything that shows it, before anybody keeps it."""

from collections.abc import Iterator

from pydantic import ValidationError

from ..common.errors import Refusal
from ..draw.picture.evaluate import Evaluation
from ..draw.sound.mix import long_of, seconds_of
from ..draw.sound.plan import plan_of
from ..kinds.sources.steadied import steadied_of
from ..piece.model import Document, Layer
from ..piece.model.kinds import fault
from ..piece.timeline.beats import accents_of_cue, beats_of_cue
from ..piece.timeline.limits import within_limits
from ..piece.timeline.timeline import Timeline

MOST = 12
"""So many layers that have changed are looked at by themselves."""


def laid_out(document: Document, before: Evaluation | None = None) -> Evaluation:
    """A document's evaluation, after all has been asked of it that pages, players and files ask.

    before: that of the document that it was made from: what both share is known to be all right. Raises Refusal if it
    is beyond the limits, and anything at all if it cannot be shown.
    """
    if before is not None:
        _within_bounds(document, before.document)
    timeline = Timeline(document, before.timeline if before else None)
    within_limits(document, timeline.length)  # before anything is laid out frame by frame
    evaluation = Evaluation(document, timeline)
    changed = _changed(document, before)
    for layer in document.project.layers:
        timeline.span(layer)
        timeline.ties_of(layer)
    for item in document.project.ground:
        steadied_of(timeline, item)
        timeline.ties_of(item)
    for cue in document.project.cues:
        seconds_of(cue, document)
        long_of(cue, timeline)
        beats_of_cue(cue, timeline)
        accents_of_cue(cue, timeline)
    plan = plan_of(timeline)
    if not plan.silent:
        plan.block(0)
    for frame in sorted(set(_frames(evaluation, changed))):
        evaluation.at(frame)
    for layer in changed:
        evaluation.values(layer, _middle(evaluation, layer))
    return evaluation


def _within_bounds(document: Document, before: Document) -> None:
    """Raises Refusal if what has changed could not be read again: what is worked out may come to lie beyond all bounds.

    Parts are made of others without being looked at, see pydantic's `model_copy`.
    """
    project, old = document.project, before.project
    known = {id(x) for x in (*old.layers, *old.ground, *old.cues, *old.made)}
    try:
        for part in (*project.layers, *project.ground, *project.cues, *project.made):
            if id(part) not in known:
                type(part).model_validate(part.model_dump(mode="json"))
    except ValidationError as error:
        raise Refusal(f"That goes beyond what can be kept ({fault(error)}). Choose less.") from error


def _changed(document: Document, before: Evaluation | None) -> list[Layer]:
    """Some layers that are not what they were."""
    known = {x.id: x for x in before.document.project.layers} if before else {}
    return [x for x in document.project.layers if known.get(x.id) is not x][:MOST]


def _middle(evaluation: Evaluation, layer: Layer) -> int:
    span = evaluation.timeline.spans[layer.id]
    return 0 if span is None else (span.start + span.end) // 2


def _frames(evaluation: Evaluation, layers: list[Layer]) -> Iterator[int]:
    """Frames at which the piece is looked at: its ends and middle, and those of some layers."""
    spans = [(0, evaluation.length)]
    spans += [(s.start, s.end) for x in layers if (s := evaluation.timeline.spans[x.id]) is not None]
    for start, end in spans:
        for frame in (start, (start + end) // 2, end - 1):
            if 0 <= frame < evaluation.length:
                yield frame
