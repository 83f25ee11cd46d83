"""Hits that colour a moment: shimmer, spring, the gasp of a crowd."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...craft.finishing.setting_fields import percent
from ...craft.synthesis.synth import band, glided, moving_band, panned, pink, room, seconds, struck, swollen, white
from .hit import Hit


class Shimmer(Hit):
    """Many small bells high up, one after the other, far and near."""

    kind: Literal["shimmer"] = "shimmer"
    title: ClassVar[str] = "Shimmer"
    hint: ClassVar[str] = "Many small bells high up"
    rank: ClassVar[int] = 10

    lasts: Annotated[float, Field(ge=0.3, le=6, title="Length", json_schema_extra={"unit": "s", "step": 0.1})] = 1.4
    rises: Annotated[float, percent("Rises", -1, 1)] = 0.6

    def sounds(self, chance: np.random.Generator) -> np.ndarray:
        t = seconds(self.lasts)
        out = np.zeros((2, len(t)))
        scale = np.array([0, 2, 4, 7, 9])
        count = round(14 + 10 * self.lasts)
        for n in range(count):
            u = (n + chance.uniform(0, 1)) / count
            step = chance.choice(scale) + 12 * chance.integers(0, 2) + 14 * self.rises * (u - 0.5)
            hertz = 1760 * self.by * 2 ** (step / 12)
            at, decay = 0.72 * self.lasts * u, chance.uniform(0.25, 0.7)
            first = int(at * 48_000)
            own = t[: len(t) - first]
            # A struck bar: its second partial lies 2.76 above the first (Fletcher and Rossing 1998).
            bell = glided(own, hertz, chance.uniform(0, 6)) * struck(own, 0.001, decay)
            if 2.76 * hertz < 18_000:
                bell += 0.35 * glided(own, 2.756 * hertz, chance.uniform(0, 6)) * struck(own, 0.0005, 0.3 * decay)
            out[:, first:] += panned(bell * chance.uniform(0.25, 1.0), chance.uniform(-0.9, 0.9))
        dust = band(white(len(t), chance), 6000, 14_000) * swollen(t, 0.4, 2) * 0.12
        return room(0.3 * (out + panned(dust, 0.0)), 1.1, 0.35, chance, 9000)


class SpringHit(Hit):
    """A steel spring that is let go: a wobbling tone, quicker as it dies away."""

    kind: Literal["spring"] = "spring"
    title: ClassVar[str] = "Spring"
    hint: ClassVar[str] = "A spring that is let go"
    rank: ClassVar[int] = 13

    wobble: Annotated[float, percent("Wobble")] = 0.6

    def sounds(self, chance: np.random.Generator) -> np.ndarray:
        t = seconds(0.95)
        die = np.exp(-t / 0.28)
        rate = 11 + 9 * (1 - die)
        sway = np.sin(2 * np.pi * np.cumsum(rate) / 48_000)
        hertz = 172 * self.by * (1 + 0.5 * (1 - die)) * (1 + 0.55 * self.wobble * die * sway)
        tone = sum(
            glided(t, k * hertz, chance.uniform(0, 6)) * much
            for k, much in ((1, 1), (2.02, 0.6), (3.06, 0.4), (5.1, 0.25))
        )
        buzz = moving_band(white(len(t), chance), 9 * hertz, 0.5) * die
        pluck = band(white(len(t), chance), 900, 6000) * struck(t, 0.0004, 0.03)
        dry = (tone * struck(t, 0.001, 0.8) + 0.5 * buzz) * (0.75 + 0.25 * sway) + 1.2 * pluck
        return room(dry, 0.4, 0.15, chance, 4500)


class Gasp(Hit):
    """A crowd draws its breath: many mouths, none together."""

    kind: Literal["gasp"] = "gasp"
    title: ClassVar[str] = "Crowd gasps"
    hint: ClassVar[str] = "Many people draw their breath"
    rank: ClassVar[int] = 14

    lasts: Annotated[float, Field(ge=0.3, le=3, title="Length", json_schema_extra={"unit": "s", "step": 0.05})] = 0.8
    people: Annotated[int, Field(ge=2, le=60, title="People")] = 26

    def sounds(self, chance: np.random.Generator) -> np.ndarray:
        t = seconds(self.lasts + 0.15)
        out = np.zeros((2, len(t)))
        for _ in range(self.people):
            late = abs(chance.normal(0, 0.07))
            own = np.clip((t - late) / (self.lasts * chance.uniform(0.75, 1.0)), 0, 1)
            breath = np.sin(np.pi * own**0.8) ** 1.6 * (own > 0) * (own < 1)
            size = self.by * chance.uniform(0.85, 1.25)
            # Breath through a mouth that opens: noise around the formants of “ha”, which move as it does.
            mouth = own**0.7
            noise = pink(len(t), chance)
            voice = moving_band(noise, (520 + 420 * mouth) * size, 0.6)
            voice += 0.8 * moving_band(noise, (1150 + 350 * mouth) * size, 0.4)
            voice += 0.5 * moving_band(noise, (2500 + 500 * mouth) * size, 0.35)
            hum = glided(
                t, 190 * size * (1 + 0.35 * mouth) * (1 + 0.01 * chance.standard_normal()), chance.uniform(0, 6)
            )
            voice += 0.05 * hum * (chance.uniform() < 0.5)
            out += panned(voice * breath * chance.uniform(0.4, 1.0), chance.uniform(-0.9, 0.9))
        return room(out, 0.7, 0.25, chance, 4000)
