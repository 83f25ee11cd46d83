"""Free ends as ties: what a frame that somebody chose is tied to, and what becomes of ties when the ground changes."""

from ..model import Document, Layer, Tied
from .timeline import LayerPlace, Timeline


def tied_to(place: LayerPlace, frame: int) -> Tied:
    """The tie for a free end that is put at a project frame.

    On the piece's own end or on a cut it stays with that. Anywhere else it keeps its distance from the landing, so that
    whatever is done to the ground before it, its span is as long as it was.
    """
    timeline = place.timeline
    if frame == timeline.length:
        return Tied(to="piece end")
    if place.item is not None and frame == place.end:
        return Tied(to="item end", item=place.item.id)
    if place.item is not None and frame == place.start:
        return Tied(to="item start", item=place.item.id)
    span = timeline.span(place.layer)
    if span is None:
        return Tied(to="piece start", offset=frame)
    return Tied(to="landing", offset=frame - span.landing)


def free_ties(place: LayerPlace, start: int, end: int) -> dict[str, Tied]:
    """The ties of a layer that lies free from one project frame to another: it goes along with what it begins over.

    On the piece's end it stays with that; else it is as long as it was, whatever is done to the ground.
    """
    timeline = place.timeline
    landing = place.landing
    ends = Tied(to="piece end") if end == timeline.length else None
    if landing is None:
        starts = timeline.tie_at(start)
        ends = ends or Tied(to="landing", offset=end - start)
    else:  # what was held keeps its distance from its moment, as all that is held does
        on_a_cut = start in timeline.starts.values()
        starts = timeline.tie_at(start) if on_a_cut else Tied(to="landing", offset=start - landing)
        ends = ends or Tied(to="landing", offset=end - landing)
    return {"starts": starts, "ends": ends}


def without_items(document: Document, gone: set[str]) -> list[Layer]:
    """The layers once ground items are gone: those over them go too, free ends tied to them keep their distance.

    What lies free and was held from nothing stays where it is.
    """
    timeline = Timeline(document)

    def loosened(layer: Layer) -> Layer:
        changes = {}
        for name in ("starts", "ends"):
            tied: Tied | None = getattr(layer, name)
            place = timeline.place(layer)
            if tied is None or tied.item not in gone or place is None:
                continue
            landing, span = place.landing, timeline.span(layer)
            if layer.over is None and span is not None:
                changes[name] = _after_removal(timeline, place.frame_of(tied, span.landing), gone)
            else:
                landing = landing or 0
                changes[name] = Tied(to="landing", offset=place.frame_of(tied, landing) - landing)
        return layer.model_copy(update=changes) if changes else layer

    return [loosened(x) for x in document.project.layers if x.over not in gone]


def _after_removal(timeline: Timeline, frame: int, gone: set[str]) -> Tied:
    """The tie of a project frame once items are gone: to what is left nearest before it, else to the piece's start."""
    kept = [(at, id_) for id_, at in timeline.starts.items() if id_ not in gone and at <= frame]
    if not kept:
        return Tied(to="piece start")
    at, item = kept[-1]
    if frame > timeline.end_of(item):  # it lay over what goes
        return Tied(to="item end", item=item)
    return Tied(to="item start", item=item, offset=frame - at)
