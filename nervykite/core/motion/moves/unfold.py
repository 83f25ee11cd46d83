"""Unfold: opens as a card does."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...model import MoveKind
from ..move_beats import Added, Beat, Scene, preset


class Unfold(MoveKind):
    """From edge-on, about its middle, to and fro once before it lies flat."""

    kind: Literal["unfold"] = "unfold"
    title: ClassVar[str] = "Unfold"
    hint: ClassVar[str] = "Opens as a card does"
    rank: ClassVar[int] = 10

    axis: Annotated[Literal["upright", "level"], Field(title="About")] = "upright"
    overshoot: Annotated[float, Field(ge=0, le=1, title="Overshoot", json_schema_extra={"unit": "%"})] = 0.1
    lean: Annotated[float, Field(ge=-60, le=60, title="Lean", json_schema_extra={"unit": "°"})] = 12.0

    def beats(self, scene: Scene) -> list[Beat]:
        opens: Added = "width" if self.axis == "upright" else "height"
        beats = [
            Beat(opens, 0, (0,), preset("ease-out")),
            Beat(opens, 0.55, (1 + self.overshoot,), preset("ease-in-out")),
            Beat(opens, 0.8, (1 - 0.35 * self.overshoot,), preset("ease-in-out")),
            Beat(opens, 1, (1,)),
        ]
        if self.lean:
            beats += [
                Beat("shear", 0, (self.lean,), preset("ease-out")),
                Beat("shear", 0.55, (-0.3 * self.lean,), preset("ease-in-out")),
                Beat("shear", 1, (0,)),
            ]
        return beats
