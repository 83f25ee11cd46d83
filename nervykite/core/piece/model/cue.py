"""Cues: sounds that are put on a frame, tied to what happens there."""

from abc import abstractmethod
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from pydantic import Field, model_validator

from .base import Id, Model, Name, new_id
from .beat_grid import Counted
from .kinds import Family, Kind
from .mixing import Line, in_order
from .ties import Offset

if TYPE_CHECKING:
    import numpy as np

    from .document import Document


class Sounding(Kind):
    """The sound of a cue. `strikes` is where in it its main moment lies, in seconds: that is put on the frame."""

    family: ClassVar[Family[Any]] = Family("sound", "nervykite.core.kinds.hits")

    @property
    def strikes(self) -> float:
        """Where its main moment lies, in seconds from its start."""
        return 0.0

    @property
    def file(self) -> str | None:
        """The stored file that it is, by its hash; None if it is made."""
        return None

    @abstractmethod
    def made(self) -> "np.ndarray | None":
        """Makes it: float32 (2, n) at 48 kHz, silent at both ends; None if it is a file."""

    def checked(self, document: "Document") -> "Sounding":
        """Itself, if the document has all that it needs. Raises Refusal."""
        return self

    def seconds(self, document: "Document") -> float | None:
        """The length in seconds, if the document knows that: that of a file."""
        return None

    def counted(self, document: "Document") -> Counted | None:
        """Its beats, as far as they are known."""
        return None

    def called(self, document: "Document") -> str:
        """A name to show for it."""
        return self.title


class CueTie(Model):
    """The tie of a cue: to a layer's start, landing or end; a ground item's start or end; or the piece's start."""

    to: Literal["start", "landing", "end"] = "start"
    layer: Id | None = None
    item: Id | None = None
    offset: Offset = 0

    @model_validator(mode="after")
    def _is_one(self) -> "CueTie":
        if self.layer is not None and self.item is not None:
            raise ValueError("a cue is tied to a layer or to a piece of the ground, not to both")
        if self.layer is None and self.to == "landing":
            raise ValueError("only a layer has a landing")
        return self


class Cue(Model):
    """A sound of its own, so many frames from what it is tied to.

    `gain` is in decibels, `pan` −1 (left) … 1 (right). `skip` is how much of its beginning is left out, in its own
    seconds, and `lasts` how long it is heard (None: to its end; with `loops`, to the piece's). `speed` is in percent,
    `pitched` says that it sounds higher with that. Fades are in frames; `line` is its loudness along its own seconds.
    `part` says what it is mixed with: hits, the bed, or voices, which lie with the footage's own sound. `counted` are
    its beats, where they were put right.
    """

    id: Id = Field(default_factory=new_id)
    name: Name
    sound: Sounding
    tie: CueTie = CueTie()
    part: Literal["bed", "hits", "voice"] = "hits"
    gain: Annotated[float, Field(ge=-60, le=24)] = 0.0
    pan: Annotated[float, Field(ge=-1, le=1)] = 0.0
    muted: bool = False
    skip: Annotated[float, Field(ge=0, le=100_000)] = 0.0
    lasts: Annotated[float, Field(gt=0, le=100_000)] | None = None
    speed: Annotated[float, Field(ge=25, le=400)] = 100.0
    pitched: bool = False
    loops: bool = False
    reversed: bool = False
    fade_in: Annotated[int, Field(ge=0, le=10_000)] = 0
    fade_out: Annotated[int, Field(ge=0, le=10_000)] = 0
    line: Line = []
    counted: Counted | None = None

    @model_validator(mode="after")
    def _in_order(self) -> "Cue":
        in_order(self.line)
        return self

    @property
    def strikes(self) -> float:
        """The time from when it is first heard to its main moment, in seconds: that is put on the frame.

        Backwards that is where it begins.
        """
        return 0.0 if self.reversed else max(0.0, self.sound.strikes - self.skip) * 100 / self.speed
