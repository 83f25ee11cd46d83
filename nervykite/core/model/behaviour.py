"""Motion on top of keys: the protocol that all kinds of behaviours answer."""

from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from pydantic import Field, model_validator

from .base import Id, Model, new_id
from .kinds import Family, Kind

if TYPE_CHECKING:
    import numpy as np

    from ..motion.shifts import BehaviourStage, Shifts


Moved = Literal["sky", "ground", "piece"]
"""What behaviours can be put on: layers, ground items, all of it."""


class BehaviourKind(Kind):
    """A way of moving without keys, with its settings: lengths in project pixels, times in frames or seconds.

    It is a pure function of its settings, a seed and the time: the same frame always looks the same. `on` says what it
    can be put on.
    """

    family: ClassVar[Family[Any]] = Family("behaviour", "nervykite.core.motion.behaviours")
    on: ClassVar[tuple[Moved, ...]] = ("sky", "ground", "piece")

    def shifts(self, times: "np.ndarray", stage: "BehaviourStage") -> "Shifts":
        """What it adds at some times, in project frames, float64 (n,); at full strength."""
        raise NotImplementedError

    def grows(self) -> float:
        """How many times as large as without it things get at most, at full strength."""
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
