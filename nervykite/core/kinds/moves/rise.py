"""Rise: comes up from below."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...piece.model import MoveKind
from ...piece.model.move import MoveBeat, MoveScene, Touch
from ...piece.motion.move_beats import FALL, preset


class Rise(MoveKind):
    """It comes up fast, slows down, and comes back onto its place from a little above it: it sinks, or it falls."""

    kind: Literal["rise"] = "rise"
    title: ClassVar[str] = "Rise"
    hint: ClassVar[str] = "Comes up from below"
    rank: ClassVar[int] = 1

    distance: Annotated[float, Field(ge=0, le=5, title="Distance", json_schema_extra={"unit": "%"})] = 1.0
    overshoot: Annotated[float, Field(ge=0, le=1, title="Overshoot", json_schema_extra={"unit": "%"})] = 0.06

    lands: Annotated[Literal["softly", "hard"], Field(title="Comes down")] = "softly"

    def touches(self) -> list[Touch]:
        return [Touch(1.0)] if self.overshoot and self.lands == "hard" else []

    def beats(self, scene: MoveScene) -> list[MoveBeat]:
        x, y = (v * self.distance for v in scene.outside("below"))
        if not self.overshoot:
            return [MoveBeat("position", 0, (x, y), preset("soft landing")), MoveBeat("position", 1, (0, 0))]
        high = scene.box[3] - scene.box[1]
        down = FALL if self.lands == "hard" else preset("ease-in-out")
        return [
            MoveBeat("position", 0, (x, y), preset("ease-out")),
            MoveBeat("position", 0.62, (0, -high * self.overshoot), down),
            MoveBeat("position", 1, (0, 0)),
        ]
