"""The arrangement of a layer: its span, by its moment."""

from typing import TYPE_CHECKING, Any, ClassVar, Literal, Protocol

from .kinds import Family, Kind

if TYPE_CHECKING:
    import numpy as np

    from .document import Document
    from .layers import Layer
    from .project import GroundItem
    from .ties import Tied

FreeEnd = Literal["start", "end"]


class Place(Protocol):
    """Where a layer might lie, as an arrangement may ask: frames are the project's, ends half-open."""

    @property
    def document(self) -> "Document":
        """The document that it all belongs to."""
        ...

    @property
    def layer(self) -> "Layer":
        """The layer that is to lie there."""
        ...

    @property
    def item(self) -> "GroundItem | None":
        """The ground item that it hangs over; None over none."""
        ...

    @property
    def start(self) -> int:
        """Where the ground item begins, or the piece."""
        ...

    @property
    def end(self) -> int:
        """Where the ground item ends, or the piece."""
        ...

    @property
    def piece(self) -> int:
        """The length of the piece."""
        ...

    @property
    def stands(self) -> bool:
        """True if it hangs over a standstill."""
        ...

    @property
    def whole(self) -> tuple[int, int]:
        """From where to where there is anything of it: a group has what its members have, all else the piece."""
        ...

    @property
    def table(self) -> "np.ndarray":
        """The source frame of each of the ground item's frames, int64 (n,); none without one."""
        ...

    @property
    def landing(self) -> int | None:
        """The frame at which the item shows the layer's moment; None if it does not."""
        ...

    @property
    def travel(self) -> tuple[int, int] | None:
        """The frames at which the item shows what the layer's source travels through; None if it does not."""
        ...

    def frame_of(self, tied: "Tied", landing: int) -> int:
        """The frame that a tie stands for, given where the layer lands."""
        ...


class Arrangement(Kind):
    """One way of lying in time: which frames a layer fills, given where its moment lands.

    `doing` is what undo calls it ("make Leap 1 *wait ahead*"); `free` are the ends of the span that a person may
    drag, each kept as a tie in the layer's `starts` or `ends`; `travels` says whether it needs a source that moves, and
    `arrives` that it comes to rest at its landing, so that a move in ends there and not some frames after its start,
    and `swaps` that a layer and the live subject take turns there.
    """

    family: ClassVar[Family[Any]] = Family("arrangement", "nervykite.core.kinds.arrangements")
    doing: ClassVar[str] = ""
    free: ClassVar[tuple[FreeEnd, ...]] = ()
    travels: ClassVar[bool] = False
    arrives: ClassVar[bool] = False
    swaps: ClassVar[bool] = False

    def span(self, place: Place) -> tuple[int, int, int] | None:
        """Start, end (half-open) and landing in project frames; None if the layer has no place in the ground."""
        raise NotImplementedError

    def unsuited(self, place: Place) -> str | None:
        """The reason why a layer cannot lie that way, in words, with what to do; None if it can."""
        return None

    def refuses(self, start: int, end: int, place: Place) -> str | None:
        """The fault, in words, of a free end that somebody dragged there; None if it fits."""
        return None
