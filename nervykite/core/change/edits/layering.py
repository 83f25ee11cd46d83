"""Edits of layers in the sky."""

from typing import Annotated, Any, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...piece.model import Arrangement, Behaviour, Blur, Document, Finish, Framing, Layer, Source, Tied, Way
from ...piece.model.base import FrameNumber, Id, Name, Number, new_id
from ...piece.model.blend import BlendMode
from ...piece.model.naming import free_name
from ...piece.motion.channels import SOURCE
from ...piece.motion.keyable import settings_of
from ...piece.timeline.ripple import free_ties, tied_to
from ...piece.timeline.timeline import Timeline
from .base import (
    Edit,
    behaving,
    dressed,
    groups_of,
    hold_behind,
    hold_shown,
    layer_of,
    open_layer,
    put_in_order,
    suited,
    with_hold,
    with_layer,
    with_members,
    with_project,
    without_unused_holds,
)
from .copying import hold_again, renewed


class ChangeLayer(Edit):
    """Changes what is given of a layer; `clear` names the fields to set back.

    `until` is the project frame at which its free end comes to lie: the first one after a trail, the first one of a
    layer that waits. What lies free has another end to choose, its first frame, `since`; `slide` moves it by so many
    frames, as long as it is. All are kept as ties.
    """

    kind: Literal["change layer"] = "change layer"
    layer: Id
    name: Name | None = None
    visible: bool | None = None
    locked: bool | None = None
    solo: bool | None = None
    tag: Annotated[Name, Field(max_length=24)] | None = None
    blend: BlendMode | None = None
    arrangement: Arrangement | None = None
    since: FrameNumber | None = None
    until: FrameNumber | None = None
    slide: Annotated[int, Field(ge=-1_000_000, le=1_000_000)] | None = None
    framing: Framing | None = None
    anchor: tuple[Number, Number] | None = None
    finishes: Annotated[list[Finish], Field(max_length=40)] | None = None
    behaviours: Annotated[list[Behaviour], Field(max_length=20)] | None = None
    way: Way | None = None
    blur: Blur | None = None
    source: Source | None = None
    clear: list[Literal["until", "anchor", "tag", "framing", "blur"]] = []

    def title(self, document: Document) -> str:
        layer = layer_of(document, self.layer)
        name = layer.name
        if self.name is not None:
            return f"rename {name} to {self.name}"
        if self.visible is not None:
            return f"{'show' if self.visible else 'hide'} {name}"
        if self.locked is not None:
            return f"{'lock' if self.locked else 'unlock'} {name}"
        if self.solo is not None:
            return f"look at {name} alone" if self.solo else f"look at more than {name}"
        if self.tag is not None or "tag" in self.clear:
            return f"tag {name} {self.tag}" if self.tag else f"take the tag off {name}"
        if self.framing is not None or "framing" in self.clear:
            return f"frame {name}"
        if self.slide is not None:
            return f"slide {name}"
        if self.blend is not None:
            return f"blend {name} by {self.blend}"
        if self.finishes is not None:
            return f"dress {name}"
        if self.behaviours is not None:
            return f"change how {name} behaves"
        if self.way is not None:
            return f"change how {name} goes along its path"
        if self.blur is not None or "blur" in self.clear:
            return f"set the motion blur of {name}"
        if self.arrangement is not None:
            return f"make {name} {self.arrangement.doing}"
        if self.source is not None:
            return self.source.changed(layer.source, name)
        return f"{'re-anchor' if self.anchor is not None or 'anchor' in self.clear else 'trim'} {name}"

    def apply(self, document: Document) -> Document:
        layer = layer_of(document, self.layer)
        if self.locked is None and self.visible is None and self.solo is None:
            open_layer(document, layer.id)
        names = ("name", "visible", "locked", "solo", "tag", "blend", "anchor", "framing", "way", "blur")
        given: dict[str, Any] = {n: v for n in names if (v := getattr(self, n)) is not None}
        if self.source is not None:
            if "sky" not in self.source.on:
                raise Refusal(f"{self.source.title} cannot fly. Put it into the ground.")
            given["source"] = self.source.checked(document)
            given |= _named_after(document, layer, self.source)
            known = settings_of(type(self.source))
            parted = [(k, *k.channel.partition(".")) for k in layer.keys]
            given["keys"] = [k for k, head, _, setting in parted if head != SOURCE or setting in known]
        if self.finishes is not None:
            given |= dressed(document, layer.model_copy(update=given), self.finishes)
        if self.behaviours is not None:
            given |= behaving(layer.model_copy(update=given), self.behaviours)
        if self.arrangement is not None and self.arrangement != layer.arrangement:
            source = given.get("source", layer.source)
            given["source"] = source.moving(document) if self.arrangement.travels else source.standing(document)
            given |= {"arrangement": self.arrangement, **_ends(document, layer, self.arrangement)}
        if "until" in self.clear:
            given |= {"starts": None, "ends": None}
        given |= {name: None for name in ("anchor", "tag", "framing", "blur") if name in self.clear}
        document = with_layer(document, layer.id, **given)
        if "arrangement" in given:
            suited(document, layer.id)
        layer = layer_of(document, layer.id)
        if self.slide is not None and layer.source.gathers:
            document = _with_its_members(document, layer, self.slide)
            if layer.starts is None and layer.ends is None:
                return document
        if self.since is not None or self.slide is not None:
            document = _lying(document, layer, self.since, self.until, self.slide or 0)
        elif self.until is not None:
            document = _ending(document, layer, self.until)
        return document


def _named_after(document: Document, layer: Layer, source: Source) -> dict[str, Any]:
    """The name that follows what a layer shows, unless somebody gave it another one."""
    was, now = layer.source.called(document), source.called(document)
    stem, _, last = layer.name.rpartition(" ")
    if was == now or was not in (layer.name, stem if last.isdigit() else layer.name):
        return {}
    return {"name": free_name(now, {x.name for x in document.project.layers if x.id != layer.id})}


def _ends(document: Document, layer: Layer, arrangement: Arrangement) -> dict[str, Tied | None]:
    """The free ends of a layer that comes to be arranged so: what lies free lies where it lay."""
    timeline = Timeline(document)
    place, span = timeline.place(layer), timeline.span(layer)
    if len(arrangement.free) < 2 or place is None or span is None:
        return {"starts": None, "ends": None}
    return dict(free_ties(place, span.start, span.end))


def _with_its_members(document: Document, group: Layer, slide: int) -> Document:
    """The document with what lies free in a group slid in time by so many frames."""
    for member in [x for x in document.project.layers if x.group == group.id]:
        if len(member.arrangement.free) > 1:
            document = ChangeLayer(layer=member.id, slide=slide).apply(document)
    return document


def _lying(document: Document, layer: Layer, since: int | None, until: int | None, slide: int) -> Document:
    """The document with a layer that lies free begun and ended at project frames. Raises Refusal."""
    timeline = Timeline(document)
    place, span = timeline.place(layer), timeline.span(layer)
    if place is None or span is None:
        raise Refusal(f"{layer.name} has no place in the piece. Put footage into the ground first.")
    if len(layer.arrangement.free) < 2:
        raise Refusal(f"{layer.name} goes by its moment. Make it lie free to move it in time.")
    if slide:  # as far as the piece goes
        slide = max(-span.start, min(slide, place.piece - span.end))
    start = (span.start if since is None else since) + slide
    end = (span.end if until is None else until) + slide
    wrong = layer.arrangement.refuses(start, end, place)
    if wrong:
        raise Refusal(wrong)
    return with_layer(document, layer.id, **free_ties(place, start, end))


def _ending(document: Document, layer: Layer, frame: int) -> Document:
    """The document with the free end of a layer at a project frame. Raises Refusal if it does not fit there."""
    timeline = Timeline(document)
    place, span = timeline.place(layer), timeline.span(layer)
    if place is None or span is None:
        raise Refusal(f"The footage of {layer.name} is not in the ground any more.")
    if not layer.arrangement.free:
        raise Refusal(f"{layer.name} lasts as long as its footage does: it has no end to drag.")
    end = layer.arrangement.free[-1]
    if len(layer.arrangement.free) > 1:
        return _lying(document, layer, None, frame, 0)
    start, past = (frame, span.end) if end == "start" else (span.start, frame)
    wrong = layer.arrangement.refuses(start, past, place)
    if wrong:
        raise Refusal(wrong)
    return with_layer(document, layer.id, **{f"{end}s": tied_to(place, frame)})


Layers = Annotated[list[Id], Field(min_length=1, max_length=2000)]


class MoveLayer(Edit):
    """Puts layers at another height: so many layers of the group (None: of those in no group) lie below them then."""

    kind: Literal["move layer"] = "move layer"
    layers: Layers
    to: Annotated[int, Field(ge=0, le=100_000)]
    group: Id | None = None

    def title(self, document: Document) -> str:
        name, group = names_of(document, self.layers), self.group
        inside = any(layer_of(document, x).group != group for x in self.layers)
        if not inside:
            return f"reorder {name}"
        return f"put {name} into {layer_of(document, group).name}" if group else f"take {name} out of its group"

    def apply(self, document: Document) -> Document:
        layers = chosen_in_order(document, self.layers)
        if self.group is not None:
            group = open_layer(document, self.group)
            if not group.source.gathers:
                raise Refusal(f"{group.name} is no group. Choose one, or make one of several layers.")
            if group.id in with_members(document, self.layers):
                raise Refusal(f"{group.name} cannot be put into itself.")
        return with_project(document, layers=put_in_order(document, layers, self.group, self.to))


def chosen_in_order(document: Document, ids: list[str]) -> list[Layer]:
    """Layers that may be changed, from the farthest to the nearest, without those whose group is among them."""
    chosen = {open_layer(document, x).id for x in ids}
    return [
        x for x in document.project.layers if x.id in chosen and not any(g.id in chosen for g in groups_of(document, x))
    ]


def names_of(document: Document, ids: list[str]) -> str:
    """The title of some layers in the history."""
    first = layer_of(document, ids[0]).name
    return first if len(ids) == 1 else f"{first} and {len(ids) - 1} more"


class RemoveLayer(Edit):
    """Removes a layer, and what belongs to it; its hold goes when nothing else uses it."""

    kind: Literal["remove layer"] = "remove layer"
    layer: Id

    def title(self, document: Document) -> str:
        return f"remove {layer_of(document, self.layer).name}"

    def apply(self, document: Document) -> Document:
        gone = with_members(document, [open_layer(document, self.layer).id])
        layers = [x for x in document.project.layers if x.id not in gone]
        return without_unused_holds(with_project(document, layers=layers))


class DuplicateLayer(Edit):
    """Adds a copy right above a layer, and of what belongs to it, sharing its hold or with a hold of its own."""

    kind: Literal["duplicate layer"] = "duplicate layer"
    layer: Id
    separate: bool = False
    copy_id: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return f"duplicate {layer_of(document, self.layer).name}"

    def apply(self, document: Document) -> Document:
        layer = layer_of(document, self.layer)
        members = with_members(document, [layer.id])
        fresh = {id_: new_id() for id_ in sorted(members)} | {layer.id: self.copy_id}
        taken = {x.name for x in document.project.layers}
        copies = []
        for one in (x for x in document.project.layers if x.id in members):
            name = free_name(one.name, taken)
            taken.add(name)
            changes = {
                "id": fresh[one.id],
                "name": name,
                "locked": False,
                "group": fresh.get(one.group or "", one.group),
            }
            copies.append(renewed(one).model_copy(update=changes))
        layers = list(document.project.layers)
        at = max(n for n, x in enumerate(layers) if x.id in members) + 1
        document = with_project(document, layers=[*layers[:at], *copies, *layers[at:]])
        if self.separate:
            for copy in copies:
                if hold_shown(copy) is not None:
                    document = MakeSeparate(layer=copy.id).apply(document)
        return document


class MakeSeparate(Edit):
    """Gives a layer a hold of its own, with a copy of the matte it shared."""

    kind: Literal["make separate"] = "make separate"
    layer: Id

    def title(self, document: Document) -> str:
        return f"make {layer_of(document, self.layer).name} separate"

    def apply(self, document: Document) -> Document:
        layer = layer_of(document, self.layer)
        own = hold_again(hold_behind(document, layer), name=layer.name)
        source = layer.source.model_copy(update={"hold": own.id})
        return with_layer(with_hold(document, own), layer.id, source=source)
