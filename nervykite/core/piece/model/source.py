"""The protocol that all kinds of sources answer: what a layer or a ground item shows."""

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from typing import TYPE_CHECKING, Any, ClassVar, Literal, Protocol

from ...common.errors import Refusal
from .framing import Box, Framing
from .kinds import Family, Kind
from .mixing import Part

if TYPE_CHECKING:
    import numpy as np

    from .document import Document
    from .project import GroundItem

On = Literal["sky", "ground"]


@dataclass(frozen=True)
class Heard:
    """The sound that goes with a source: that of a shot, from one of its frames on, so many times as fast.

    `pitch` says that it sounds higher or lower with that, as a tape does.
    """

    shot: str
    frame: int
    speed: Fraction = Fraction(1)
    pitch: bool = False


@dataclass(frozen=True)
class Shown:
    """The item that the ground shows, and which of its source's frames."""

    item: "GroundItem"
    frame: int


class Pictured(Protocol):
    """The picture of a source, as its evaluation hands it on; see `kinds/sources/picture.py`, which can make its
    pixels.
    """

    @property
    def digest(self) -> str:
        """Equal ones mean equal pixels on the same grid."""
        ...


Hush = Literal["silent", "echo", "muffled"]
"""What becomes of a part of the mix for a while: it is not heard, stops and rings out, or goes on behind a wall."""


class Source(Kind):
    """A picture over time, for a layer or a ground item alike. It has frames of its own, counted from 0.

    `on` says where it may be put; `gathers` that it shows the layers that belong to its layer; `washes` that it shows
    nothing, but works on what lies below; `still` whether its pixels are the same at all of its frames; `stands` that
    time stands in the ground as long as it lasts, which closes without a seam when it is taken out. Everything asked
    with a document is pure: no file is read. Only the picture that it hands out can make pixels. `worded`: its words
    can be typed where it is seen; `cut`: it is a cutout, of a frame that was held; `filmed`: it plays footage, and
    another shot can be put in its place.
    """

    family: ClassVar[Family[Any]] = Family("source", "nervykite.core.kinds.sources")
    on: ClassVar[tuple[On, ...]] = ()
    gathers: ClassVar[bool] = False
    washes: ClassVar[bool] = False
    still: ClassVar[bool] = True
    stands: ClassVar[bool] = False
    worded: ClassVar[bool] = False
    cut: ClassVar[bool] = False
    filmed: ClassVar[bool] = False
    TRAITS: ClassVar[tuple[str, ...]] = ("gathers", "washes", "stands", "worded", "cut", "filmed")

    @property
    def penned(self) -> bool:
        """True if it goes along a path of its own, which is drawn with the pen."""
        return False

    @property
    def located(self) -> bool:
        """True if it has a place on the canvas to take hold of."""
        return True

    def can(self) -> list[str]:
        """The abilities of it, for whoever shows it: its traits by name, and *penned* and *located*."""
        return [name for name in (*self.TRAITS, "penned", "located") if getattr(self, name)]

    def size(self, document: "Document") -> tuple[int, int]:
        """Width and height in its own pixels."""
        raise NotImplementedError

    def bounds(self, document: "Document") -> Box | None:
        """Where there is something to see, in its own pixels; None if there is nothing."""
        width, height = self.size(document)
        return 0.0, 0.0, float(width), float(height)

    def picture(self, document: "Document", frame: int, landed: bool = False) -> Pictured | None:
        """The picture that it shows at one of its frames; None if nothing.

        `landed` says that it lies at rest over the very footage it was taken from, where it must not be told from it.
        """
        raise NotImplementedError

    def empty(self, document: "Document") -> bool:
        """True if there is nothing of it to see yet."""
        return False

    def missing(self, document: "Document") -> tuple[str, ...]:
        """The characters of its words that nothing can draw."""
        return ()

    def uncut(self, document: "Document", frame: int) -> Pictured | None:
        """Picture in its place while there is nothing of it to see, as before anything is carved; None for nothing."""
        return None

    def checked(self, document: "Document") -> "Source":
        """Itself, if the document has all that it needs. Raises Refusal."""
        return self

    def depends(self, document: "Document") -> tuple[object, ...]:
        """The parts of a document, besides itself, that its pixels follow from. They are compared by identity."""
        return ()

    @property
    def stored(self) -> tuple[str, ...]:
        """The hashes of the stored plates that it shows."""
        return ()

    @property
    def drawn(self) -> tuple[str, ...]:
        """The hashes of the stored pictures with alpha that it shows."""
        return ()

    @property
    def files(self) -> tuple[str, ...]:
        """The hashes of what else of the shelf it is made with."""
        return ()

    @property
    def needs(self) -> tuple[str, ...]:
        """The holds without which it is not what it is."""
        return ()

    def unchanged(self, before: "Document", now: "Document") -> bool:
        """True if what its pixels follow from is the very same in two documents that both have it."""
        was, parts = self.depends(before), self.depends(now)
        return len(was) == len(parts) and all(a is b for a, b in zip(was, parts, strict=True))

    def changed(self, before: "Source", name: str) -> str:
        """The title in the history of a change from another state of it, given the name of what shows it."""
        return f"change {name}"

    def stops_after(self, document: "Document") -> int | None:
        """After how many project frames from its start it comes to a frame on which it freezes; None if to none."""
        return None

    # -- in the ground ---------------------------------------------------------------------------------------

    def tag(self) -> str:
        """For the ground: what is written on its strip, where it is not footage as filmed."""
        return ""

    @property
    def shade(self) -> str | None:
        """For the ground: the one colour that it is, `#rrggbb`; None if it is a picture."""
        return None

    def lasts(self, document: "Document") -> int:
        """For the ground: how many project frames it lasts, at least one."""
        raise NotImplementedError(f"{self.title} cannot lie in the ground")

    def frames(self, document: "Document") -> "np.ndarray":
        """For the ground: which of its own frames each of its project frames shows, int64, as many as it lasts."""
        raise NotImplementedError(f"{self.title} cannot lie in the ground")

    def beyond_end(self, document: "Document", by: int) -> int:
        """For the ground: which of its own frames it would show if it went on, so many project frames after its end."""
        return int(self.frames(document)[-1])

    def footage(self, document: "Document") -> str | None:
        """The shot whose frames it shows as filmed, so that cutouts can be held from it; None if it shows none."""
        return None

    def sound(self, document: "Document") -> Heard | None:
        """The sound heard with it; None if it is silent."""
        return None

    @property
    def hushes(self) -> Mapping[Part, Hush]:
        """The hushes of parts of the mix as long as it is in the ground."""
        return {}

    def called(self, document: "Document") -> str:
        """A name to show for it."""
        return self.title

    @property
    def range(self) -> tuple[int, int] | None:
        """The frames of its own that it plays, half-open, which can be trimmed; None if it has no such range."""
        return None

    def split(self, document: "Document", at: int) -> "tuple[Source, Source]":
        """For the ground: what it shows before so many project frames, and from there on. Raises Refusal."""
        raise Refusal(f"{self.title} cannot be cut in two.")

    def joined(self, other: "Source") -> "Source | None":
        """For the ground: the source of which it and another one are the two parts; None if they are not."""
        return None

    def slipped(self, document: "Document", by: int) -> "Source":
        """For the ground: other frames in the same place, as many frames later. Raises Refusal."""
        raise Refusal(f"{self.title} has nothing that could be slipped.")

    @property
    def beyond(self) -> int | None:
        """For the ground: the first frame of its own after those that it plays, if there is such a thing."""
        return None if self.range is None else self.range[1]

    def trimmed(self, document: "Document", first: int | None, past: int | None) -> "Source":
        """With other frames at its start or end (None: as it is). Raises Refusal if it cannot."""
        raise Refusal(f"{self.title} cannot be trimmed that way.")

    # -- in the sky ------------------------------------------------------------------------------------------

    def moment(self, document: "Document") -> tuple[str, int] | None:
        """The shot and frame it was held from, where it lands; None if it comes from no footage."""
        return None

    def travel(self, document: "Document") -> tuple[int, int] | None:
        """The frames, half-open, of that shot through which it moves along; None if it stands."""
        return None

    def lies(self, document: "Document") -> Framing | None:
        """The framing that it rests in when it is first put there; None: as the footage does that it hangs over."""
        return None

    def shows(self, document: "Document", shown: Shown | None, since: float = 0.0) -> int:
        """The frame of its own that is seen while the ground shows that, so many project frames after it came."""
        return 0

    @property
    def led_by(self) -> str | None:
        """The layer whose anchor it follows, in what it shows; None if it follows none."""
        return None

    def led(self, document: "Document", place: tuple[float, float]) -> "Source":
        """Itself while the anchor of what it follows is at a place, in project pixels."""
        return self

    def behind(self, document: "Document", frame: int) -> Pictured | None:
        """The picture that it puts at rest beneath itself while its own footage shows a frame; None if nothing."""
        return None

    def moving(self, document: "Document") -> "Source":
        """The like of it that moves along with its footage. Raises Refusal if there is none."""
        if self.still:
            raise Refusal(f"{self.title} stands still and cannot run along.")
        return self

    def standing(self, document: "Document") -> "Source":
        """The like of it that stands where it is."""
        return self
