"""Motion on top of keys: the protocol that all kinds of behaviours answer."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal, NamedTuple

import numpy as np
from pydantic import Field, model_validator

from .base import Id, Model, new_id
from .framing import Box
from .kinds import Family, Kind

Moved = Literal["sky", "ground", "piece"]
"""What behaviours can be put on: layers, ground items, all of it."""


@dataclass(frozen=True)
class BehaviourStage:
    """Where a behaviour plays.

    start, landing, end: project frames, half-open; rate: frames a second; box: what it moves, from the anchor at rest
    in project pixels; seed: what chance goes by.
    """

    start: int
    landing: int
    end: int
    rate: float
    box: Box
    seed: int = 0


class Shift(NamedTuple):
    """The values added at one time: project pixels, degrees clockwise, and factors of scale and opacity."""

    across: float
    down: float
    turn: float
    scale: float
    opacity: float


@dataclass(frozen=True)
class Shifts:
    """The values added at some times, each float64 (n,).

    across and down in project pixels, turn in degrees clockwise; scale and opacity are factors.
    """

    across: np.ndarray
    down: np.ndarray
    turn: np.ndarray
    scale: np.ndarray
    opacity: np.ndarray

    @classmethod
    def none(cls, n: int) -> "Shifts":
        """Nothing, at so many times."""
        zero, one = np.zeros(n), np.ones(n)
        return cls(zero, zero, zero, one, one)

    @classmethod
    def joined(cls, parts: "Sequence[Shifts]") -> "Shifts":
        """Those of several stretches of time, one after the other."""
        return cls(*(np.concatenate([getattr(p, n) for p in parts]) for n in Shift._fields))

    def at(self, n: int) -> Shift:
        """The shift at one of the times."""
        return Shift(*(float(getattr(self, name)[n]) for name in Shift._fields))

    def weighed(self, by: np.ndarray) -> "Shifts":
        """So much of it, at each time."""
        parts = self.across * by, self.down * by, self.turn * by
        return Shifts(*parts, 1 + (self.scale - 1) * by, 1 + (self.opacity - 1) * by)

    def with_(self, other: "Shifts") -> "Shifts":
        """Both together."""
        parts = self.across + other.across, self.down + other.down, self.turn + other.turn
        return Shifts(*parts, self.scale * other.scale, self.opacity * other.opacity)


class BehaviourKind(Kind):
    """A way of moving without keys, with its settings: lengths in project pixels, times in frames or seconds.

    It is a pure function of its settings, a seed and the time: the same frame always looks the same. `on` says what it
    can be put on.
    """

    family: ClassVar[Family[Any]] = Family("behaviour", "nervykite.core.kinds.behaviours")
    on: ClassVar[tuple[Moved, ...]] = ("sky", "ground", "piece")

    def shifts(self, times: np.ndarray, stage: BehaviourStage) -> Shifts:
        """The shifts that it adds at some times, in project frames, float64 (n,); at full strength."""
        raise NotImplementedError

    def grows(self) -> float:
        """The number of times as large as without it things get at most, at full strength."""
        return 1.0


class Behaviour(Model):
    """A behaviour put on something: which, its settings, and how strong it is over the time that it is there.

    `strength` 1 = as its settings say; it comes and goes over so many frames at the ends. What was cut in two has it
    begin so many frames `before` its own start, and end so many `after` its own end.
    """

    id: Id = Field(default_factory=new_id)
    kind: Annotated[str, Field(pattern=r"^[a-z][a-z-]{0,40}$")]
    settings: dict[str, Any] = {}
    visible: bool = True
    strength: Annotated[float, Field(ge=0, le=10)] = 1.0
    seed: Annotated[int, Field(ge=0, le=1_000_000)] = 0
    fade_in: Annotated[int, Field(ge=0, le=100_000)] = 0
    fade_out: Annotated[int, Field(ge=0, le=100_000)] = 0
    before: Annotated[int, Field(ge=-1_000_000, le=10_000_000)] = 0
    after: Annotated[int, Field(ge=-1_000_000, le=10_000_000)] = 0

    @model_validator(mode="before")
    @classmethod
    def _filled_in(cls, given: Any) -> Any:
        if isinstance(given, dict) and isinstance(given.get("kind"), str):
            made = BehaviourKind.family.parse({**(given.get("settings") or {}), "kind": given["kind"]})
            return {**given, "settings": made.settings}
        return given

    @property
    def way(self) -> BehaviourKind:
        """The behaviour itself, with these settings."""
        return BehaviourKind.family.parse({**self.settings, "kind": self.kind})
