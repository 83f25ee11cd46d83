"""Drift: the wander of a camera in a hand."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...piece.model import BehaviourKind
from ...piece.model.behaviour import BehaviourStage, Shifts
from ...piece.motion.hashed import wander


class Drift(BehaviourKind):
    """Slow noise across, down and in turn, each on its own."""

    kind: Literal["drift"] = "drift"
    title: ClassVar[str] = "Drift"
    hint: ClassVar[str] = "The gentle wander of a camera in a hand"
    rank: ClassVar[int] = 1

    amplitude: Annotated[float, Field(ge=0, le=2000, title="How far", json_schema_extra={"unit": "px"})] = 14.0
    rotation: Annotated[float, Field(ge=0, le=90, title="Turn", json_schema_extra={"unit": "°", "step": 0.1})] = 0.7
    scale: Annotated[float, Field(ge=0, le=1, title="Near and far", json_schema_extra={"unit": "%"})] = 0.0
    pace: Annotated[
        float, Field(ge=0.02, le=10, title="Turns back in", json_schema_extra={"unit": "s", "step": 0.1})
    ] = 1.4

    def shifts(self, times: np.ndarray, stage: BehaviourStage) -> Shifts:
        seconds = (times - stage.start) / stage.rate / self.pace
        across, down, turn, near = (wander(seconds, stage.seed, lane) for lane in range(4))
        return Shifts(
            # Noise over noise keeps within half of its bounds nearly always.
            2 * self.amplitude * across,
            2 * self.amplitude * down,
            2 * self.rotation * turn,
            1 + self.scale * near,
            np.ones(len(times)),
        )

    def grows(self) -> float:
        return 1 + self.scale
