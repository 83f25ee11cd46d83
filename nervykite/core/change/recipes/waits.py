"""Copies that wait in the air until the subject reaches them, or becomes one of them."""

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...kinds.arrangements.ahead import Ahead
from ...kinds.arrangements.trail import Trail
from ...piece.model import Behaviour, Recipe
from ...see.catch.take import Take
from ..edits.arranging import ArrangeLayers
from ..edits.layering import ChangeLayer
from ..edits.making import Making
from .controls import Strength, between, count, seconds, spacing


class WaitingRecipe(Recipe):
    """Figures hang in the air until the subject flies into each of them."""

    kind: Literal["waiting-figures"] = "waiting-figures"
    title: ClassVar[str] = "Waiting figures"
    hint: ClassVar[str] = "Copies hang in the air until the subject gets there"
    rank: ClassVar[int] = 4
    when: ClassVar[str] = "A leap whose way you want to be seen before it is gone."
    film: ClassVar[str] = (
        "A camera that stands. Begin to film two seconds before the run-up, and have the subject look to where they"
        " will fly, so that the eye finds the figures."
    )
    missed: ClassVar[str] = "The run-up goes through the figures that wait. Figures that come too late to be noticed."

    many: Annotated[int, count(8)] = 3
    every: Annotated[int, spacing()] = 10
    before: Annotated[float, seconds("Waits", 10)] = 1.5

    def catch(self, takes: Sequence[Take]) -> list[tuple[int, int]]:
        return [(0, frame) for frame in takes[0].around(self.many, self.every, begun=True)]

    def make(self, making: Making) -> None:
        lasts = making.frames(self.before)
        making.do(ArrangeLayers(layers=making.cutouts, arrangement=Ahead(), lasts=lasts, together=True))
        for n, cutout in enumerate(making.cutouts):
            span = making.span(cutout)
            frames = max(1, min(making.frames(0.3), (span.end - span.start) // 2))
            making.enters(cutout, "fade", lasts=frames)
            making.hears(cutout, "tick", -10, seed=n + 1)


class BecomeRecipe(Recipe):
    """The subject moves into a copy and is it from then on: the footage behind is emptied of them and runs on."""

    kind: Literal["become-the-copy"] = "become-the-copy"
    title: ClassVar[str] = "Become the copy"
    hint: ClassVar[str] = "The subject freezes in the air, and the world runs on"
    rank: ClassVar[int] = 13
    when: ClassVar[str] = "The highest point of a leap, kept in the air while sea, flags and people go on."
    film: ClassVar[str] = (
        "A camera that stands, and some seconds in which the subject moves through the picture: what is behind them has"
        " to be seen."
    )
    missed: ClassVar[str] = "A subject that hardly moves: nobody ever saw what is behind them, so that is a guess."

    before: Annotated[float, seconds("Waits", 6)] = 0.6
    lasts: Annotated[float, seconds("Hangs", 4)] = 1.2
    strength: Annotated[Strength, Field(title="Drift")] = 0.5

    @property
    def emptied(self) -> float:
        return self.lasts

    def catch(self, takes: Sequence[Take]) -> list[tuple[int, int]]:
        return [(0, takes[0].moment(round(self.lasts * takes[0].rate)))]

    def make(self, making: Making) -> None:
        cutout = making.only
        empty = making.emptied_after(cutout)
        wanted = making.frames(self.lasts)
        lasts = max(1, min(wanted, empty or wanted))
        landing = making.span(cutout).landing
        drift = {"amplitude": making.px(between(4, 40, self.strength)), "rotation": between(0.2, 2.2, self.strength)}
        waits = making.copied(cutout)
        making.do(ChangeLayer(layer=waits, arrangement=Ahead()))
        making.do(ChangeLayer(layer=waits, until=max(0, landing - making.frames(self.before))))
        making.do(ChangeLayer(layer=cutout, arrangement=Trail(), until=min(making.length, landing + lasts)))
        comes = max(1, min(making.frames(0.3), lasts // 2))
        making.behaves(cutout, Behaviour(kind="drift", settings=drift, seed=3, fade_in=comes, fade_out=comes))
        span = making.span(waits)
        if span.end > span.start:
            making.enters(waits, "fade", lasts=max(1, min(making.frames(0.25), span.end - span.start)))
            making.hears(waits, "shimmer", -14, to="start")
        hung = making.span(cutout)
        if (hangs := hung.end - hung.landing) < wanted:
            why = "the footage goes on for no longer" if hung.end == making.length else "its matte travels no farther"
            making.says(f"It hangs for {hangs} of {wanted} frames: {why}. Choose an earlier frame.")
        making.hears(cutout, "shutter", -8)
