"""Sweep: comes in from a side, leaning into its way."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...piece.model import MoveKind
from ...piece.model.move import MoveBeat, MoveScene
from ...piece.motion.move_beats import preset


class Sweep(MoveKind):
    """It leans back while it is fast, and forward as it brakes."""

    kind: Literal["sweep"] = "sweep"
    title: ClassVar[str] = "Sweep"
    hint: ClassVar[str] = "Comes in from a side, leaning into its way"
    rank: ClassVar[int] = 2

    direction: Annotated[Literal["left", "right"], Field(title="From")] = "left"
    distance: Annotated[float, Field(ge=0, le=5, title="Distance", json_schema_extra={"unit": "%"})] = 1.0
    overshoot: Annotated[float, Field(ge=0, le=1, title="Overshoot", json_schema_extra={"unit": "%"})] = 0.06
    lean: Annotated[float, Field(ge=0, le=60, title="Lean", json_schema_extra={"unit": "°"})] = 9.0

    def beats(self, scene: MoveScene) -> list[MoveBeat]:
        x, y = (v * self.distance for v in scene.outside(self.direction))
        on = -1 if x > 0 else 1
        wide = scene.box[2] - scene.box[0]
        beats = [MoveBeat("position", 0, (x, y), preset("ease-out" if self.overshoot else "soft landing"))]
        if self.overshoot:
            beats.append(MoveBeat("position", 0.65, (on * wide * self.overshoot, 0), preset("ease-in-out")))
        beats.append(MoveBeat("position", 1, (0, 0)))
        if self.lean:
            beats += [
                MoveBeat("shear", 0, (on * self.lean,), preset("ease-in-out")),
                MoveBeat("shear", 0.6, (-on * 0.55 * self.lean,), preset("ease-in-out")),
                MoveBeat("shear", 1, (0,)),
            ]
        return beats
