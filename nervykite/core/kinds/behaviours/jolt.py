"""Jolt: a shake that dies out, as when something heavy lands."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...piece.model import BehaviourKind
from ...piece.model.behaviour import BehaviourStage, Shifts
from ...piece.motion.hashed import noise


class Jolt(BehaviourKind):
    """It kicks at once, in a direction of chance, and shakes on ever more weakly; after `decay` four fifths are gone.

    Below a twentieth of a pixel there is none of it left, so that what landed lies exactly where it should.
    """

    kind: Literal["jolt"] = "jolt"
    title: ClassVar[str] = "Jolt"
    hint: ClassVar[str] = "A shake that dies out, as when something heavy lands"
    rank: ClassVar[int] = 0

    amplitude: Annotated[float, Field(ge=0, le=2000, title="How far", json_schema_extra={"unit": "px"})] = 26.0
    rotation: Annotated[float, Field(ge=0, le=90, title="Turn", json_schema_extra={"unit": "°", "step": 0.1})] = 1.2
    scale: Annotated[float, Field(ge=0, le=1, title="Swell", json_schema_extra={"unit": "%"})] = 0.02
    frequency: Annotated[float, Field(ge=0.2, le=30, title="Shakes a second", json_schema_extra={"step": 0.5})] = 9.0
    decay: Annotated[float, Field(ge=0.5, le=600, title="Dies out in", json_schema_extra={"unit": "fr"})] = 9.0
    delay: Annotated[float, Field(ge=-1000, le=1000, title="Begins after", json_schema_extra={"unit": "fr"})] = 0.0
    begins: Annotated[
        Literal["start", "landing", "end"],
        Field(title="Counted from", json_schema_extra={"keyable": False}),
    ] = "start"

    def shifts(self, times: np.ndarray, stage: BehaviourStage) -> Shifts:
        since = times - {"start": stage.start, "landing": stage.landing, "end": stage.end}[self.begins] - self.delay
        left = np.where(since >= 0, np.exp(-1.6 * np.maximum(since, 0) / self.decay), 0.0)
        swing = since / stage.rate * self.frequency
        # The first kick is a whole one, whatever chance says; each of the rest goes its own way.
        first = noise(np.array([0.4]), stage.seed, 0)[0] * 4 * np.pi
        across = np.cos(first) * np.cos(2 * np.pi * swing) + 0.6 * noise(2 * swing + 0.5, stage.seed, 1)
        down = np.sin(first + 0.6) * np.cos(2 * np.pi * swing + 0.4) + 0.6 * noise(2 * swing + 0.5, stage.seed, 2)
        parts = [self.amplitude * across * left, self.amplitude * down * left]
        turn = self.rotation * left * np.cos(2 * np.pi * swing * 0.83 + first)
        swell = self.scale * left * np.abs(np.cos(np.pi * swing))
        gone = self.amplitude * left < 0.05
        across, down, turn, swell = (np.where(gone, 0.0, v) for v in (*parts, turn, swell))
        return Shifts(across, down, turn, 1 + swell, np.ones(len(times)))

    def grows(self) -> float:
        return 1 + self.scale
