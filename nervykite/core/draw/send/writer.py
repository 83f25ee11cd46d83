"""Writers: the protocol that all formats follow, and the registry of them."""

from abc import abstractmethod
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any, ClassVar

import numpy as np

from ...common.errors import Refusal
from ...piece.model.kinds import Family, Kind
from .frame import Frame


@dataclass(frozen=True)
class StreamFormat:
    """The format of a stream: width and height in pixels, frames a second, whether there is sound, and whether it is
    seen over nothing; the project frame it begins with, how many frames it has, and the project's own rate.
    """

    size: tuple[int, int]
    rate: Fraction
    sound: bool
    clear: bool = False
    first: int = 0
    count: int = 1
    project_rate: Fraction = Fraction(30)


class Writer(Kind):
    """A format with its settings. `start` begins a file; what it returns is given frames and sound in turn.

    `clear`: whether it keeps alpha; `sound_bits`: how many bits a second of sound takes, 0 if it is silent; `single`:
    whether it holds one frame alone.
    """

    family: ClassVar[Family[Any]] = Family("format", "nervykite.core.draw.send.writers")
    suffix: ClassVar[str] = ""
    media_type: ClassVar[str] = "application/octet-stream"
    clear: ClassVar[bool] = False
    sound_bits: ClassVar[int] = 0
    single: ClassVar[bool] = False

    @property
    def most(self) -> int | None:
        """Bytes that its file is kept under, if it is."""
        return None

    @property
    def freely(self) -> "Writer":
        """The same, not kept under any size."""
        return self

    def prepared(self, frame: Frame, picture: StreamFormat) -> Any:
        """A frame as its file takes it: what can be done aside, in any thread."""
        return frame.planes

    @abstractmethod
    def start(self, path: Path, picture: StreamFormat) -> "Writing":
        """Begins a file under a path. Raises OSError if it cannot be written."""


def writer_of(settings: dict[str, Any]) -> Writer:
    """A format by its kind and settings. Raises Refusal, with a sentence about what is wrong with them."""
    try:
        return Writer.family.parse(settings)
    except ValueError as error:
        raise Refusal(f"{str(error)[:1].upper()}{str(error)[1:]}.") from error


def writer_for(name: str, settings: dict[str, Any] | None = None) -> Writer:
    """The format that a file of a name has by its ending, with settings. Raises Refusal if there is none."""
    suffix = Path(name).suffix.lower()
    kinds = {kind: writer for kind, writer in Writer.family.all().items() if writer.suffix == suffix}
    if not kinds:
        known = ", ".join(sorted({w.suffix for w in Writer.family.all().values()}))
        raise Refusal(f"Nothing is written as {suffix or 'a file without an ending'}. There are {known}.")
    return writer_of({"kind": next(iter(kinds)), **(settings or {})})


class Writing:
    """A file that is being written. It is whole once `close` has returned."""

    @abstractmethod
    def frame(self, prepared: Any) -> None:
        """The next frame, as the writer has prepared it."""

    def sound(self, samples: np.ndarray) -> None:
        """The next stretch of sound, float32 (2, n), -1…1, at 48 kHz; called after the frames that it goes with."""

    @abstractmethod
    def close(self) -> None:
        """Ends the file."""

    @abstractmethod
    def abandon(self) -> None:
        """Lets go of a file that will not be finished."""
