"""Pop: there at once, too large for a moment."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...piece.model import MoveKind
from ...piece.model.move import LASTS, MoveBeat, MoveScene
from ...piece.motion.move_beats import preset


class Pop(MoveKind):
    """It bursts open past its size, shrinks below it, and rests."""

    kind: Literal["pop"] = "pop"
    title: ClassVar[str] = "Pop"
    hint: ClassVar[str] = "There at once, too large for a moment"
    rank: ClassVar[int] = 8
    heard: ClassVar[Literal["air", "pop"] | None] = "pop"

    lasts: Annotated[int, Field(ge=1, le=10_000, title="Frames", json_schema_extra=LASTS)] = 9
    overshoot: Annotated[float, Field(ge=0, le=2, title="Overshoot", json_schema_extra={"unit": "%"})] = 0.18
    size: Annotated[float, Field(ge=0, le=1, title="From size", json_schema_extra={"unit": "%"})] = 0.3

    def beats(self, scene: MoveScene) -> list[MoveBeat]:
        return [
            MoveBeat("scale", 0, (self.size,), preset("ease-out")),
            MoveBeat("scale", 0.42, (1 + self.overshoot,), preset("ease-in-out")),
            MoveBeat("scale", 0.72, (1 - 0.3 * self.overshoot,), preset("ease-in-out")),
            MoveBeat("scale", 1, (1,)),
            MoveBeat("opacity", 0, (0,)),
            MoveBeat("opacity", 0.15, (1,)),
        ]
