"""Ahead: copies wait until the subject reaches them."""

from typing import ClassVar, Literal

from ...piece.model.arrangement import Arrangement, FreeEnd, Place
from ...piece.timeline.timeline import unheld


class Ahead(Arrangement):
    """From its free end until the moment, at which the live subject is in its place: [start, landing)."""

    kind: Literal["ahead"] = "ahead"
    title: ClassVar[str] = "Ahead"
    hint: ClassVar[str] = "The copy waits until the subject reaches it"
    rank: ClassVar[int] = 2
    doing: ClassVar[str] = "wait ahead"
    free: ClassVar[tuple[FreeEnd, ...]] = ("start",)
    swaps: ClassVar[bool] = True

    def span(self, place: Place) -> tuple[int, int, int] | None:
        landing = place.landing
        if landing is None:
            return None
        starts = place.layer.starts
        start = 0 if starts is None else max(0, place.frame_of(starts, landing))
        return min(start, landing), landing, landing

    def unsuited(self, place: Place) -> str | None:
        return unheld(place)

    def refuses(self, start: int, end: int, place: Place) -> str | None:
        landing = place.landing
        if landing is None or 0 <= start < max(1, landing):
            return None
        return f"{place.layer.name} waits for frame {landing}: it has to begin before that."
