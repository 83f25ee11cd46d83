"""Hits of something that comes down: thud, slam, sub drop."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...craft.finishing.setting_fields import percent
from ...craft.synthesis.synth import band, driven, glided, pink, room, seconds, struck, white
from .hit import Hit


class Thud(Hit):
    """A body that lands on sand: a low knock, a soft slap, hardly any room."""

    kind: Literal["thud"] = "thud"
    title: ClassVar[str] = "Thud"
    hint: ClassVar[str] = "Something soft and heavy lands"
    rank: ClassVar[int] = 3

    weight: Annotated[float, percent("Weight")] = 0.6
    slap: Annotated[float, percent("Slap")] = 0.5

    def sounds(self, chance: np.random.Generator) -> np.ndarray:
        t = seconds(0.7)
        low = (78 - 34 * self.weight) * self.by
        body = glided(t, low * (1 + 1.9 * np.exp(-t / 0.022))) * struck(t, 0.002, 0.22 + 0.3 * self.weight)
        skin = band(pink(len(t), chance), 110 * self.by, 900 * self.by) * struck(t, 0.001, 0.09)
        grit = band(white(len(t), chance), 1200, 5200) * struck(t, 0.0006, 0.035)
        dry = driven(1.3 * body + self.slap * (1.6 * skin + 0.8 * grit), 1.6)
        return room(dry, 0.28, 0.12, chance, 2600)


class Slam(Hit):
    """A heavy door, a stage: hard, with metal in it and a hall around it."""

    kind: Literal["slam"] = "slam"
    title: ClassVar[str] = "Slam"
    hint: ClassVar[str] = "Hard and large, with a hall around it"
    rank: ClassVar[int] = 4

    metal: Annotated[float, percent("Metal")] = 0.45
    hall: Annotated[float, percent("Hall")] = 0.5

    def sounds(self, chance: np.random.Generator) -> np.ndarray:
        t = seconds(1.1)
        body = glided(t, 47 * self.by * (1 + 2.6 * np.exp(-t / 0.018))) * struck(t, 0.001, 0.5)
        crack = band(white(len(t), chance), 300, 9000) * struck(t, 0.0004, 0.1)
        second = band(pink(len(t), chance), 90, 1400) * struck(t, 0.002, 0.2, at=0.028)
        # Partials of a plate: not in tune with each other, the higher the sooner gone.
        rings = np.zeros(len(t))
        for n, ratio in enumerate((1.0, 1.47, 2.09, 2.56, 3.42, 4.18, 5.31)):
            tone = glided(t, 231 * self.by * ratio * (1 + 0.004 * chance.standard_normal()), chance.uniform(0, 6))
            rings += tone * struck(t, 0.001, 0.75 / (1 + 0.5 * n)) / (1 + 0.5 * n)
        dry = driven(1.5 * body + 1.5 * crack + 1.2 * second + 0.34 * self.metal * rings, 2.2)
        return room(dry, 0.6 + 1.4 * self.hall, 0.2 + 0.4 * self.hall, chance, 4200)


class SubDrop(Hit):
    """The floor goes: a deep tone that sinks, felt more than heard."""

    kind: Literal["sub-drop"] = "sub-drop"
    title: ClassVar[str] = "Sub drop"
    hint: ClassVar[str] = "A deep tone that sinks"
    rank: ClassVar[int] = 9

    lasts: Annotated[float, Field(ge=0.3, le=6, title="Length", json_schema_extra={"unit": "s", "step": 0.1})] = 1.6

    def sounds(self, chance: np.random.Generator) -> np.ndarray:
        t = seconds(self.lasts)
        u = t / t[-1]
        hertz = 31 * self.by + 62 * self.by * (1 - u) ** 2.2
        tone = glided(t, hertz) + 0.22 * glided(t, 2 * hertz, 0.4) + 0.1 * glided(t, 3.01 * hertz, 1.1)
        rumble = band(pink(len(t), chance), 28, 120) * (1 - u) ** 1.5
        knock = band(white(len(t), chance), 60, 700) * struck(t, 0.001, 0.06)
        shape = np.minimum(1, t / 0.012) * (1 - u) ** 1.3
        return driven((tone + 0.5 * rumble) * shape + 0.6 * knock, 1.8)
