"""Departure: the last frame of a take leaves over the take after it."""

from typing import ClassVar, Literal

from ...piece.model.arrangement import Arrangement, FreeEnd, Place
from ...piece.timeline.timeline import unheld

LASTS = 15
"""For how many frames it is on its way, unless somebody has chosen."""


class Departure(Arrangement):
    """From the cut at which its own take ends until its free end: [cut, end)."""

    kind: Literal["departure"] = "departure"
    title: ClassVar[str] = "Departure"
    hint: ClassVar[str] = "The last frame of its take leaves over the take after it"
    rank: ClassVar[int] = 6
    doing: ClassVar[str] = "leave from the cut"
    free: ClassVar[tuple[FreeEnd, ...]] = ("end",)
    swaps: ClassVar[bool] = True

    def span(self, place: Place) -> tuple[int, int, int] | None:
        if self.unsuited(place) is not None:
            return None
        cut, ends = place.end, place.layer.ends
        end = cut + LASTS if ends is None else place.frame_of(ends, cut)
        return cut, max(cut + 1, min(end, place.piece)), cut

    def unsuited(self, place: Place) -> str | None:
        if place.stands:
            return f"{place.layer.name} belongs to a standstill. Hold the last frame of a take to have it leave."
        landing, table = place.landing, place.table
        if landing is None and not len(table):
            return unheld(place)
        if landing is None or table[landing - place.start] != table[-1]:
            return f"Only the last frame of a take can leave from the cut after it. Hold frame {int(table[-1])}."
        return None if place.end < place.piece else "Nothing lies after that take that it could leave over."

    def refuses(self, start: int, end: int, place: Place) -> str | None:
        if place.end < end <= place.piece:
            return None
        return f"{place.layer.name} leaves from the cut at frame {place.end}: it has to end later, within the ground."
