"""Rebound: falls, and bounces until it lies."""

from itertools import accumulate, pairwise
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...piece.model import MoveKind
from ...piece.model.move import LASTS, MoveBeat, MoveScene, Touch
from ...piece.motion.move_beats import FALL, mirrored


class Rebound(MoveKind):
    """It falls from out of the picture; each bounce is as high as the last one times the square of the bounciness.

    Rises and falls are parabolas, and take the time that they take under one and the same weight.
    """

    kind: Literal["rebound"] = "rebound"
    title: ClassVar[str] = "Rebound"
    hint: ClassVar[str] = "Falls in and bounces until it lies"
    rank: ClassVar[int] = 5

    lasts: Annotated[int, Field(ge=1, le=10_000, title="Frames", json_schema_extra=LASTS)] = 24
    distance: Annotated[float, Field(ge=0, le=5, title="Distance", json_schema_extra={"unit": "%"})] = 1.0
    bounces: Annotated[int, Field(ge=1, le=8, title="Bounces")] = 3
    bounciness: Annotated[float, Field(ge=0.05, le=0.95, title="Bounciness", json_schema_extra={"unit": "%"})] = 0.42

    def touches(self) -> list[Touch]:
        # A fall takes 1; a bounce takes twice the bounciness of what came before it.
        times = [1.0] + [2 * self.bounciness**n for n in range(1, self.bounces + 1)]
        ends = list(accumulate(times))
        return [Touch(end / ends[-1], self.bounciness**n) for n, end in enumerate(ends)]

    def beats(self, scene: MoveScene) -> list[MoveBeat]:
        x, y = (v * self.distance for v in scene.outside("above"))
        touches = self.touches()
        beats = [MoveBeat("position", 0, (x, y), FALL), MoveBeat("position", touches[0].at, (0, 0), mirrored(FALL))]
        for before, touch in pairwise(touches):
            high = touch.speed**2
            beats.append(MoveBeat("position", (before.at + touch.at) / 2, (x * high, y * high), FALL))
            beats.append(MoveBeat("position", touch.at, (0, 0), mirrored(FALL)))
        return beats
