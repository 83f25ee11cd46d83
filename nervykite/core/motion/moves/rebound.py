"""Rebound: falls, and bounces until it lies."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...model import MoveKind
from ...model.move import LASTS
from ..recipe import FALL, Beat, Scene, mirrored


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

    def beats(self, scene: Scene) -> list[Beat]:
        x, y = (v * self.distance for v in scene.outside("above"))
        # A fall takes 1; a bounce takes twice the bounciness of what came before it.
        times = [1.0] + [2 * self.bounciness**n for n in range(1, self.bounces + 1)]
        whole, now = sum(times), 1.0
        beats = [Beat("position", 0, (x, y), FALL), Beat("position", now / whole, (0, 0), mirrored(FALL))]
        for n, lasts in enumerate(times[1:], 1):
            high = self.bounciness ** (2 * n)
            beats.append(Beat("position", (now + lasts / 2) / whole, (x * high, y * high), FALL))
            now += lasts
            beats.append(Beat("position", now / whole, (0, 0), mirrored(FALL)))
        return beats
