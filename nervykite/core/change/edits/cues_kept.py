"""Cues left behind when what they are tied to goes: they stay where they were heard."""

from ...piece.model import Cue, CueTie, Document
from ...piece.timeline.timeline import Timeline


def cues_kept(before: Document, after: Document) -> list[Cue]:
    """The cues of a document, once layers or pieces of the ground may be gone that were there before.

    What was tied to one of these is tied to the piece of the ground that it begins over, or else to the piece's start.
    """
    layers = {x.id for x in after.project.layers}
    items = {g.id for g in after.project.ground}
    known = layers | items | {None}
    lost = [c for c in after.project.cues if c.tie.layer not in known or c.tie.item not in known]
    if not lost:
        return after.project.cues
    timeline = Timeline(before)
    ties = {c.id: _tie(timeline, c, items) for c in lost}
    return [c.model_copy(update={"tie": ties[c.id]}) if c.id in ties else c for c in after.project.cues]


def _tie(timeline: Timeline, cue: Cue, items: set[str]) -> CueTie:
    frame = timeline.cue(cue)
    if frame is None:
        return CueTie()
    begun = [(at, id_) for id_, at in timeline.starts.items() if id_ in items and at <= frame]
    if not begun:
        return CueTie(offset=max(0, frame))
    at, item = begun[-1]
    end = timeline.end_of(item)
    # It lay over what goes: what follows comes to lie there.
    return CueTie(item=item, to="start" if frame < end else "end", offset=frame - at if frame < end else 0)
