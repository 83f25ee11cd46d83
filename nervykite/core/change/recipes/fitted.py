"""Things made for one canvas and rate, as they are on another: lengths, frames and colours of settings."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any, TypeVar

from ...piece.model import Behaviour, Finish, Key, PutOn
from ...piece.model.kinds import Kind
from ...piece.motion.keyable import settings_of

K = TypeVar("K", bound=Kind)


@dataclass(frozen=True)
class Fit:
    """size: how many times as large, pace: how many times as many frames; colours: which come in the place of which."""

    size: float = 1.0
    pace: Fraction = Fraction(1)
    colours: Mapping[str, str] = field(default_factory=dict)

    def frames(self, count: int) -> int:
        """So many frames of there, here; at least one if it was one."""
        here = round(abs(count) * self.pace)
        return (here or int(count != 0)) * (1 if count >= 0 else -1)

    def colour(self, colour: str) -> str:
        """The colour that stands here for a colour there."""
        return self.colours.get(colour.lower(), colour)

    def kind(self, made: K) -> K:
        """A kind of thing with its settings as they are here."""
        changed = {}
        for name, schema in type(made).settings_schema()["properties"].items():
            was = getattr(made, name, None)
            now = self._setting(was, schema)
            if now != was:
                changed[name] = now
        return type(made).family.parse({**made.model_dump(mode="json"), **changed}) if changed else made

    def finish(self, finish: Finish) -> Finish:
        """A finish as it is here."""
        return finish.model_copy(update={"settings": self.kind(finish.look).settings})

    def behaviour(self, behaviour: Behaviour) -> Behaviour:
        """A behaviour as it is here."""
        return behaviour.model_copy(update={"settings": self.kind(behaviour.way).settings})

    def move(self, move: PutOn | None) -> PutOn | None:
        """A move as it is here."""
        return move and move.model_copy(update={"settings": self.kind(move.move).settings})

    def key(self, key: Key, of: Mapping[str, type[Kind]], larger: bool) -> Key:
        """A key as it is here; of: what the heads of channels' names stand for; larger: its scale grows as well."""
        head, _, setting = key.channel.partition(".")
        value, by = key.value, 1.0
        if head in ("position", "across", "down") or (head == "scale" and larger):
            by = self.size
        elif head in of:
            schema = of[head].settings_schema()["properties"].get(setting, {})
            known = settings_of(of[head]).get(setting)
            if known is not None and known.sort == "colour":
                value = known.numbers(self.colour(known.value(value)))
            by = self.size if schema.get("unit") == "px" else 1.0
        bend = key.bend and tuple(v * self.size for v in key.bend)
        changes: dict[str, Any] = {"value": [v * by for v in value], "offset": self.frames(key.offset), "bend": bend}
        return key.model_copy(update=changes)

    def _setting(self, was: Any, schema: Mapping[str, Any]) -> Any:
        if isinstance(was, str) and was.startswith("#"):
            return self.colour(was)
        if not isinstance(was, int | float) or isinstance(was, bool):
            return was
        low, high = schema.get("minimum", -1e9), schema.get("maximum", 1e9)
        if schema.get("unit") == "px" and self.size != 1:
            return min(high, max(low, type(was)(round(was * self.size, 3))))
        if schema.get("unit") == "fr" and self.pace != 1:
            return min(high, max(low, self.frames(int(was))))
        return was
