"""Copies that wait in the air until the subject reaches them."""

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

from ..catch.take import Take
from ..edits.arranging import ArrangeLayers
from ..edits.making import Making
from ..model import Recipe
from ..timeline.arrangements.ahead import Ahead
from .controls import count, seconds, spacing


class WaitingRecipe(Recipe):
    """Figures hang in the air until the subject flies into each of them."""

    kind: Literal["waiting-figures"] = "waiting-figures"
    title: ClassVar[str] = "Waiting figures"
    hint: ClassVar[str] = "Copies hang in the air until the subject gets there"
    rank: ClassVar[int] = 4
    when: ClassVar[str] = "A leap whose way you want to be seen before it is gone."
    film: ClassVar[str] = (
        "A camera that stands. Begin to film a second before the run-up, so that there is time to wait."
    )
    missed: ClassVar[str] = "The run-up goes through the figures that wait. Figures that come too late to be noticed."

    many: Annotated[int, count(8)] = 3
    every: Annotated[int, spacing()] = 10
    before: Annotated[float, seconds("Waits", 10)] = 1.5

    def catch(self, takes: Sequence[Take]) -> list[tuple[int, int]]:
        return [(0, frame) for frame in takes[0].around(self.many, self.every) if frame > takes[0].frames[0]]

    def make(self, making: Making) -> None:
        lasts = making.frames(self.before)
        making.do(ArrangeLayers(layers=making.cutouts, arrangement=Ahead(), lasts=lasts, together=True))
        for n, cutout in enumerate(making.cutouts):
            span = making.span(cutout)
            frames = max(1, min(making.frames(0.3), (span.end - span.start) // 2))
            making.enters(cutout, "fade", lasts=frames)
            making.hears(cutout, "tick", -10, seed=n + 1)
