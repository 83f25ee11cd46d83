"""Breathe: a little larger and smaller, slowly."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...piece.model import BehaviourKind
from ...piece.model.behaviour import BehaviourStage, Shifts


class Breathe(BehaviourKind):
    """It swells by a share and goes back, smoothly, from its own size on."""

    kind: Literal["breathe"] = "breathe"
    title: ClassVar[str] = "Breathe"
    hint: ClassVar[str] = "A little larger and back, slowly, again and again"
    rank: ClassVar[int] = 3

    amount: Annotated[float, Field(ge=-0.9, le=5, title="Larger by", json_schema_extra={"unit": "%"})] = 0.04
    period: Annotated[float, Field(ge=0.05, le=60, title="There and back in", json_schema_extra={"unit": "s"})] = 2.0

    def shifts(self, times: np.ndarray, stage: BehaviourStage) -> Shifts:
        zero = np.zeros(len(times))
        swing = 0.5 - 0.5 * np.cos(2 * np.pi * (times - stage.start) / stage.rate / self.period)
        return Shifts(zero, zero, zero, 1 + self.amount * swing, np.ones(len(times)))

    def grows(self) -> float:
        return 1 + max(0.0, self.amount)
