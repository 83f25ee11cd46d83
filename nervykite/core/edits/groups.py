"""Edits of groups: layers that are moved, faded and blended together."""

import math
from collections.abc import Iterable
from functools import reduce
from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..errors import Refusal
from ..model import Document, Key, Layer
from ..model.base import Id, Name, new_id
from ..model.layers import Pose
from ..model.naming import free_name
from ..motion.channels import rest_value
from ..motion.keys import Keyed
from ..motion.placing import moved_by, placed
from ..sources.group import GroupSource
from ..sources.rest import anchor_of, box_of, hull
from ..timeline.arrangements.free import Free
from ..timeline.timeline import Timeline
from .base import Edit, layer_of, open_layer, with_project
from .layers import Layers, chosen_in_order, names_of

MOVES = ("position", "scale", "rotation")


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
        keyed = Keyed(group, timeline.ties_of(group))
        faded = any(k.channel == "opacity" for k in group.keys) or group.pose.opacity != 1
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
    if not any(k.channel in MOVES for k in group.keys):
        pose = group.pose
        matrix = placed(pose.position, pose.scale, pose.rotation, centre)
        return _through(layer, matrix, pose.scale, pose.rotation, anchor)
    if span is None:
        return layer
    own = Keyed(layer, timeline.ties_of(layer))
    keys = [k for k in layer.keys if k.channel not in MOVES]
    start = timeline.ties_of(layer)["start"]
    for frame in range(*span):
        (scale,), (turn,) = keyed.value("scale", frame), keyed.value("rotation", frame)
        matrix = placed(keyed.value("position", frame), scale, turn, centre)
        (mine,), (turned,) = own.value("scale", frame), own.value("rotation", frame)
        values: dict[str, Iterable[float]] = {
            "position": moved_by(matrix, own.value("position", frame), anchor),
            "scale": [mine * scale],
            "rotation": [turned + turn],
        }
        keys.extend(Key(channel=c, tie="start", offset=frame - start, value=list(v)) for c, v in values.items())
    return layer.model_copy(update={"keys": keys})


def _through(layer: Layer, matrix: np.ndarray, scale: float, turn: float, anchor: tuple[float, float]) -> Layer:
    """A layer whose pose and keys do what a matrix that stands still does with it as well."""

    def value(channel: str, given: list[float]) -> list[float]:
        if channel == "position":
            return list(moved_by(matrix, given, anchor))
        return [given[0] * scale] if channel == "scale" else [given[0] + turn]

    changed = {c: value(c, rest_value(layer, c)) for c in MOVES}
    pose: dict[str, Any] = {c: tuple(v) if len(v) > 1 else v[0] for c, v in changed.items()}
    if not all(math.isfinite(x) for v in changed.values() for x in v):
        raise Refusal(f"{layer.name} cannot be made as large. Make its group smaller first.")
    keys = [
        k.model_copy(update={"value": value(k.channel, list(k.value))}) if k.channel in MOVES else k for k in layer.keys
    ]
    return layer.model_copy(update={"pose": Pose(**{**layer.pose.model_dump(), **pose}), "keys": keys})
