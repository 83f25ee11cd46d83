"""Ties of keys, put right when what they count from goes."""

from ...piece.model import Document, Key
from ...piece.timeline.timeline import Timeline
from .base import with_project
from .copying import Owner


def retied(before: Document, after: Document) -> Document:
    """A document after moments or ground items went: keys that were tied to them count from their owner's landing.

    They stay on their frames, as far as their owner stays where it was.
    """
    timelines = Timeline(before), Timeline(after)
    known = {x.id: x for x in before.project.owners}

    def told(owner: Owner) -> Owner:
        was = known.get(owner.id)
        named = {k.to for k in owner.keys if k.to}
        if was is None or not named:
            return owner
        old, new = (t.ties_of(x) for t, x in zip(timelines, (was, owner), strict=True))
        keys = [_landing(k, old.frame(k) - old.landing) if k.to and k.to not in new.marked else k for k in owner.keys]
        return owner.model_copy(update={"keys": keys})

    project = after.project
    if not any(k.to for x in project.owners for k in x.keys):
        return after
    return with_project(after, ground=[told(x) for x in project.ground], layers=[told(x) for x in project.layers])


def _landing(key: Key, offset: int) -> Key:
    return key.model_copy(update={"tie": "landing", "to": None, "offset": offset})
