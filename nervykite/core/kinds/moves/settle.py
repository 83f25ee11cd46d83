"""Settle: comes to rest from a little nearer."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...piece.model import MoveKind
from ...piece.model.move import LASTS, MoveBeat, MoveScene
from ...piece.motion.move_beats import preset


class Settle(MoveKind):
    """From larger and higher, out of nothing, onto its place: the quiet one."""

    kind: Literal["settle"] = "settle"
    title: ClassVar[str] = "Settle"
    hint: ClassVar[str] = "Comes to rest from a little nearer"
    rank: ClassVar[int] = 9
    heard: ClassVar[Literal["air", "pop"] | None] = "pop"

    lasts: Annotated[int, Field(ge=1, le=10_000, title="Frames", json_schema_extra=LASTS)] = 16
    amount: Annotated[float, Field(ge=-0.9, le=2, title="Larger by", json_schema_extra={"unit": "%"})] = 0.1
    distance: Annotated[float, Field(ge=-1, le=1, title="From above", json_schema_extra={"unit": "%"})] = 0.02

    def beats(self, scene: MoveScene) -> list[MoveBeat]:
        soft = preset("soft landing")
        return [
            MoveBeat("scale", 0, (1 + self.amount,), soft),
            MoveBeat("scale", 1, (1,)),
            MoveBeat("position", 0, (0, -self.distance * scene.canvas[1]), soft),
            MoveBeat("position", 1, (0, 0)),
            MoveBeat("opacity", 0, (0,)),
            MoveBeat("opacity", 0.4, (1,)),
        ]
