"""The base of edits, and what edits share: finding things in a document, and putting changed ones back."""

from collections.abc import Callable, Iterable, Sequence
from typing import Any

from ...common.errors import Refusal
from ...piece.model import Behaviour, Document, Finish, GroundItem, Hold, Key, Layer, Shot, Source, Stop, Travel
from ...piece.model.base import Id, Model, new_id
from ...piece.model.behaviour import Moved
from ...piece.model.finish import Target
from ...piece.timeline.clock import landing
from ...piece.timeline.timeline import Timeline
from .cues_kept import cues_kept


class Edit(Model):
    """One thing done to a document."""

    def title(self, document: Document) -> str:
        """The edit's title in the history, given the document before it."""
        raise NotImplementedError

    def apply(self, document: Document) -> Document:
        """The document afterwards, as far as this edit knows; `make` is to be called."""
        raise NotImplementedError

    def make(self, document: Document) -> Document:
        """The document afterwards. Raises Refusal if it does not fit, or names something new as what is there."""
        taken = self.brings() & ids_of(document)
        if taken:
            raise Refusal(f"There is something with the id {min(taken)} already. Give what is new an id of its own.")
        return self.apply(document)

    def brings(self) -> set[str]:
        """The ids that the edit gives to what it makes."""
        fields = type(self).model_fields.items()
        return {getattr(self, name) for name, field in fields if field.default_factory is new_id}


def ids_of(document: Document) -> set[str]:
    """The ids of all that is in a document and can be pointed at by itself."""
    project = document.project
    things = (project.ground, project.layers, project.cues, project.sets, project.made, project.behaviours)
    kept = {x.id for some in things for x in some}
    return kept | {project.id, *document.shots, *document.holds, *document.assets, *document.tracks}


def with_project(document: Document, **changes: Any) -> Document:
    """The document with some of its project changed. Cues that lose what they are tied to stay where they are heard."""
    after = document.model_copy(update={"project": document.project.model_copy(update=changes)})
    if document.project.cues and ("layers" in changes or "ground" in changes):
        cues = cues_kept(document, after)
        if cues is not after.project.cues:
            after = after.model_copy(update={"project": after.project.model_copy(update={"cues": cues})})
    return after


def replaced(things: Sequence, id_: str, change: Callable) -> list:
    """The things, the one of that id changed."""
    return [change(t) if t.id == id_ else t for t in things]


def layer_of(document: Document, id_: str) -> Layer:
    """A layer by its id. Raises Refusal if it is gone."""
    layer = document.layer(id_)
    if layer is None:
        raise Refusal("That layer is no longer there. Choose another.")
    return layer


def open_layer(document: Document, id_: str) -> Layer:
    """A layer that may be changed, by its id. Raises Refusal if it is gone, or it or its group is locked."""
    layer = layer_of(document, id_)
    for one in (layer, *groups_of(document, layer)):
        if one.locked:
            raise Refusal(f"{one.name} is locked. Unlock it first.")
    return layer


def groups_of(document: Document, layer: Layer) -> list[Layer]:
    """The groups that a layer belongs to, from the innermost out."""
    found: list[Layer] = []
    above = document.layer(layer.group) if layer.group else None
    while above is not None and above not in found:
        found.append(above)
        above = document.layer(above.group) if above.group else None
    return found


def with_members(document: Document, ids: Iterable[str]) -> set[str]:
    """Some layers' ids, and those of all that belongs to them, however deep."""
    found = set(ids)
    while more := {x.id for x in document.project.layers if x.group in found and x.id not in found}:
        found |= more
    return found


def put_in_order(document: Document, layers: Sequence[Layer], group: str | None, at: int | None) -> list[Layer]:
    """All layers once some of them, or new ones, lie in a group (None: in none) with so many of its layers below them.

    at: None puts them above all.
    """
    moved = {x.id for x in layers}
    rest = [x for x in document.project.layers if x.id not in moved]
    beside = [n for n, x in enumerate(rest) if x.group == group]
    put = [x if x.group == group else x.model_copy(update={"group": group}) for x in layers]
    if at is None or at >= len(beside):
        place = beside[-1] + 1 if beside else len(rest)
    else:
        place = beside[at]
    return [*rest[:place], *put, *rest[place:]]


def hold_of(document: Document, id_: str) -> Hold:
    """A hold by its id. Raises Refusal if it is gone."""
    if id_ not in document.holds:
        raise Refusal("That hold is no longer there. Choose another.")
    return document.holds[id_]


def shot_of(document: Document, id_: str) -> Shot:
    """A shot by its id. Raises Refusal if it is not there."""
    if id_ not in document.shots:
        raise Refusal("That shot is not part of this project. Import it first.")
    return document.shots[id_]


def item_of(document: Document, id_: str) -> GroundItem:
    """A piece of the ground by its id. Raises Refusal if it is gone."""
    item = document.item(id_)
    if item is None:
        raise Refusal("That piece of footage is no longer in the ground. Choose another.")
    return item


def with_item(document: Document, id_: str, **changes: Any) -> Document:
    """The document with some of a ground item changed."""
    ground = replaced(document.project.ground, id_, lambda x: x.model_copy(update=changes))
    return with_project(document, ground=ground)


def with_owner(document: Document, owner: Layer | GroundItem, **changes: Any) -> Document:
    """The document with some of a layer or a ground item changed."""
    change = with_layer if isinstance(owner, Layer) else with_item
    return change(document, owner.id, **changes)


def with_layer(document: Document, id_: str, **changes: Any) -> Document:
    """The document with some of a layer changed."""
    layers = replaced(document.project.layers, id_, lambda x: x.model_copy(update=changes))
    return with_project(document, layers=layers)


def with_hold(document: Document, hold: Hold) -> Document:
    """The document with a hold put in, or in place of the one of its id."""
    return document.model_copy(update={"holds": {**document.holds, hold.id: hold}})


def sources_of(document: Document) -> list[Source]:
    """The sources shown in ground and sky."""
    return [*(g.source for g in document.project.ground), *(x.source for x in document.project.layers)]


def without_unused_holds(document: Document) -> Document:
    """The document without holds that nothing in sky or ground needs."""
    used = {hold for source in sources_of(document) for hold in source.needs}
    return document.model_copy(update={"holds": {k: v for k, v in document.holds.items() if k in used}})


def travel_of(hold: Hold) -> Travel:
    """The travel of a hold's matte. Raises Refusal if it stays put."""
    if hold.travel is None:
        raise Refusal(f"The matte of {hold.name} does not travel. Give it a range first.")
    return hold.travel


def with_stops(travel: Travel, stops: list[Stop]) -> Travel:
    """A travel with stops put in, or in place of those of their frames."""
    known = {s.frame: s for s in travel.stops} | {s.frame: s for s in stops}
    return travel.model_copy(update={"stops": [known[f] for f in sorted(known)]})


def hold_shown(layer: Layer) -> str | None:
    """The hold whose cutout a layer shows; None if it shows something else."""
    return getattr(layer.source, "hold", None)


def hold_behind(document: Document, layer: Layer) -> Hold:
    """The hold whose cutout a layer shows. Raises Refusal if it shows none."""
    hold = hold_shown(layer)
    if hold is None:
        raise Refusal(f"{layer.name} is not a cutout, so it has no matte.")
    return hold_of(document, hold)


def shows_frame(document: Document, item: GroundItem, shot: str, frame: int) -> bool:
    """True if a ground item shows footage of a shot around a source frame."""
    if item.source.footage(document) != shot:
        return False
    return landing(item.source.frames(document), frame, item.source.beyond) is not None


def dressed(document: Document, owner: Layer | GroundItem, finishes: Sequence[Finish]) -> dict[str, Any]:
    """The changes to a layer or a ground item with other finishes: keys of those taken off go with them.

    Raises Refusal if one of them cannot be put on it, or needs what is not on the shelf.
    """
    shelf = {a.file for a in document.assets.values()}
    target: Target = "cutout" if isinstance(owner, Layer) and not owner.source.washes else "ground"
    for finish in finishes:
        if target not in finish.look.on:
            raise Refusal(f"{finish.look.title} needs an edge to go around. Put it on something that flies.")
        if not shelf.issuperset(finish.look.files):
            raise Refusal(f"{finish.look.title} needs a file that is not on the shelf. Import it first.")
    return {"finishes": list(finishes), "keys": _without(owner, owner.finishes, finishes)}


def behaving(owner: Layer | GroundItem, behaviours: Sequence[Behaviour]) -> dict[str, Any]:
    """The changes to a layer or a ground item with other behaviours: keys of those taken off go with them.

    Raises Refusal if one of them cannot be put on it.
    """
    suits(behaviours, "sky" if isinstance(owner, Layer) else "ground")
    return {"behaviours": list(behaviours), "keys": _without(owner, owner.behaviours, behaviours)}


def suits(behaviours: Sequence[Behaviour], on: Moved) -> None:
    """Raises Refusal if one of some behaviours cannot be put on such a thing."""
    for one in behaviours:
        if on not in one.way.on:
            raise Refusal(f"{one.way.title} is for what flies. Put it on a layer.")


def _without(owner: Layer | GroundItem, before: Sequence, after: Sequence) -> list[Key]:
    """An owner's keys without those of what it no longer has, of finishes or behaviours."""
    gone = {x.id for x in before} - {x.id for x in after}
    return [k for k in owner.keys if k.channel.partition(".")[0] not in gone]


def suited(document: Document, id_: str) -> None:
    """Raises Refusal if a layer cannot lie as it is arranged."""
    layer = layer_of(document, id_)
    place = Timeline(document).place(layer)
    if place is None:
        return
    wrong = layer.arrangement.unsuited(place)
    if wrong:
        raise Refusal(wrong)


class OwnerEdit(Edit):
    """An edit of what a layer does over time, or a ground item: one of the two is named."""

    layer: Id | None = None
    item: Id | None = None

    def owner(self, document: Document) -> Layer | GroundItem:
        """The layer or ground item that is meant. Raises Refusal if it is gone."""
        if (self.layer is None) == (self.item is None):
            raise Refusal("Name a layer or a piece of the ground, and only one of them.")
        return layer_of(document, self.layer) if self.layer is not None else item_of(document, self.item or "")

    def open_owner(self, document: Document) -> Layer | GroundItem:
        """The same, if it may be changed. Raises Refusal if it is gone or locked."""
        owner = self.owner(document)
        return open_layer(document, owner.id) if isinstance(owner, Layer) else owner

    def name(self, document: Document) -> str:
        """The name that it is called by."""
        owner = self.owner(document)
        return owner.name if isinstance(owner, Layer) else document.called(owner)
