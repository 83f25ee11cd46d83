"""Unfold: opens as a card does."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...piece.model import MoveKind
from ...piece.model.move import Added, MoveBeat, MoveScene
from ...piece.motion.move_beats import preset


class Unfold(MoveKind):
    """From edge-on, about its middle, to and fro once before it lies flat."""

    kind: Literal["unfold"] = "unfold"
    title: ClassVar[str] = "Unfold"
    hint: ClassVar[str] = "Opens as a card does"
    rank: ClassVar[int] = 10

    axis: Annotated[Literal["upright", "level"], Field(title="About")] = "upright"
    overshoot: Annotated[float, Field(ge=0, le=1, title="Overshoot", json_schema_extra={"unit": "%"})] = 0.1
    lean: Annotated[float, Field(ge=-60, le=60, title="Lean", json_schema_extra={"unit": "°"})] = 12.0

    def beats(self, scene: MoveScene) -> list[MoveBeat]:
        opens: Added = "width" if self.axis == "upright" else "height"
        beats = [
            MoveBeat(opens, 0, (0,), preset("ease-out")),
            MoveBeat(opens, 0.55, (1 + self.overshoot,), preset("ease-in-out")),
            MoveBeat(opens, 0.8, (1 - 0.35 * self.overshoot,), preset("ease-in-out")),
            MoveBeat(opens, 1, (1,)),
        ]
        if self.lean:
            beats += [
                MoveBeat("shear", 0, (self.lean,), preset("ease-out")),
                MoveBeat("shear", 0.55, (-0.3 * self.lean,), preset("ease-in-out")),
                MoveBeat("shear", 1, (0,)),
            ]
        return beats
