"""Two takes and the cut between them: what comes and lands on it, what leaves from it."""

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

from ...common.errors import Refusal
from ...kinds.arrangements.arrival import Arrival
from ...kinds.arrangements.departure import Departure
from ...kinds.sources.hold import HoldSource
from ...kinds.sources.played import PlayedSource
from ...kinds.sources.sky_take import TakeSource
from ...piece.model import Behaviour, PutOn, Recipe
from ...piece.model.base import new_id
from ...see.catch.take import Take
from ..edits.adding import AddLayer
from ..edits.base import with_layer
from ..edits.layering import ChangeLayer
from ..edits.making import Making
from .controls import Strength, between, seconds


def both(takes: Sequence[Take]) -> Sequence[Take]:
    """Two takes. Raises Refusal if there are fewer."""
    if len(takes) < 2:
        raise Refusal("That needs two takes, one after the other in the ground. Add the second one.")
    return takes


class Arriving(Recipe):
    """The figure of the second take comes by a move, and the ground takes it hard."""

    takes: ClassVar[int] = 2
    film: ClassVar[str] = (
        "Two takes from the same place, the camera standing. End the first with nobody in the picture, or looking up; "
        "begin the second with the landing."
    )
    missed: ClassVar[str] = "The second take does not begin with the figure standing: it lands, and then jumps."
    move: ClassVar[PutOn]

    lasts: Annotated[float, seconds("Takes", 4)] = 0.6
    strength: Strength = 0.5

    def catch(self, takes: Sequence[Take]) -> list[tuple[int, int]]:
        return [(1, both(takes)[1].frames[0])]

    def make(self, making: Making) -> None:
        cutout = making.only
        lasts, item = making.frames(self.lasts), making.over(cutout)
        making.do(ChangeLayer(layer=cutout, arrangement=Arrival()))
        span = making.span(cutout)
        making.do(ChangeLayer(layer=cutout, until=max(0, span.landing - lasts)))
        span = making.span(cutout)
        # It comes down on the last frame before the cut: the take jolts and is heard as it begins.
        touch = self.move.move.touches()[0].at
        settings = {**self.move.settings, "lasts": max(1, round((span.end - span.start) / touch))}
        making.enters(cutout, self.move.kind, **settings)
        making.hears(cutout, "whoosh", -6, offset=-3, lasts=round(max(0.3, self.lasts), 2))
        making.hears(cutout, "thud", -3)
        shake = {"amplitude": making.px(between(4, 48, self.strength)), "decay": 8}
        making.shakes(item, Behaviour(kind="jolt", settings=shake, seed=7))


class DropRecipe(Arriving):
    """The subject drops into the last second of one take and lands on the first frame of the next."""

    kind: Literal["drop-on-the-cut"] = "drop-on-the-cut"
    title: ClassVar[str] = "Drop on the cut"
    hint: ClassVar[str] = "A fall into the picture that lands on the next take"
    rank: ClassVar[int] = 5
    when: ClassVar[str] = "From one place to another with a bang."
    move: ClassVar[PutOn] = PutOn(kind="drop")


class RiseRecipe(Arriving):
    """The subject comes up from below and stands on the first frame of the next take."""

    kind: Literal["rise-on-the-cut"] = "rise-on-the-cut"
    title: ClassVar[str] = "Rise on the cut"
    hint: ClassVar[str] = "Up from below into the next take"
    rank: ClassVar[int] = 6
    when: ClassVar[str] = "Out of the water, out of the sand, from behind a wall."
    film: ClassVar[str] = (
        "Begin the second take with the figure standing free, seen down to the feet. In the first one keep the place"
        " empty where they will come up, and have people in it look there."
    )
    missed: ClassVar[str] = "Feet that the frame cuts off in the second take: what rises has no lower end."
    move: ClassVar[PutOn] = PutOn(kind="rise", settings={"overshoot": 0.15, "lands": "hard"})


class Leaving(Recipe):
    """The last frame of the first take leaves over the next one: past the camera, as that lands with a jolt."""

    takes: ClassVar[int] = 2

    def catch(self, takes: Sequence[Take]) -> list[tuple[int, int]]:
        return [(0, both(takes)[0].frames[-1])]

    def flung(self, making: Making, lasts: int, strength: float) -> None:
        """Flings the cutout past the camera, over so many of its last frames."""
        size = between(3, 12, strength)
        making.leaves(making.only, "fling", lasts=max(1, lasts), size=size, across=0.5, down=0.3)

    def jolts(self, making: Making, strength: float, late: int = 0) -> None:
        """Has the take after it jolt, so many frames after it began."""
        shake = {"amplitude": making.px(between(4, 40, strength)), "decay": 8, "delay": late}
        making.shakes(making.after(making.over(making.only)), Behaviour(kind="jolt", settings=shake, seed=7))


class FlingRecipe(Leaving):
    """The last frame of a take leaves over the next one: past the camera, as that lands with a jolt."""

    kind: Literal["fling-past"] = "fling-past"
    title: ClassVar[str] = "Fling past"
    hint: ClassVar[str] = "Flung past the camera as the next take begins"
    rank: ClassVar[int] = 7
    when: ClassVar[str] = "Out of one place and into another without a breath."
    film: ClassVar[str] = "End the first take with the subject near and whole in the picture, moving towards you."
    missed: ClassVar[str] = "The subject is cut off by the frame at the end of its take: the edge is flung along."

    lasts: Annotated[float, seconds("Takes", 3)] = 0.4
    strength: Strength = 0.5

    def make(self, making: Making) -> None:
        cutout, lasts = making.only, making.frames(self.lasts)
        making.do(ChangeLayer(layer=cutout, arrangement=Departure()))
        cut = making.span(cutout).landing
        length = making.length
        making.do(ChangeLayer(layer=cutout, until=min(length, cut + lasts)))
        span = making.span(cutout)
        self.flung(making, span.end - span.start, self.strength)
        making.hears(cutout, "whoosh", -4, to="start", offset=2, lasts=round(max(0.3, self.lasts * 1.3), 2))
        making.hears(cutout, "slam", -9, to="start")
        self.jolts(making, self.strength)


class SpinUnderRecipe(Leaving):
    """The next take spins in, small and turned, under the still subject of this one, who is flung past as it lands."""

    kind: Literal["spin-under"] = "spin-under"
    title: ClassVar[str] = "Spin in under"
    hint: ClassVar[str] = "The next take spins in under the subject, who is then flung past"
    rank: ClassVar[int] = 7
    when: ClassVar[str] = "From one place to the next in one turn, with the subject holding the picture together."
    film: ClassVar[str] = "End the first take with the subject near and whole; let the second one begin with movement."
    missed: ClassVar[str] = "A second take that begins with nothing in it: what spins in has to be seen at a glance."

    spins: Annotated[float, seconds("Spins in for", 3)] = 0.5
    lasts: Annotated[float, seconds("Flung for", 3)] = 0.4
    strength: Strength = 0.5

    def make(self, making: Making) -> None:
        cutout = making.only
        after = making.after(making.over(cutout))
        source = after.source
        if not isinstance(source, PlayedSource):
            raise Refusal("Only footage that plays can spin in. Put a take after this one.")
        making.do(ChangeLayer(layer=cutout, arrangement=Departure()))
        cut, most = making.span(cutout).landing, after.source.lasts(making.document)
        spins = max(2, min(making.frames(self.spins), most - 1))
        flung = max(1, min(making.frames(self.lasts), most - spins))
        making.do(ChangeLayer(layer=cutout, until=cut + spins + flung))
        shown = HoldSource(hold=making.hold(cutout).id, whole=True)
        whole = making.below(cutout, "All of it", shown)
        making.do(ChangeLayer(layer=whole, until=cut + spins))
        taken = TakeSource(shot=source.shot, first=source.first, past=source.past, speed=source.speed)
        under = new_id()
        making.do(AddLayer(source=taken, at=cut, frames=spins, above=whole, layer=under))
        making.document = with_layer(making.document, under, framing=after.framing)
        canvas = making.document.project
        turned = between(15, 110, self.strength)
        for channel, value in (("position", (-0.7 * canvas.width, 0.1 * canvas.height)), ("scale", (0.2,))):
            making.key(under, channel, "start", 0, *value)
            making.key(under, channel, "end", -1, *((0.0, 0.0) if channel == "position" else (1.0,)))
        making.key(under, "rotation", "start", 0, -turned)
        making.key(under, "rotation", "end", -1, 0.0)
        self.flung(making, flung, self.strength)
        making.hears(cutout, "whoosh", -6, to="start", lasts=round(max(0.3, self.spins), 2))
        making.hears(under, "slam", -7, to="end")
        self.jolts(making, self.strength, spins)
