"""Free: where somebody put it."""

from typing import ClassVar, Literal

from ...piece.model.arrangement import Arrangement, FreeEnd, Place


class Free(Arrangement):
    """From one free end to the other, or as far as there is anything of it: [start, end)."""

    kind: Literal["free"] = "free"
    title: ClassVar[str] = "Free"
    hint: ClassVar[str] = "From where you put it to where you end it; without ends of its own, all of the piece"
    rank: ClassVar[int] = 7
    doing: ClassVar[str] = "lie free"
    free: ClassVar[tuple[FreeEnd, ...]] = ("start", "end")

    def span(self, place: Place) -> tuple[int, int, int] | None:
        if place.piece == 0:
            return None
        whole, layer = place.whole, place.layer
        start = whole[0] if layer.starts is None else place.frame_of(layer.starts, place.landing or 0)
        start = min(max(0, start), place.piece - 1)
        landing = start if place.landing is None else place.landing
        end = whole[1] if layer.ends is None else place.frame_of(layer.ends, landing)
        return start, max(start + 1, min(end, place.piece)), landing

    def refuses(self, start: int, end: int, place: Place) -> str | None:
        if 0 <= start < end <= place.piece:
            return None
        return f"{place.layer.name} has to lie within the ground, and to last one frame at least."
