"""Shrink away: draws back into itself."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...piece.model import MoveKind
from ...piece.model.move import MoveBeat, MoveScene
from ...piece.motion.move_beats import backwards, preset


class ShrinkAway(MoveKind):
    """It takes a breath, and is drawn into a point."""

    kind: Literal["shrink-away"] = "shrink-away"
    title: ClassVar[str] = "Shrink away"
    hint: ClassVar[str] = "Takes a breath, and is drawn into a point"
    rank: ClassVar[int] = 11

    breath: Annotated[float, Field(ge=0, le=1, title="Breath", json_schema_extra={"unit": "%"})] = 0.08
    turn: Annotated[float, Field(ge=-720, le=720, title="Turn", json_schema_extra={"unit": "°"})] = -14.0

    def leaving(self, scene: MoveScene) -> list[MoveBeat]:
        return [
            MoveBeat("scale", 0, (1,), preset("ease-in-out")),
            MoveBeat("scale", 0.35, (1 + self.breath,), preset("late rush")),
            MoveBeat("scale", 1, (0,)),
            MoveBeat("rotation", 0.35, (0,), preset("late rush")),
            MoveBeat("rotation", 1, (self.turn,)),
        ]

    def beats(self, scene: MoveScene) -> list[MoveBeat]:
        return backwards(self.leaving(scene))
