"""Fade: comes out of nothing."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...piece.model import Bezier, Easing, MoveKind
from ...piece.model.move import MoveBeat, MoveScene


class Fade(MoveKind):
    """Opacity alone."""

    kind: Literal["fade"] = "fade"
    title: ClassVar[str] = "Fade"
    hint: ClassVar[str] = "Comes out of nothing"
    rank: ClassVar[int] = 7
    heard: ClassVar[Literal["air", "pop"] | None] = None

    easing: Annotated[Easing, Field(title="Curve", json_schema_extra={"format": "easing", "keyable": False})] = Bezier()

    def beats(self, scene: MoveScene) -> list[MoveBeat]:
        return [MoveBeat("opacity", 0, (0,), self.easing), MoveBeat("opacity", 1, (1,))]
