"""The channels that can have keys: the numbers of a pose, of an item's framing, every setting of a source, a finish, a
behaviour.

Each goes by the channel's name: "rotation", "framing.scale", "<id>.<setting>".
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from ...common.errors import Refusal
from ..model import Behaviour, Finish, Framing, GroundItem, Layer, Pose
from .keyable import STRENGTH, KeyableSetting, settings_of


@dataclass(frozen=True)
class Channel:
    """A value that changes over time: its name, what undo calls changing it, how many numbers, and their limits."""

    name: str
    title: str
    doing: str
    count: int = 1
    low: float = -1e6
    high: float = 1e6
    setting: KeyableSetting | None = None
    """Of a setting, what its numbers mean."""

    def checked(self, value: Sequence[float]) -> list[float]:
        """The value if it fits. Raises Refusal."""
        if len(value) != self.count:
            raise Refusal(f"{self.title} is {self.count} number{'s' if self.count > 1 else ''}.")
        if not all(self.low <= v <= self.high for v in value):
            raise Refusal(f"{self.title} goes from {self.low:g} to {self.high:g}.")
        return list(value)


POSE = {
    c.name: c
    for c in (
        Channel("position", "Position", "move", count=2),
        Channel("across", "Across", "move"),
        Channel("down", "Down", "move"),
        Channel("scale", "Scale", "scale", low=0.0, high=50.0),
        Channel("width", "Width", "stretch", low=-50.0, high=50.0),
        Channel("height", "Height", "stretch", low=-50.0, high=50.0),
        Channel("rotation", "Rotation", "turn"),
        Channel("shear", "Shear", "shear", low=-80.0, high=80.0),
        Channel("anchor", "Anchor", "re-anchor", count=2),
        Channel("opacity", "Opacity", "fade", low=0.0, high=1.0),
    )
}
"""The channels that every layer has. Across and down take the place of position in a layer whose keys lie apart."""
FRAMING = {
    c.name: c
    for c in (
        Channel("framing.across", "Framing, across", "frame", low=-10.0, high=10.0),
        Channel("framing.down", "Framing, down", "frame", low=-10.0, high=10.0),
        Channel("framing.scale", "Framing, scale", "frame", low=0.01, high=50.0),
        Channel("framing.turn", "Framing, turn", "frame", low=-3600.0, high=3600.0),
    )
}
"""The channels that every ground item has: how it lies on the canvas, as by hand."""
GONE = "What that key belongs to is no longer there. Put that finish or behaviour on again first."


SOURCE = "source"
"""What stands in a channel's name for what a layer shows, where finishes and behaviours have their ids."""


def worn_by(owner: Layer | GroundItem) -> list[Finish | Behaviour]:
    """The things with settings that a layer or a ground item has on: finishes and behaviours."""
    return [*owner.finishes, *owner.behaviours]


def channel_of(owner: Layer | GroundItem, name: str) -> Channel:
    """A channel of a layer or a ground item by its name. Raises Refusal if it has none such."""
    own = POSE if isinstance(owner, Layer) else FRAMING
    if name in own:
        return own[name]
    setting = setting_of(owner, name)
    if setting is None:
        raise Refusal(GONE)
    doing = f"change {setting.title.lower()} of"
    return Channel(name, setting.title, doing, setting.count, setting.low, setting.high, setting)


def setting_of(owner: Layer | GroundItem, name: str) -> KeyableSetting | None:
    """The setting of a source, a finish or a behaviour that a channel gives values; None if there is none such."""
    id_, _, setting = name.partition(".")
    if id_ == SOURCE:
        return settings_of(type(owner.source)).get(setting) if isinstance(owner, Layer) else None
    worn = next((w for w in worn_by(owner) if w.id == id_), None)
    return None if worn is None else keyable(worn).get(setting)


def keyable(worn: Finish | Behaviour) -> dict[str, KeyableSetting]:
    """The settings of a finish or a behaviour that can have keys; of a behaviour its strength as well."""
    if isinstance(worn, Behaviour):
        return settings_of(type(worn.way)) | {"strength": STRENGTH}
    return settings_of(type(worn.look))


def rest_value(owner: Layer | GroundItem, name: str) -> list[float]:
    """A channel's value without keys. Raises Refusal if there is no such channel.

    An anchor that nobody has put anywhere has none; it is where `sources/rest.py` says.
    """
    if isinstance(owner, Layer):
        if name in ("across", "down"):
            return [owner.pose.position[name == "down"]]
        if name == "anchor":
            return list(owner.anchor or (0.0, 0.0))
        if name in POSE:
            value = getattr(owner.pose, name)
            return list(value) if POSE[name].count > 1 else [value]
    elif name in FRAMING:
        return [getattr(owner.framing, name.partition(".")[2])]
    id_, _, setting = name.partition(".")
    if id_ == SOURCE and (known := setting_of(owner, name)) is not None:
        return known.numbers(getattr(owner.source, setting))
    for worn in worn_by(owner):
        if worn.id == id_ and setting == "strength" and isinstance(worn, Behaviour):
            return [worn.strength]
        if worn.id == id_ and setting in keyable(worn):
            return keyable(worn)[setting].numbers(worn.settings[setting])
    raise Refusal(GONE)


def at_rest(owner: Layer | GroundItem, name: str, value: Sequence[float]) -> dict[str, Any]:
    """The changes to an owner when a channel without keys gets a value."""
    if isinstance(owner, Layer):
        if name in ("across", "down"):
            x, y = owner.pose.position
            return at_rest(owner, "position", (value[0], y) if name == "across" else (x, value[0]))
        if name == "anchor":
            return {"anchor": tuple(value)}
        if name in POSE:
            given = tuple(value) if POSE[name].count > 1 else value[0]
            return {"pose": Pose.model_validate({**owner.pose.model_dump(), name: given})}
    elif name in FRAMING:
        lies = {**owner.framing.model_dump(), name.partition(".")[2]: value[0]}
        return {"framing": Framing.model_validate(lies)}
    id_, _, setting = name.partition(".")
    if id_ == SOURCE and (known := setting_of(owner, name)) is not None:
        changed = {**owner.source.model_dump(), setting: known.value(value)}
        return {"source": type(owner.source).model_validate(changed)}
    finishes = [_with(f, setting, value) if f.id == id_ else f for f in owner.finishes]
    behaviours = [_with(b, setting, value) if b.id == id_ else b for b in owner.behaviours]
    return {"finishes": finishes, "behaviours": behaviours}


def _with(worn: Any, setting: str, value: Sequence[float]) -> Any:
    """A finish or a behaviour with one of its settings changed."""
    given, new = worn.model_dump(), keyable(worn)[setting].value(value)
    if setting == "strength" and isinstance(worn, Behaviour):
        given["strength"] = new
    else:
        given["settings"] = {**given["settings"], setting: new}
    return type(worn).model_validate(given)
