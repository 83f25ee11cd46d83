"""Sway: hanging from a point, as a pendulum does."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...piece.model import BehaviourKind
from ...piece.model.behaviour import BehaviourStage, Shifts


class Sway(BehaviourKind):
    """It swings to and fro about a point of what there is to see, 0…1 from its left and top; it may hang above it."""

    kind: Literal["sway"] = "sway"
    title: ClassVar[str] = "Sway"
    hint: ClassVar[str] = "Swings to and fro about a point, as a pendulum does"
    rank: ClassVar[int] = 2

    angle: Annotated[float, Field(ge=0, le=180, title="Angle", json_schema_extra={"unit": "°", "step": 0.5})] = 4.0
    period: Annotated[float, Field(ge=0.05, le=60, title="To and fro in", json_schema_extra={"unit": "s"})] = 1.2
    across: Annotated[float, Field(ge=-5, le=5, title="Hangs, across", json_schema_extra={"unit": "%"})] = 0.5
    down: Annotated[float, Field(ge=-5, le=5, title="Hangs, down", json_schema_extra={"unit": "%"})] = 0.0
    phase: Annotated[float, Field(ge=-360, le=360, title="Begins at", json_schema_extra={"unit": "°"})] = 0.0

    def shifts(self, times: np.ndarray, stage: BehaviourStage) -> Shifts:
        swing = 2 * np.pi * (times - stage.start) / stage.rate / self.period + np.radians(self.phase)
        turn = self.angle * np.sin(swing)
        left, top, right, bottom = stage.box
        # About the anchor it turns anyway; the rest of a turn about another point is a step aside.
        x, y = left + (right - left) * self.across, top + (bottom - top) * self.down
        cos, sin = np.cos(np.radians(turn)), np.sin(np.radians(turn))
        ones = np.ones(len(times))
        return Shifts(x - cos * x + sin * y, y - sin * x - cos * y, turn, ones, ones)
