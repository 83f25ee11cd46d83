"""Trail: copies stay behind."""

from typing import ClassVar, Literal

from ...piece.model.arrangement import Arrangement, FreeEnd, Place
from ...piece.timeline.timeline import unheld


class Trail(Arrangement):
    """From the moment on, until its free end: [landing, end)."""

    kind: Literal["trail"] = "trail"
    title: ClassVar[str] = "Trail"
    hint: ClassVar[str] = "The copy stays behind from its own frame on"
    rank: ClassVar[int] = 1
    doing: ClassVar[str] = "trail"
    free: ClassVar[tuple[FreeEnd, ...]] = ("end",)

    def span(self, place: Place) -> tuple[int, int, int] | None:
        landing = place.landing
        if landing is None:
            return None
        ends = place.layer.ends
        end = place.piece if ends is None else min(place.frame_of(ends, landing), place.piece)
        return landing, max(end, landing + 1), landing

    def unsuited(self, place: Place) -> str | None:
        return unheld(place)

    def refuses(self, start: int, end: int, place: Place) -> str | None:
        landing = place.landing
        if landing is None or landing < end <= place.piece:
            return None
        return f"{place.layer.name} trails from frame {landing}: it has to end after that, within the ground."
