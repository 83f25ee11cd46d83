"""Along: a moving cutout runs with its footage."""

from typing import ClassVar, Literal

from ...piece.model.arrangement import Arrangement, Place
from ...piece.timeline.timeline import unheld


class Along(Arrangement):
    """The frames of the ground that show what its source travels through."""

    kind: Literal["along"] = "along"
    title: ClassVar[str] = "Along"
    hint: ClassVar[str] = "The cutout moves as the footage does, through the range of its matte"
    rank: ClassVar[int] = 3
    doing: ClassVar[str] = "run along"
    travels: ClassVar[bool] = True

    def unsuited(self, place: Place) -> str | None:
        return unheld(place)

    def span(self, place: Place) -> tuple[int, int, int] | None:
        travel = place.travel
        if travel is None:
            return None
        landing = place.landing
        return *travel, travel[0] if landing is None else landing
