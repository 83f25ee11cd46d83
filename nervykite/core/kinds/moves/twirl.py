"""Twirl: turns in as it grows."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...piece.model import MoveKind
from ...piece.model.move import MoveBeat, MoveScene
from ...piece.motion.move_beats import preset


class Twirl(MoveKind):
    """Turns and size slow down together; it turns a little too far and back."""

    kind: Literal["twirl"] = "twirl"
    title: ClassVar[str] = "Twirl"
    hint: ClassVar[str] = "Turns in as it grows"
    rank: ClassVar[int] = 4

    turns: Annotated[float, Field(ge=-10, le=10, title="Turns", json_schema_extra={"step": 0.25})] = 1.0
    size: Annotated[float, Field(ge=0, le=4, title="From size", json_schema_extra={"unit": "%"})] = 0.0
    overshoot: Annotated[float, Field(ge=0, le=1, title="Overshoot", json_schema_extra={"unit": "%"})] = 0.04

    def beats(self, scene: MoveScene) -> list[MoveBeat]:
        angle = -360 * self.turns
        return [
            MoveBeat("rotation", 0, (angle,), preset("ease-out")),
            MoveBeat("rotation", 0.72, (-angle * self.overshoot,), preset("ease-in-out")),
            MoveBeat("rotation", 1, (0,)),
            MoveBeat("scale", 0, (self.size,), preset("soft landing")),
            MoveBeat("scale", 0.8, (1,)),
            MoveBeat("opacity", 0, (0,)),
            MoveBeat("opacity", 0.2, (1,)),
        ]
