"""Settings of finishes and behaviours as numbers that can have keys, and back again."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any, Literal

from ...common.colour import hex_of, mixed, rgb_of
from ..model.kinds import Kind

Sort = Literal["number", "whole", "switch", "choice", "colour"]


@dataclass(frozen=True)
class KeyableSetting:
    """A setting that can have keys, and how its values are numbers there.

    A number is itself, a whole one lies between two of them for a while; a switch is 0 or 1, and a choice its place
    among `options`, both held until the next key; a colour is R', G', B', each 0…1, mixed as eyes see it.
    """

    title: str
    sort: Sort
    low: float = -1e6
    high: float = 1e6
    options: tuple[str, ...] = ()

    @property
    def count(self) -> int:
        """The number of numbers its value is in a key."""
        return 3 if self.sort == "colour" else 1

    @property
    def held(self) -> bool:
        """True if it is as a key says until the next one, with nothing between."""
        return self.sort in ("switch", "choice")

    def numbers(self, value: Any) -> list[float]:
        """A value of the setting as a key has it."""
        if self.sort == "colour":
            return list(rgb_of(value))
        return [float(self.options.index(value) if self.sort == "choice" else value)]

    def value(self, numbers: Sequence[float]) -> Any:
        """The value of the setting for the numbers of a key; eased beyond its limits, the nearest that fits."""
        if self.sort == "colour":
            return hex_of(numbers)
        number = min(self.high, max(self.low, numbers[0]))
        if self.sort == "choice":
            return self.options[round(number)]
        return number if self.sort == "number" else bool(round(number)) if self.sort == "switch" else round(number)

    def between(self, one: Sequence[float], other: Sequence[float], share: float) -> list[float]:
        """So much of the way from one value to another, 0…1 or beyond, where an easing goes beyond."""
        if self.held:
            return list(other if share >= 1 else one)
        if self.sort == "colour":
            return mixed(one, other, share)
        return [a + (b - a) * share for a, b in zip(one, other, strict=True)]


STRENGTH = KeyableSetting("Strength", "number", 0.0, 10.0)
"""How strong a behaviour is."""


@cache
def settings_of(kind: type[Kind]) -> dict[str, KeyableSetting]:
    """The settings of a kind that can have keys, by name: all but chance, and those that say `keyable: False`."""
    found = {}
    for name, schema in kind.settings_schema()["properties"].items():
        sort = _sort(schema)
        if sort is None or not schema.get("keyable", True):
            continue
        title, options = schema.get("title", name), tuple(schema.get("enum", ()))
        low, high = schema.get("minimum", -1e6), schema.get("maximum", 1e6)
        if sort in ("switch", "choice", "colour"):
            low, high = 0.0, float(len(options) - 1 if sort == "choice" else 1)
        found[name] = KeyableSetting(title, sort, low, high, options)
    return found


def _sort(schema: dict[str, Any]) -> Sort | None:
    """The sort of a setting, by its JSON Schema; None if it can have no keys."""
    if schema.get("format") == "colour" or schema.get("pattern", "").startswith("^#"):
        return "colour"
    if schema.get("format") is not None:
        return None
    if "enum" in schema and all(isinstance(x, str) for x in schema["enum"]):
        return "choice"
    sorts: dict[Any, Sort] = {"number": "number", "integer": "whole", "boolean": "switch"}
    return sorts.get(schema.get("type"))
