"""How a layer's span relates to its moment."""

from typing import TYPE_CHECKING, Any, ClassVar, Literal

from .kinds import Family, Kind

if TYPE_CHECKING:
    from ..timeline.timeline import Place

FreeEnd = Literal["start", "end"]


class Arrangement(Kind):
    """One way of lying in time: which frames a layer fills, given where its moment lands.

    `doing` is what undo calls it ("make Leap 1 *wait ahead*"); `free` are the ends of the span that a person may
    drag, each kept as a tie in the layer's `starts` or `ends`; `travels` says whether it needs a source that moves, and
    `arrives` that it comes to rest at its landing, so that a move in ends there and not some frames after its start,
    and `swaps` that a layer and the live subject take turns there.
    """

    family: ClassVar[Family[Any]] = Family("arrangement", "nervykite.core.timeline.arrangements")
    doing: ClassVar[str] = ""
    free: ClassVar[tuple[FreeEnd, ...]] = ()
    travels: ClassVar[bool] = False
    arrives: ClassVar[bool] = False
    swaps: ClassVar[bool] = False

    def span(self, place: "Place") -> "tuple[int, int, int] | None":
        """Start, end (half-open) and landing in project frames; None if the layer has no place in the ground."""
        raise NotImplementedError

    def unsuited(self, place: "Place") -> str | None:
        """Why a layer cannot lie that way, in words, with what to do; None if it can."""
        return None

    def refuses(self, start: int, end: int, place: "Place") -> str | None:
        """What is wrong, in words, with a free end that somebody dragged there; None if it fits."""
        return None
