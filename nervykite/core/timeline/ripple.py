"""Free ends as ties: what a frame that somebody chose is tied to, and what becomes of ties when the ground changes."""

from ..model import Document, Layer, Tied
from .timeline import Place, Timeline


def tied_to(place: Place, frame: int) -> Tied:
    """The tie for a free end that is put at a project frame.

    On the piece's own end or on a cut it stays with that. Anywhere else it keeps its distance from the landing, so that
    whatever is done to the ground before it, its span is as long as it was.
    """
    timeline = place.timeline
    if frame == timeline.length:
        return Tied(to="piece end")
    if frame == place.end:
        return Tied(to="item end", item=place.item.id)
    if frame == place.start:
        return Tied(to="item start", item=place.item.id)
    span = timeline.span(place.layer)
    if span is None:
        return Tied(to="piece start", offset=frame)
    return Tied(to="landing", offset=frame - span.landing)


def without_items(document: Document, gone: set[str]) -> list[Layer]:
    """The layers once ground items are gone: those over them go too, free ends tied to them keep their distance."""
    timeline = Timeline(document)

    def loosened(layer: Layer) -> Layer:
        changes = {}
        for name in ("starts", "ends"):
            tied: Tied | None = getattr(layer, name)
            place = timeline.place(layer)
            if tied is None or tied.item not in gone or place is None:
                continue
            landing = place.landing or 0
            changes[name] = Tied(to="landing", offset=place.frame_of(tied, landing) - landing)
        return layer.model_copy(update=changes) if changes else layer

    return [loosened(x) for x in document.project.layers if x.over not in gone]
