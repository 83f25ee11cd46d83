"""Edits of groups: layers that are moved, faded and blended together."""

import math
from functools import reduce
from typing import Any, Literal

import numpy as np
from pydantic import Field

from ...common.errors import Refusal
from ...kinds.arrangements.free import Free
from ...kinds.sources.group import GroupSource
from ...kinds.sources.rest import anchor_of, box_of, hull, keyed_of
from ...piece.model import Document, Key, Layer
from ...piece.model.base import Id, Name, new_id
from ...piece.model.layers import Pose
from ...piece.model.naming import free_name
from ...piece.motion.channels import rest_value
from ...piece.motion.keyed import Keyed
from ...piece.motion.placing import Placement, moved_by
from ...piece.timeline.timeline import Timeline
from .base import Edit, layer_of, open_layer, with_project
from .layering import Layers, chosen_in_order, names_of

SAME = ("position", "scale", "rotation")
"""What a group does that keeps shapes."""
MOVES = (*SAME, "across", "down", "width", "height", "shear", "anchor")
"""All that moves a layer."""


class MakeGroup(Edit):
    """Makes a group of layers, at the height of the nearest of them; nothing looks different but their order."""

    kind: Literal["make group"] = "make group"
    layers: Layers
    name: Name | None = None
    group: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return f"group {names_of(document, self.layers)}"

    def apply(self, document: Document) -> Document:
        members = chosen_in_order(document, self.layers)
        outer = members[0].group
        if any(x.group != outer for x in members):
            raise Refusal("Those layers belong to different groups. Take them out first, or choose layers of one.")
        left, top, right, bottom = reduce(hull, (box_of(document, x) for x in members))
        name = free_name(self.name or "Group 1", {x.name for x in document.project.layers})
        group = Layer(
            id=self.group, name=name, source=GroupSource(), arrangement=Free(), group=outer,
            anchor=((left + right) / 2, (top + bottom) / 2),
        )  # fmt: skip
        chosen = {x.id for x in members}
        inside = [x.model_copy(update={"group": group.id}) for x in members]
        layers: list[Layer] = []
        for layer in document.project.layers:
            if layer.id == members[-1].id:
                layers.extend([*inside, group])
            elif layer.id not in chosen:
                layers.append(layer)
        return with_project(document, layers=layers)


class Dissolve(Edit):
    """Takes a group away, and leaves its members where they are seen: what it did they do themselves."""

    kind: Literal["dissolve"] = "dissolve"
    group: Id

    def title(self, document: Document) -> str:
        return f"dissolve {layer_of(document, self.group).name}"

    def apply(self, document: Document) -> Document:
        group = open_layer(document, self.group)
        if not group.source.gathers:
            raise Refusal(f"{group.name} is no group.")
        timeline = Timeline(document)
        keyed = keyed_of(document, group, timeline)
        faded = any(k.channel == "opacity" for k in group.keys) or group.pose.opacity != 1
        faded = faded or any(b.visible and b.kind == "flicker" for b in group.behaviours)
        if faded or group.blend != "normal":
            raise Refusal(
                f"{group.name} is see-through or blended as a whole, which its members cannot be one by one."
                " Set its opacity to 100 % and its blend mode to normal first."
            )
        span, shown = timeline.span(group), timeline.members.get(group.id, [])
        if span is not None and (group.starts or group.ends):
            for member in shown:
                own = timeline.span(member)
                if own is not None and (own.start < span.start or own.end > span.end):
                    raise Refusal(
                        f"{group.name} is shorter than {member.name}, which would be seen longer. Trim that first."
                    )

        def freed(layer: Layer) -> Layer:
            if layer.group != group.id:
                return layer
            own = timeline.span(layer)
            moved = _moved(document, layer, group, keyed, (own.start, own.end) if own else None, timeline)
            return moved.model_copy(
                update={
                    "group": group.group,
                    "visible": layer.visible and group.visible,
                    "solo": layer.solo or group.solo,
                }
            )

        layers: list[Layer] = []
        for layer in document.project.layers:
            if layer.id == group.id:  # its members come to lie at its height
                layers.extend(freed(x) for x in shown)
            elif layer.group != group.id:
                layers.append(layer)
        return with_project(document, layers=layers)


def _moved(
    document: Document, layer: Layer, group: Layer, keyed: Keyed, span: tuple[int, int] | None, timeline: Timeline
) -> Layer:
    """A member with what its group does with it put into its own pose and keys.

    What a group that stands still does, turns keys into others exactly. Where the group has keys, so does the member
    on each frame.
    """
    anchor = anchor_of(document, layer)
    centre = anchor_of(document, group)
    still = not group.behaviours and not any(k.channel in MOVES for k in group.keys)
    if still and not layer.apart and group.pose.width == group.pose.height == 1 and group.pose.shear == 0:
        return _through(layer, keyed.placement(0).matrix(centre), group.pose.scale, group.pose.rotation, anchor)
    if span is None:
        return layer
    own = keyed_of(document, layer, timeline)
    keys = [k for k in layer.keys if k.channel not in MOVES]
    start = timeline.ties_of(layer).start
    for frame in range(*span):
        there = keyed.placement(frame).matrix(centre) @ own.placement(frame).matrix(anchor)
        made = Placement.of(there, anchor)
        values = {
            "position": list(made.position),
            "scale": [1.0],
            "width": [made.width],
            "height": [made.height],
            "rotation": [made.turn],
            "shear": [made.shear],
        }
        if made.width == made.height or math.isclose(made.width, made.height, rel_tol=1e-9):
            values |= {"scale": [made.width], "width": [1.0], "height": [1.0]}
        keys.extend(Key(channel=c, tie="start", offset=frame - start, value=v) for c, v in values.items())
    plain = {"keys": _thinned(keys), "apart": False, "behaviours": [], "entrance": None, "exit": None}
    return layer.model_copy(update=plain)


def _thinned(keys: list[Key]) -> list[Key]:
    """Keys on each frame without those of channels in which nothing ever differs from rest."""
    rest: dict[str, list[float]] = {"width": [1.0], "height": [1.0], "shear": [0.0], "scale": [1.0], "rotation": [0.0]}
    idle = {c for c, v in rest.items() if all(k.value == v for k in keys if k.channel == c)}
    return [k for k in keys if k.channel not in idle]


def _through(layer: Layer, matrix: np.ndarray, scale: float, turn: float, anchor: tuple[float, float]) -> Layer:
    """A layer whose pose and keys do what a matrix that stands still does with it as well."""

    def value(channel: str, given: list[float]) -> list[float]:
        if channel == "position":
            return list(moved_by(matrix, given, anchor))
        return [given[0] * scale] if channel == "scale" else [given[0] + turn]

    changed = {c: value(c, rest_value(layer, c)) for c in SAME}
    pose: dict[str, Any] = {c: tuple(v) if len(v) > 1 else v[0] for c, v in changed.items()}
    if not all(math.isfinite(x) for v in changed.values() for x in v):
        raise Refusal(f"{layer.name} cannot be made as large. Make its group smaller first.")
    linear = matrix[:2, :2]

    def through(key: Key) -> Key:
        if key.channel not in SAME:
            return key
        update: dict[str, Any] = {"value": value(key.channel, list(key.value))}
        if key.bend is not None:
            arrive, leave = (linear @ key.bend[n : n + 2] for n in (0, 2))
            update["bend"] = (*map(float, arrive), *map(float, leave))
        return key.model_copy(update=update)

    keys = [through(k) for k in layer.keys]
    return layer.model_copy(update={"pose": Pose(**{**layer.pose.model_dump(), **pose}), "keys": keys})
