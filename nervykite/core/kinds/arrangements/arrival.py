"""Arrival: the first frame of a take comes over the take before, and lands on the cut."""

from typing import ClassVar, Literal

from ...piece.model.arrangement import Arrangement, FreeEnd, Place
from ...piece.timeline.timeline import unheld

LASTS = 15
"""For how many frames it is on its way, unless somebody has chosen."""


class Arrival(Arrangement):
    """From its free end until the cut at which its own take begins: [start, cut)."""

    kind: Literal["arrival"] = "arrival"
    title: ClassVar[str] = "Arrival"
    hint: ClassVar[str] = "The first frame of its take comes over the take before, and lands on the cut"
    rank: ClassVar[int] = 5
    doing: ClassVar[str] = "arrive on the cut"
    free: ClassVar[tuple[FreeEnd, ...]] = ("start",)
    swaps: ClassVar[bool] = True
    arrives: ClassVar[bool] = True

    def span(self, place: Place) -> tuple[int, int, int] | None:
        if self.unsuited(place) is not None:
            return None
        cut, starts = place.start, place.layer.starts
        start = cut - LASTS if starts is None else place.frame_of(starts, cut)
        return min(max(0, start), cut - 1), cut, cut

    def unsuited(self, place: Place) -> str | None:
        if place.stands:
            return f"{place.layer.name} belongs to a standstill. Hold the first frame of a take to have it arrive."
        if place.item is None:
            return unheld(place)
        if place.landing != place.start:
            first = int(place.table[0])
            return f"Only the first frame of a take can arrive on the cut before it. Hold frame {first}."
        return None if place.start > 0 else "Nothing lies before that take that it could arrive over."

    def refuses(self, start: int, end: int, place: Place) -> str | None:
        if 0 <= start < place.start:
            return None
        return f"{place.layer.name} lands on the cut at frame {place.start}: it has to begin before that."
