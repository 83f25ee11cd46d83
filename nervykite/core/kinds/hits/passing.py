"""Hits that pass or build: whoosh, riser, reverse swell, tape stop."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...craft.finishing.setting_fields import percent
from ...craft.synthesis.synth import (
    band,
    driven,
    glided,
    moving_band,
    panned,
    pink,
    room,
    seconds,
    struck,
    swollen,
    white,
)
from .hit import Hit

Long = Annotated[float, Field(ge=0.1, le=12, title="Length", json_schema_extra={"unit": "s", "step": 0.05})]


class Whoosh(Hit):
    """Something passes: air that is pressed ahead of it and torn behind it, from one side to the other."""

    kind: Literal["whoosh"] = "whoosh"
    title: ClassVar[str] = "Whoosh"
    hint: ClassVar[str] = "Something passes from side to side"
    rank: ClassVar[int] = 2

    lasts: Long = 0.55
    peak: Annotated[float, percent("Nearest at", 0.1, 0.95)] = 0.6
    towards: Annotated[Literal["right", "left", "middle"], Field(title="Passes to")] = "right"
    body: Annotated[float, percent("Body")] = 0.5

    @property
    def strikes(self) -> float:
        return self.peak * self.lasts

    def sounds(self, chance: np.random.Generator) -> np.ndarray:
        t = seconds(self.lasts)
        u = t / t[-1]
        near = swollen(t, self.peak, 2.4)
        # It is heard higher as it comes and lower as it goes.
        shift = self.by * (1.12 - 0.3 / (1 + np.exp(-(u - self.peak) * 14)))
        air = moving_band(white(len(t), chance), (420 + 3000 * near**1.3) * shift, 1.1)
        edge = moving_band(white(len(t), chance), (2300 + 4800 * near) * shift, 0.8) * near
        low = moving_band(pink(len(t), chance), (90 + 260 * near) * shift, 1.3)
        flutter = 1 + 0.18 * np.sin(2 * np.pi * np.cumsum(9 + 16 * near) / 48_000 + chance.uniform(0, 6))
        sound = (1.1 * air + 0.5 * edge + 2.2 * self.body * low) * near * flutter
        side = {"right": 1.0, "left": -1.0, "middle": 0.0}[self.towards]
        return panned(driven(sound, 1.2), side * 0.85 * np.tanh(3.2 * (u - self.peak)) if side else 0.0)


class Riser(Hit):
    """Tension: noise and tones that climb faster and faster, and break off."""

    kind: Literal["riser"] = "riser"
    title: ClassVar[str] = "Riser"
    hint: ClassVar[str] = "Climbs, and breaks off on the frame"
    rank: ClassVar[int] = 5

    lasts: Long = 1.8
    tone: Annotated[float, percent("Tone")] = 0.45

    @property
    def strikes(self) -> float:
        return self.lasts

    def sounds(self, chance: np.random.Generator) -> np.ndarray:
        t = seconds(self.lasts)
        u = t / t[-1]
        up = u**2.2
        air = moving_band(white(len(t), chance), 260 * self.by * 2 ** (4.6 * up), 0.9)
        tones = np.zeros((2, len(t)))
        for n, cents in enumerate((-11, -4, 5, 12)):
            hertz = 98 * self.by * 2 ** (2.0 * up + cents / 1200)
            # A saw of a few overtones only, so that nothing folds back.
            saw = np.sum([glided(t, k * hertz, chance.uniform(0, 6)) / k for k in range(1, 7)], 0)
            tones += panned(saw, (-0.7, 0.7, -0.3, 0.3)[n]) / 8
        beat = 1 - 0.55 * u * (0.5 + 0.5 * np.sin(2 * np.pi * np.cumsum(4 + 18 * up) / 48_000))
        grow = 0.04 + u**1.8
        both = (panned(1.2 * air, 0.0) * (1 - 0.4 * self.tone) + 1.1 * self.tone * tones) * grow * beat
        return driven(both, 1.5)


class ReverseSwell(Hit):
    """The tail of a struck sound, backwards: it is sucked towards the frame."""

    kind: Literal["reverse-swell"] = "reverse-swell"
    title: ClassVar[str] = "Reverse swell"
    hint: ClassVar[str] = "Sucked towards the frame"
    rank: ClassVar[int] = 6

    lasts: Long = 1.2
    bright: Annotated[float, percent("Bright")] = 0.5

    @property
    def strikes(self) -> float:
        return self.lasts

    def sounds(self, chance: np.random.Generator) -> np.ndarray:
        t = seconds(0.12)
        struck_once = band(white(len(t), chance), 180 * self.by, (2500 + 7000 * self.bright) * self.by)
        chord = np.sum([glided(t, 220 * self.by * r, chance.uniform(0, 6)) for r in (1, 1.5, 2.02, 3.01)], 0)
        dry = (struck_once + 0.12 * chord) * struck(t, 0.001, 0.09)
        ringing = room(dry, max(0.2, self.lasts), 1.0, chance, 3000 + 6000 * self.bright)
        back = ringing[:, : round(self.lasts * 48_000)][:, ::-1]
        # What is left of the blow itself would click at the end.
        return back * np.linspace(0, 1, back.shape[1]) ** 0.7


class TapeStop(Hit):
    """A chord on a tape whose motor is switched off."""

    kind: Literal["tape-stop"] = "tape-stop"
    title: ClassVar[str] = "Tape stop"
    hint: ClassVar[str] = "A tape that runs down and stands"
    rank: ClassVar[int] = 15

    lasts: Long = 0.9

    def sounds(self, chance: np.random.Generator) -> np.ndarray:
        t = seconds(self.lasts)
        speed = np.clip(1 - t / t[-1], 0, 1) ** 0.8
        flutter = 1 + 0.012 * np.sin(2 * np.pi * 7 * t) * speed
        out = np.zeros((2, len(t)))
        for n, ratio in enumerate((1.0, 1.26, 1.498, 2.0, 2.52)):
            hertz = 196 * self.by * ratio * speed * flutter
            note = np.sum([glided(t, k * hertz, chance.uniform(0, 6)) / k**1.3 for k in range(1, 6)], 0)
            out += panned(note, (-0.5, 0.5, 0.0, 0.3, -0.3)[n]) / 6
        hiss = band(white(len(t), chance), 2500, 9000) * 0.05
        shape = np.minimum(1, t / 0.01) * np.sqrt(speed)
        # As it runs down its high parts go first.
        dull = np.vstack([moving_band(c, 200 + 5200 * speed, 3.0) + 0.5 * band(c, 20, 400) for c in out])
        return driven((dull + hiss) * shape, 1.3)
