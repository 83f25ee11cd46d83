"""Writers: the protocol that all formats follow, and the registry of them."""

from abc import abstractmethod
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any, ClassVar

import numpy as np

from ..footage.planes import Planes
from ..model.kinds import Family, Kind


@dataclass(frozen=True)
class Picture:
    """What is sent: width and height in pixels, frames a second, and whether there is sound."""

    size: tuple[int, int]
    rate: Fraction
    sound: bool


class Writer(Kind):
    """A format with its settings. `start` begins a file; what it returns is given frames and sound in turn."""

    family: ClassVar[Family[Any]] = Family("format", "nervykite.core.send.writers")
    suffix: ClassVar[str] = ""
    media_type: ClassVar[str] = "application/octet-stream"

    @abstractmethod
    def start(self, path: Path, picture: Picture) -> "Writing":
        """Begins a file under a path. Raises OSError if it cannot be written."""


class Writing:
    """A file that is being written. It is whole once `close` has returned."""

    @abstractmethod
    def frame(self, planes: Planes) -> None:
        """The next frame."""

    @abstractmethod
    def sound(self, samples: np.ndarray) -> None:
        """The next stretch of sound, float32 (2, n), -1…1, at 48 kHz; called after the frames that it goes with."""

    @abstractmethod
    def close(self) -> None:
        """Ends the file."""

    @abstractmethod
    def abandon(self) -> None:
        """Lets go of a file that will not be finished."""
