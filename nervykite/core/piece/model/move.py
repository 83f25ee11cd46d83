"""Ready entrances and exits: the protocol that all moves answer."""

from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, model_validator

from .base import Model
from .framing import Box
from .keys import Bezier, Easing
from .kinds import Family, Kind

Added = Literal["position", "scale", "width", "height", "rotation", "shear", "opacity"]
Side = Literal["in", "out"]
LASTS: dict[str, Any] = {"unit": "fr", "usual": 60}
"""How the frames that a move takes are shown: up to as many as are usual on a track, any number typed."""


LINEAR = Bezier()


@dataclass(frozen=True)
class MoveScene:
    """The scene that a move plays in, in project pixels: the canvas (w, h), and the layer's box and anchor where it
    rests.
    """

    canvas: tuple[int, int]
    box: Box
    anchor: tuple[float, float]

    def outside(self, towards: Literal["above", "below", "left", "right"]) -> tuple[float, float]:
        """The shift that just takes it out of the picture on that side."""
        left, top, right, bottom = self.box
        return {
            "above": (0.0, min(0.0, -bottom)),
            "below": (0.0, max(0.0, self.canvas[1] - top)),
            "left": (min(0.0, -right), 0.0),
            "right": (max(0.0, self.canvas[0] - left), 0.0),
        }[towards]

    def point(self, across: float, down: float) -> tuple[float, float]:
        """A point of its box, 0…1 from the left and the top."""
        left, top, right, bottom = self.box
        return left + (right - left) * across, top + (bottom - top) * down


@dataclass(frozen=True)
class MoveBeat:
    """A key to be: when, 0…1 of how long the move lasts, and what is then added to the value at rest, or its factor."""

    channel: Added
    at: float
    add: tuple[float, ...]
    easing: Easing = LINEAR


@dataclass(frozen=True)
class Touch:
    """When a move meets what it comes down on, 0…1 of how long it lasts, and how fast, 0…1 of the first time."""

    at: float
    speed: float = 1.0


class MoveKind(Kind):
    """A recipe for keys, with its settings. Once put on, its keys are ordinary ones.

    `sides` says where it is offered: as an entrance, as an exit. Distances are shares of what takes it just out of the
    picture; times are frames.
    """

    family: ClassVar[Family[Any]] = Family("move", "nervykite.core.kinds.moves")
    sides: ClassVar[tuple[Side, ...]] = ("in", "out")
    heard: ClassVar[Literal["air", "pop"] | None] = "air"
    """What fits it as a sound: the *air* that it passes through, or its *pop*; None for what is silent."""

    lasts: Annotated[int, Field(ge=1, le=10_000, title="Frames", json_schema_extra=LASTS)] = 12
    blur: Annotated[float, Field(ge=0, le=720, title="Motion blur", json_schema_extra={"unit": "°", "step": 15})] = (
        180.0
    )

    def beats(self, scene: MoveScene) -> list[MoveBeat]:
        """The beats of its coming in, from time 0 to 1, in values that are added to where it then rests.

        An exit is the same, backwards, unless `leaving` says otherwise.
        """
        raise NotImplementedError

    def touches(self) -> list[Touch]:
        """Where, as it comes in, it meets what it comes down on, in order; none if it comes to rest in the air."""
        return []

    def leaving(self, scene: MoveScene) -> list[MoveBeat] | None:
        """The beats of its going out, from time 0 to 1; None: as it came in, backwards."""
        return None


class PutOn(Model):
    """A move as it was put on a layer: which, and its settings, filled in and checked against its own model."""

    kind: Annotated[str, Field(pattern=r"^[a-z][a-z-]{0,40}$")]
    settings: dict[str, Any] = {}

    @model_validator(mode="before")
    @classmethod
    def _filled_in(cls, given: Any) -> Any:
        if isinstance(given, dict) and isinstance(given.get("kind"), str):
            made = MoveKind.family.parse({**(given.get("settings") or {}), "kind": given["kind"]})
            return {**given, "settings": made.settings}
        return given

    @property
    def move(self) -> MoveKind:
        """The move itself, with these settings."""
        return MoveKind.family.parse({**self.settings, "kind": self.kind})
