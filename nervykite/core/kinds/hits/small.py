"""Small hits: shutter, pop, snap, tick, paper."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...craft.finishing.setting_fields import percent
from ...craft.synthesis.synth import band, driven, glided, panned, room, seconds, struck, white
from .hit import Hit


class Shutter(Hit):
    """A camera: the mirror goes up, the shutter opens and closes, the mirror comes down."""

    kind: Literal["shutter"] = "shutter"
    title: ClassVar[str] = "Shutter"
    hint: ClassVar[str] = "A camera goes off"
    rank: ClassVar[int] = 1

    apart: Annotated[float, Field(ge=20, le=600, title="Open for", json_schema_extra={"unit": "ms"})] = 75.0
    body: Annotated[float, percent("Body")] = 0.5

    def sounds(self, chance: np.random.Generator) -> np.ndarray:
        t = seconds(0.12 + self.apart / 1000 + 0.25)
        out = np.zeros(len(t))
        open_ = self.apart / 1000
        for at, loud, high in ((0.0, 1.0, 1.0), (0.009, 0.55, 1.25), (open_, 0.85, 0.9), (open_ + 0.013, 0.6, 0.75)):
            click = band(white(len(t), chance), 1800 * high * self.by, 7600 * high * self.by)
            out += loud * 1.5 * click * struck(t, 0.0003, 0.028, at)
            # What is held in the hand answers each click.
            for hertz, much, decay in ((410, 0.5, 0.05), (930, 0.4, 0.035), (2150, 0.25, 0.02)):
                tone = glided(t, hertz * high * self.by * (1 + 0.03 * chance.standard_normal()), chance.uniform(0, 6))
                out += loud * self.body * much * tone * struck(t, 0.0006, decay, at)
        spring = band(white(len(t), chance), 3000, 9000) * struck(t, 0.01, 0.09, 0.01) * 0.18
        return room(driven(out + spring, 1.4), 0.16, 0.1, chance, 6000)


class PopHit(Hit):
    """A cork, a bubble: round and short, its pitch shoots up."""

    kind: Literal["pop"] = "pop"
    title: ClassVar[str] = "Pop"
    hint: ClassVar[str] = "Round and short, as a bubble"
    rank: ClassVar[int] = 7

    round_: Annotated[float, percent("Round")] = 0.6

    def sounds(self, chance: np.random.Generator) -> np.ndarray:
        t = seconds(0.3)
        hertz = self.by * (330 + 780 * np.minimum(1, t / (0.02 + 0.05 * self.round_)) ** 1.6)
        tone = glided(t, hertz) + 0.28 * glided(t, 2.02 * hertz, 1.0) + 0.1 * glided(t, 3.05 * hertz, 2.0)
        air = band(white(len(t), chance), 700 * self.by, 4200 * self.by) * struck(t, 0.0005, 0.02)
        return room(tone * struck(t, 0.0015, 0.085) + 0.8 * (1.2 - self.round_) * air, 0.14, 0.08, chance, 5000)


class Snap(Hit):
    """Fingers: a faint rub, then the snap, close by."""

    kind: Literal["snap"] = "snap"
    title: ClassVar[str] = "Snap"
    hint: ClassVar[str] = "Fingers snap"
    rank: ClassVar[int] = 8

    near: Annotated[float, percent("Near")] = 0.6

    @property
    def strikes(self) -> float:
        return 0.03

    def sounds(self, chance: np.random.Generator) -> np.ndarray:
        t = seconds(0.28)
        at = self.strikes
        rub = band(white(len(t), chance), 2600, 8000) * np.where(t < at, (t / at) ** 2, 0) * 0.12
        crack = band(white(len(t), chance), 1500 * self.by, 4300 * self.by) * struck(t, 0.0003, 0.05, at)
        palm = glided(t, 1180 * self.by, 1.0) * struck(t, 0.0005, 0.028, at) * 0.5
        low = band(white(len(t), chance), 350, 1100) * struck(t, 0.0006, 0.03, at)
        dry = driven(rub + 2.4 * crack + palm + 0.9 * low, 1.5)
        return room(dry, 0.5 - 0.32 * self.near, 0.35 - 0.25 * self.near, chance, 5200)


class Tick(Hit):
    """A wooden tick, as of a clock or a block."""

    kind: Literal["tick"] = "tick"
    title: ClassVar[str] = "Tick"
    hint: ClassVar[str] = "A small block of wood"
    rank: ClassVar[int] = 12

    hard: Annotated[float, percent("Hard")] = 0.5

    def sounds(self, chance: np.random.Generator) -> np.ndarray:
        t = seconds(0.22)
        out = np.zeros(len(t))
        for hertz, much, decay in ((1090, 1.0, 0.055), (2460, 0.55, 0.032), (3900, 0.3, 0.02), (540, 0.35, 0.05)):
            tone = glided(t, hertz * self.by * (1 + 0.01 * chance.standard_normal()), chance.uniform(0, 6))
            out += much * tone * struck(t, 0.0004, decay)
        blow = band(white(len(t), chance), 1500, 9000) * struck(t, 0.0002, 0.008 + 0.01 * (1 - self.hard))
        return room(out + (0.6 + 1.6 * self.hard) * blow, 0.12, 0.06, chance, 6500)


class PaperHit(Hit):
    """Paper that is crumpled, torn or laid down: hundreds of small cracks."""

    kind: Literal["paper"] = "paper"
    title: ClassVar[str] = "Paper"
    hint: ClassVar[str] = "Crumpled, or torn"
    rank: ClassVar[int] = 11

    lasts: Annotated[float, Field(ge=0.1, le=4, title="Length", json_schema_extra={"unit": "s", "step": 0.05})] = 0.5
    torn: Annotated[float, percent("Torn")] = 0.3

    def sounds(self, chance: np.random.Generator) -> np.ndarray:
        t = seconds(self.lasts + 0.05)
        out = np.zeros((2, len(t)))
        count = round(170 * self.lasts)
        # Cracks come in bursts, many small ones and few large (their sizes fall off as a power law).
        times = np.sort(chance.beta(1.4, 1.7, count)) * self.lasts
        for at in times:
            long = int(48_000 * chance.uniform(0.0015, 0.009))
            start = int(at * 48_000)
            if start + long >= len(t):
                continue
            low = chance.uniform(700, 2600) * self.by
            crack = band(chance.standard_normal(long), low, low * chance.uniform(2.0, 3.6), 1)
            crack *= np.exp(-6 * np.arange(long) / long) * min(0.4, 0.05 * chance.pareto(1.3) + 0.06)
            out[:, start : start + long] += panned(crack, chance.uniform(-0.6, 0.6))
        shape = np.sin(np.pi * np.clip(t / self.lasts, 0, 1)) ** 0.7
        rip = band(white(len(t), chance), 1100 * self.by, 7500 * self.by) * (
            0.4 + 0.6 * (np.sin(2 * np.pi * 61 * t) > 0)
        )
        return out + self.torn * 0.5 * panned(rip * shape, np.linspace(-0.4, 0.4, len(t)))
