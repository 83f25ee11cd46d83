"""Cutting an item of the ground in two, and closing such a cut again, with all that is tied to it."""

from collections.abc import Mapping

from ...piece.model import Behaviour, Cue, Document, Finish, GroundItem, Key, Layer, Tied
from ...piece.timeline.clock import landing
from ...piece.timeline.timeline import Timeline
from .base import with_project
from .copying import renewed


def cut(document: Document, item: GroundItem, at: int, fresh: str) -> Document:
    """The document with an item cut in two, `at` so many project frames from its start.

    The second part gets the id `fresh`. Every frame of the piece looks as it did: keys keep their places, layers stay
    over the part that shows their moment. Raises Refusal if it cannot be cut there.
    """
    first, second = item.source.split(document, at)
    lasts = item.source.lasts(document)
    item = item.model_copy(update={"keys": _by_its_start(document, item)})
    left = item.model_copy(update={"source": first, "keys": _shifted(item.keys, end=lasts - at)})
    left = left.model_copy(update={"behaviours": _going_on(item.behaviours, after=lasts - at)})
    left = left.model_copy(update={"loudness": item.loudness.model_copy(update={"fade_out": 0})})
    loudness = item.loudness.model_copy(update={"fade_in": 0})
    right = renewed(item).model_copy(update={"id": fresh, "source": second, "fade": 0, "loudness": loudness})
    behaviours = _going_on(right.behaviours, before=at)
    right = right.model_copy(update={"keys": _shifted(right.keys, start=-at), "behaviours": behaviours})

    def told(layer: Layer) -> Layer:
        changes: dict[str, object] = {}
        if layer.over == item.id:
            moment = layer.source.moment(document)
            sides = [moment and landing(p.frames(document), moment[1], p.beyond) for p in (first, second)]
            if sides[0] is None and sides[1] is not None:
                changes["over"] = fresh
        for name in ("starts", "ends"):
            tied: Tied | None = getattr(layer, name)
            if tied is not None and tied.item == item.id and tied.to == "item end":
                changes[name] = tied.model_copy(update={"item": fresh})
        return layer.model_copy(update=changes) if changes else layer

    ground = [part for g in document.project.ground for part in ((left, right) if g.id == item.id else (g,))]
    cues = [_cue_told(c, (item.id, "end"), fresh) for c in document.project.cues]
    return with_project(document, ground=ground, layers=[told(x) for x in document.project.layers], cues=cues)


def _cue_told(cue: Cue, tied: tuple[str, str], item: str, by: int = 0) -> Cue:
    """A cue, tied to another item so many frames on if it is tied like that."""
    if (cue.tie.item, cue.tie.to) != tied:
        return cue
    return cue.model_copy(update={"tie": cue.tie.model_copy(update={"item": item, "offset": cue.tie.offset + by})})


def closed(document: Document, left: GroundItem, right: GroundItem) -> Document:
    """The document with two items that lie side by side made one again, if they are the parts of one; else as it is."""
    source = left.source.joined(right.source)
    if source is None or left.framing != right.framing or right.fade:
        return document
    lasts = left.source.lasts(document), right.source.lasts(document)
    keys = _shifted(left.keys, end=-lasts[1])
    same = {f.id: g.id for f, g in zip(right.finishes, left.finishes, strict=False)}
    same |= {b.id: c.id for b, c in zip(right.behaviours, left.behaviours, strict=False)}
    finishes = [f.model_copy(update={"id": same.get(f.id, f.id)}) for f in right.finishes]
    behaviours = _going_on(left.behaviours, after=-lasts[1])
    others = [b.model_copy(update={"id": same.get(b.id, b.id)}) for b in _going_on(right.behaviours, before=-lasts[0])]
    if finishes != left.finishes or others != behaviours:
        return document
    if _plain(_shifted(right.keys, start=lasts[0]), same) != _plain(keys, {}):
        return document
    loudness = left.loudness.model_copy(update={"fade_out": right.loudness.fade_out})
    if left.loudness.fade_out or loudness != right.loudness.model_copy(update={"fade_in": left.loudness.fade_in}):
        return document
    whole = left.model_copy(update={"source": source, "keys": keys, "behaviours": behaviours, "loudness": loudness})

    def told(layer: Layer) -> Layer:
        changes: dict[str, object] = {"over": left.id} if layer.over == right.id else {}
        for name in ("starts", "ends"):
            tied: Tied | None = getattr(layer, name)
            if tied is None or tied.item not in (left.id, right.id):
                continue
            changes[name] = _over_the_seam(tied, left.id, right.id, lasts)
        return layer.model_copy(update=changes) if changes else layer

    ground = [whole if g.id == left.id else g for g in document.project.ground if g.id != right.id]
    cues = document.project.cues
    # The end of the left part is a place within the whole now, as is the start of the right one.
    seams = (((left.id, "end"), -lasts[1]), ((right.id, "end"), 0), ((right.id, "start"), lasts[0]))
    for tied, by in seams:
        cues = [_cue_told(c, tied, left.id, by) for c in cues]
    return with_project(document, ground=ground, layers=[told(x) for x in document.project.layers], cues=cues)


def _over_the_seam(tied: Tied, left: str, right: str, lasts: tuple[int, int]) -> Tied:
    """A tie to either part as a tie to the whole."""
    if tied.item == right:
        by = lasts[0] if tied.to == "item start" else 0
    else:
        by = -lasts[1] if tied.to == "item end" else 0
    return tied.model_copy(update={"item": left, "offset": tied.offset + by})


def _by_its_start(document: Document, item: GroundItem) -> list[Key]:
    """An item's keys, those that are tied to a moment or a cut by its start instead, on the same frames."""
    if not any(k.to for k in item.keys):
        return item.keys
    ties = Timeline(document).ties_of(item)
    plain = {"tie": "start", "to": None}
    return [k.model_copy(update={**plain, "offset": ties.frame(k) - ties.start}) if k.to else k for k in item.keys]


def _going_on(behaviours: list[Behaviour], before: int = 0, after: int = 0) -> list[Behaviour]:
    """Behaviours that began so many frames before, or go on after, what they belong to now."""
    return [b.model_copy(update={"before": b.before + before, "after": b.after + after}) for b in behaviours]


def _shifted(keys: list[Key], start: int = 0, end: int = 0) -> list[Key]:
    """Keys at the same project frames, after the start or the end that they count from has moved."""
    moved = []
    for key in keys:
        by = end if key.tie == "end" else start
        moved.append(key.model_copy(update={"offset": key.offset + by}) if by else key)
    return moved


def _plain(keys: list[Key], finishes: Mapping[str, str]) -> list[tuple[object, ...]]:
    """The effect of keys, whatever their ids and those of the finishes that they belong to."""
    found: list[tuple[object, ...]] = []
    for key in keys:
        owner, dot, setting = key.channel.partition(".")
        found.append((f"{finishes.get(owner, owner)}{dot}{setting}", key.tie, key.offset, key.value, key.easing))
    return found


def as_worn(finishes: list[Finish], values: Mapping[str, list[float]]) -> list[Finish]:
    """Finishes with the values that some of their settings have at a time, by channel."""
    worn = []
    for finish in finishes:
        given = {k.partition(".")[2]: v[0] for k, v in values.items() if k.startswith(f"{finish.id}.")}
        worn.append(Finish.model_validate({**finish.model_dump(), "settings": {**finish.settings, **given}}))
    return worn
