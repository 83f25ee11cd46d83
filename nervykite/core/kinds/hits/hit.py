"""A hit: a short made-up sound."""

from abc import abstractmethod
from typing import Annotated

import numpy as np
from pydantic import Field

from ...craft.synthesis.synth import finished
from ...piece.model.cue import Sounding


class Hit(Sounding):
    """A sound made by synthesis, the same again for the same settings and seed."""

    pitch: Annotated[float, Field(ge=-24, le=24, title="Pitch", json_schema_extra={"unit": "st", "step": 0.5})] = 0.0
    seed: Annotated[int, Field(ge=0, le=99_999, title="Chance", json_schema_extra={"format": "seed"})] = 1

    @property
    def by(self) -> float:
        """By what its frequencies are multiplied."""
        return 2.0 ** (self.pitch / 12)

    @abstractmethod
    def sounds(self, chance: np.random.Generator) -> np.ndarray:
        """Makes the sound: float (n,), or (2, n), at 48 kHz, as loud as it comes."""

    def made(self) -> np.ndarray:
        """The sound as it is used: float32 (2, n), its peak at −1 dB, silent at both ends."""
        return finished(self.sounds(np.random.default_rng(self.seed)))
