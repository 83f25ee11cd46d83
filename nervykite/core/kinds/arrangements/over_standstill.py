"""Standstill: a copy of the frame at which everything stands, for as long as it does."""

from typing import ClassVar, Literal

from ...piece.model.arrangement import Arrangement, Place


class Standstill(Arrangement):
    """From the first to the last frame of the standstill that it hangs over: [start, end)."""

    kind: Literal["standstill"] = "standstill"
    title: ClassVar[str] = "Standstill"
    hint: ClassVar[str] = "The copy is there while everything stands"
    rank: ClassVar[int] = 4
    doing: ClassVar[str] = "last as long as the standstill"

    def span(self, place: Place) -> tuple[int, int, int] | None:
        landing = place.landing
        return None if landing is None or not place.stands else (place.start, place.end, landing)

    def unsuited(self, place: Place) -> str | None:
        if place.stands:
            return None
        return f"{place.layer.name} does not hang over a standstill. Have everything stand still at its frame first."
