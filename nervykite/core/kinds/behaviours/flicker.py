"""Flicker: there and not there, as a bad lamp is."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...piece.model import BehaviourKind
from ...piece.model.behaviour import BehaviourStage, Moved, Shifts
from ...piece.motion.hashed import noise


class Flicker(BehaviourKind):
    """It drops by chance, and the harder it is the more it only knows there and gone."""

    kind: Literal["flicker"] = "flicker"
    title: ClassVar[str] = "Flicker"
    hint: ClassVar[str] = "There and gone by chance, as a bad lamp is"
    rank: ClassVar[int] = 4
    on: ClassVar[tuple[Moved, ...]] = ("sky",)

    depth: Annotated[float, Field(ge=0, le=1, title="How faint", json_schema_extra={"unit": "%"})] = 0.7
    rate: Annotated[float, Field(ge=0.1, le=60, title="Drops a second", json_schema_extra={"step": 0.5})] = 8.0
    hard: Annotated[float, Field(ge=0, le=1, title="Hardness", json_schema_extra={"unit": "%"})] = 0.5

    def shifts(self, times: np.ndarray, stage: BehaviourStage) -> Shifts:
        zero, one = np.zeros(len(times)), np.ones(len(times))
        wave = noise((times - stage.start) / stage.rate * self.rate + 0.5, stage.seed, 0)
        steep = 1 + 24 * self.hard**2
        dark = 1 / (1 + np.exp(-steep * (2 * wave)))
        return Shifts(zero, zero, zero, one, 1 - self.depth * dark)
