"""Fling: past the camera."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...piece.model import Bezier, MoveKind
from ...piece.model.move import LASTS, MoveBeat, MoveScene
from ...piece.motion.move_beats import backwards


class Fling(MoveKind):
    """It grows as what comes near does, about a point of choice, and is gone when it is past.

    Something that nears at an even pace looks as large as one over how far away it is.
    """

    kind: Literal["fling"] = "fling"
    title: ClassVar[str] = "Fling"
    hint: ClassVar[str] = "Past the camera, from a point of choice"
    rank: ClassVar[int] = 6

    lasts: Annotated[int, Field(ge=1, le=10_000, title="Frames", json_schema_extra=LASTS)] = 10
    size: Annotated[float, Field(ge=1, le=40, title="Up to", json_schema_extra={"unit": "%", "step": 0.1})] = 6.0
    across: Annotated[float, Field(ge=-2, le=3, title="From, across", json_schema_extra={"unit": "%"})] = 0.5
    down: Annotated[float, Field(ge=-2, le=3, title="From, down", json_schema_extra={"unit": "%"})] = 0.35
    turn: Annotated[float, Field(ge=-720, le=720, title="Turn", json_schema_extra={"unit": "°"})] = 0.0
    sideways: Annotated[float, Field(ge=-3, le=3, title="Sideways", json_schema_extra={"unit": "%"})] = 0.0

    def leaving(self, scene: MoveScene) -> list[MoveBeat]:
        px, py = scene.point(self.across, self.down)
        rush = Bezier(x1=0.62, y1=0.02, x2=0.86, y2=0.28)
        # What grows about another point than its anchor is moved as well, in step with how it grows.
        x, y = ((1 - self.size) * (p - a) for p, a in zip((px, py), scene.anchor, strict=True))
        x += self.sideways * scene.canvas[0]
        beats = [
            MoveBeat("scale", 0, (1,), rush),
            MoveBeat("scale", 1, (self.size,)),
            MoveBeat("position", 0, (0, 0), rush),
            MoveBeat("position", 1, (x, y)),
            MoveBeat("opacity", 0.7, (1,)),
            MoveBeat("opacity", 1, (0,)),
        ]
        if self.turn:
            beats += [MoveBeat("rotation", 0, (0,), rush), MoveBeat("rotation", 1, (self.turn,))]
        return beats

    def beats(self, scene: MoveScene) -> list[MoveBeat]:
        return backwards(self.leaving(scene))
