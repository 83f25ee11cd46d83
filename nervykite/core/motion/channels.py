"""What can have keys: the numbers of a pose, and every keyable setting of a finish, each under the channel's name."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from ..errors import Refusal
from ..model import Finish, GroundItem, Layer, Pose


@dataclass(frozen=True)
class Channel:
    """A value that changes over time: its name, what undo calls changing it, how many numbers, and their limits."""

    name: str
    title: str
    doing: str
    count: int = 1
    low: float = -1e6
    high: float = 1e6

    def checked(self, value: Sequence[float]) -> list[float]:
        """The value if it fits. Raises Refusal."""
        if len(value) != self.count:
            raise Refusal(f"{self.title} is {self.count} number{'s' if self.count > 1 else ''}.")
        if not self.low <= value[0] <= self.high:
            raise Refusal(f"{self.title} goes from {self.low:g} to {self.high:g}.")
        return list(value)


POSE = {
    c.name: c
    for c in (
        Channel("position", "Position", "move", count=2),
        Channel("scale", "Scale", "scale", low=0.0, high=50.0),
        Channel("rotation", "Rotation", "turn"),
        Channel("opacity", "Opacity", "fade", low=0.0, high=1.0),
    )
}
"""The channels that every layer has."""


def channel_of(owner: Layer | GroundItem, name: str) -> Channel:
    """A channel of a layer or a ground item by its name. Raises Refusal if it has none such."""
    if isinstance(owner, Layer) and name in POSE:
        return POSE[name]
    for finish in owner.finishes:
        for setting, schema in keyable(finish).items():
            if f"{finish.id}.{setting}" == name:
                title = schema.get("title", setting)
                low, high = schema.get("minimum", -1e6), schema.get("maximum", 1e6)
                return Channel(name, title, f"change {title.lower()} of", low=low, high=high)
    raise Refusal("What that key belongs to is no longer there. Put that finish on again first.")


def keyable(finish: Finish) -> dict[str, dict[str, Any]]:
    """The settings of a finish that can have keys, with their JSON Schema: numbers that do not say otherwise."""
    properties = type(finish.look).settings_schema()["properties"]
    return {k: s for k, s in properties.items() if s.get("type") == "number" and s.get("keyable", True)}


def rest_value(owner: Layer | GroundItem, name: str) -> list[float]:
    """A channel's value without keys. Raises Refusal if there is no such channel."""
    if isinstance(owner, Layer) and name in POSE:
        value = getattr(owner.pose, name)
        return list(value) if POSE[name].count > 1 else [value]
    id_, _, setting = name.partition(".")
    for finish in owner.finishes:
        if finish.id == id_ and setting in finish.settings:
            return [float(finish.settings[setting])]
    raise Refusal("What that key belongs to is no longer there. Put that finish on again first.")


def at_rest(owner: Layer | GroundItem, name: str, value: Sequence[float]) -> dict[str, Any]:
    """What changes of an owner when a channel without keys gets a value."""
    if isinstance(owner, Layer) and name in POSE:
        given = tuple(value) if POSE[name].count > 1 else value[0]
        return {"pose": Pose.model_validate({**owner.pose.model_dump(), name: given})}
    id_, _, setting = name.partition(".")
    finishes = [
        Finish.model_validate({**f.model_dump(), "settings": {**f.settings, setting: value[0]}}) if f.id == id_ else f
        for f in owner.finishes
    ]
    return {"finishes": finishes}
