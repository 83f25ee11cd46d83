"""Drop: falls in from above, goes a little too far, and comes back."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...piece.model import MoveKind
from ...piece.model.move import MoveBeat, MoveScene, Touch
from ...piece.motion.move_beats import FALLING, preset

TOUCHES = 0.55
"""When it touches down, if it then gives way."""


class Drop(MoveKind):
    """It falls as things fall, gives way where it lands, and comes back up to its place."""

    kind: Literal["drop"] = "drop"
    title: ClassVar[str] = "Drop"
    hint: ClassVar[str] = "Falls in from above"
    rank: ClassVar[int] = 0

    distance: Annotated[float, Field(ge=0, le=5, title="Distance", json_schema_extra={"unit": "%"})] = 1.0
    overshoot: Annotated[float, Field(ge=0, le=1, title="Overshoot", json_schema_extra={"unit": "%"})] = 0.12

    def touches(self) -> list[Touch]:
        return [Touch(TOUCHES if self.overshoot else 1.0)]

    def beats(self, scene: MoveScene) -> list[MoveBeat]:
        x, y = (v * self.distance for v in scene.outside("above"))
        if not self.overshoot:
            return [MoveBeat("position", 0, (x, y), FALLING), MoveBeat("position", 1, (0, 0))]
        high = scene.box[3] - scene.box[1]
        give = 0.35 * self.overshoot
        return [
            MoveBeat("position", 0, (x, y), FALLING),
            # What lies under it pushes back: it is lower and broader for a moment, standing on its own feet.
            MoveBeat("position", TOUCHES, (0, 0), preset("ease-out")),
            MoveBeat("position", 0.7, (0, high * give / 2), preset("ease-in-out")),
            MoveBeat("position", 1, (0, 0)),
            MoveBeat("height", TOUCHES, (1,), preset("ease-out")),
            MoveBeat("height", 0.7, (1 - give,), preset("ease-in-out")),
            MoveBeat("height", 0.88, (1 + 0.3 * give,), preset("ease-in-out")),
            MoveBeat("height", 1, (1,)),
            MoveBeat("width", TOUCHES, (1,), preset("ease-out")),
            MoveBeat("width", 0.7, (1 + 0.6 * give,), preset("ease-in-out")),
            MoveBeat("width", 0.88, (1 - 0.2 * give,), preset("ease-in-out")),
            MoveBeat("width", 1, (1,)),
        ]
