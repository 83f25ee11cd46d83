"""Swell: steps forward from its own place, and stays there."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...piece.model import MoveKind
from ...piece.model.move import MoveBeat, MoveScene
from ...piece.motion.move_beats import preset


class Swell(MoveKind):
    """It begins as it lies, so that nobody sees it come, and is larger by a share at the end."""

    kind: Literal["swell"] = "swell"
    title: ClassVar[str] = "Swell"
    hint: ClassVar[str] = "Steps forward from where it lies, and stays larger"
    rank: ClassVar[int] = 3
    heard: ClassVar[Literal["air", "pop"] | None] = "pop"

    amount: Annotated[float, Field(ge=-0.9, le=4, title="Larger by", json_schema_extra={"unit": "%"})] = 0.12
    overshoot: Annotated[float, Field(ge=0, le=1, title="Overshoot", json_schema_extra={"unit": "%"})] = 0.2

    def beats(self, scene: MoveScene) -> list[MoveBeat]:
        by = 1 + self.amount
        beats = [MoveBeat("scale", 0, (1,), preset("ease-in-out" if self.overshoot else "soft landing"))]
        if self.overshoot:
            beats.append(MoveBeat("scale", 0.65, (1 + self.amount * (1 + self.overshoot),), preset("ease-in-out")))
        return [*beats, MoveBeat("scale", 1, (by,))]

    def leaving(self, scene: MoveScene) -> list[MoveBeat]:
        # It goes back to what it was: from as large as it is then.
        return [MoveBeat("scale", 0, (1,), preset("ease-in-out")), MoveBeat("scale", 1, (1 / (1 + self.amount),))]
