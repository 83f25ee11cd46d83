"""Copies that stay behind: as caught, evenly, fading in steps, crumbling, as light that lifts off."""

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...kinds.arrangements.trail import Trail
from ...piece.model import Recipe
from ...see.catch.take import Take
from ..edits.arranging import ArrangeLayers
from ..edits.layering import ChangeLayer
from ..edits.making import Making
from ..edits.worlds import PutWorld
from .controls import Strength, between, count, seconds, spacing

FILM = (
    "Put the camera on something that stands. Have the whole jump in the picture, and leave an empty second at the end."
)
MISSED = "Frames too near to each other: the copies cover one another. A busy background right behind the subject."


class Trailing(Recipe):
    """Copies that are left behind, and go together at the end."""

    film: ClassVar[str] = FILM
    missed: ClassVar[str] = MISSED

    lasts: Annotated[float, seconds("Stays", 10)] = 1.2

    def left_behind(self, making: Making, steps: bool = False) -> None:
        """Leaves the copies behind until so long after the last of them; a shutter is heard with each."""
        lasts = making.frames(self.lasts)
        making.do(ArrangeLayers(layers=making.cutouts, arrangement=Trail(), lasts=lasts, together=True, steps=steps))
        for n, cutout in enumerate(making.cutouts):
            making.hears(cutout, "shutter", -8, seed=n + 1)

    def fades(self, making: Making) -> None:
        """Lets the copies go over their last frames."""
        for cutout in making.cutouts:
            making.leaves(cutout, "fade", lasts=min(making.frames(0.3), making.frames(self.lasts)))


class TrailRecipe(Trailing):
    """Some frames of one movement stay behind as the subject goes on."""

    kind: Literal["trail"] = "trail"
    title: ClassVar[str] = "Trail"
    hint: ClassVar[str] = "Copies stay behind as the subject goes on"
    rank: ClassVar[int] = 1
    when: ClassVar[str] = "A leap, a throw, a turn: one movement that is over in a second."

    many: Annotated[int, count(12)] = 3
    every: Annotated[int, spacing()] = 10
    outlined: Annotated[Strength, Field(title="Outline")] = 0.0

    def catch(self, takes: Sequence[Take]) -> list[tuple[int, int]]:
        return [(0, frame) for frame in takes[0].around(self.many, self.every)]

    def make(self, making: Making) -> None:
        self.left_behind(making)
        if self.outlined:
            for cutout in making.cutouts:
                width = making.px(between(0, 14, self.outlined))
                making.wears(cutout, ("outline", {"width": width, "colour": making.inks.paper}))
        self.fades(making)


class EvenTrailRecipe(Trailing):
    """Copies all along the way, each as far from the one before."""

    kind: Literal["even-trail"] = "even-trail"
    title: ClassVar[str] = "Even trail"
    hint: ClassVar[str] = "All along the way, each as far from the last"
    rank: ClassVar[int] = 2
    when: ClassVar[str] = "A run, a ride, a slide across the picture."
    film: ClassVar[str] = (
        "From the side, with the camera on something that stands, wide enough for all of the way. Film on for a second"
        " after the subject has left."
    )
    missed: ClassVar[str] = "Towards the camera instead of across: the copies stand one behind the other."

    many: Annotated[int, count(16)] = 5

    def catch(self, takes: Sequence[Take]) -> list[tuple[int, int]]:
        return [(0, frame) for frame in takes[0].by_distance(self.many)]

    def make(self, making: Making) -> None:
        self.left_behind(making)
        self.fades(making)


class FadingTrailRecipe(Trailing):
    """Copies of which the older ones are the fainter."""

    kind: Literal["fading-trail"] = "fading-trail"
    title: ClassVar[str] = "Fading trail"
    hint: ClassVar[str] = "The older, the fainter"
    rank: ClassVar[int] = 3
    when: ClassVar[str] = "Fast movement: it reads as one sweep."
    film: ClassVar[str] = (
        "60 frames a second and a short exposure, so that an arm that swings is crisp; a camera that stands."
    )
    missed: ClassVar[str] = "A slow movement: the faint copies lie on each other, and it looks like a fault."

    many: Annotated[int, count(16)] = 6
    every: Annotated[int, spacing()] = 4

    def catch(self, takes: Sequence[Take]) -> list[tuple[int, int]]:
        return [(0, frame) for frame in takes[0].around(self.many, self.every)]

    def make(self, making: Making) -> None:
        self.left_behind(making, steps=True)


class ScatterRecipe(Trailing):
    """Copies that crumble into drifting grains as they leave."""

    kind: Literal["scatter-away"] = "scatter-away"
    title: ClassVar[str] = "Scatter away"
    hint: ClassVar[str] = "Copies crumble into grains"
    rank: ClassVar[int] = 12
    when: ClassVar[str] = "The end of a movement that should not simply stop."
    film: ClassVar[str] = (
        "A camera that stands, a plain sky or wall behind the pose, and two seconds after it, in which grains drift."
    )
    missed: ClassVar[str] = "Something busy behind: nobody sees where the grains go. Grains that outlast the shot."

    lasts: Annotated[float, seconds("Stays", 10)] = 1.5
    many: Annotated[int, count(6)] = 2
    strength: Strength = 0.5

    def catch(self, takes: Sequence[Take]) -> list[tuple[int, int]]:
        return [(0, frame) for frame in takes[0].peaks(self.many, 0.3)]

    def make(self, making: Making) -> None:
        self.left_behind(making)
        for cutout in making.cutouts:
            far = making.px(between(40, 320, self.strength), 0, 500)
            making.wears(cutout, ("scatter", {"strength": 0.0, "fade": 1.0, "side": "everywhere", "distance": far}))
            channel = f"{making.layer(cutout).finishes[-1].id}.strength"
            late = making.frames(0.35 * self.lasts)
            making.key(cutout, channel, "start", late, 0.0, easing="ease-in")
            making.key(cutout, channel, "end", -1, 1.0)
            making.hears(cutout, "shimmer", -14, to="end", offset=-making.frames(0.5))


class NeonRecipe(Trailing):
    """Glowing edges that lift off the subject and fade, over a darker world."""

    kind: Literal["neon-lift"] = "neon-lift"
    title: ClassVar[str] = "Neon lift-off"
    hint: ClassVar[str] = "Glowing edges lift off and fade"
    rank: ClassVar[int] = 10
    when: ClassVar[str] = "A landing, a hit, a pose at the top of a jump."
    film: ClassVar[str] = "At dusk or in the shade: light shows over dark. Room above the head, where the edges go."
    missed: ClassVar[str] = "Bright sky behind: glow over white is white. More *Strength* darkens the world."

    lasts: Annotated[float, seconds("Stays", 10)] = 0.9
    many: Annotated[int, count(6)] = 2
    strength: Strength = 0.5

    def catch(self, takes: Sequence[Take]) -> list[tuple[int, int]]:
        return [(0, frame) for frame in takes[0].peaks(self.many, 0.4)]

    def make(self, making: Making) -> None:
        lasts = making.frames(self.lasts)
        making.do(ArrangeLayers(layers=making.cutouts, arrangement=Trail(), lasts=lasts, together=True))
        for n, cutout in enumerate(making.cutouts):
            making.wears(cutout, ("neon-edges", {"base": 0.0, "dark": 0.0}))
            making.do(ChangeLayer(layer=cutout, blend="screen"))
            making.key(cutout, "position", "start", 0, 0.0, 0.0)
            making.key(cutout, "position", "end", -1, 0.0, -making.px(between(60, 420, self.strength)))
            making.key(cutout, "opacity", "end", -max(2, round(0.7 * lasts)), 1.0, easing="linear")
            making.key(cutout, "opacity", "end", -1, 0.0)
            making.hears(cutout, "shimmer", -12, to="start", seed=n + 1)
        # Light is seen over dark: for as long as the first of them is there, the world steps back.
        making.do(PutWorld(layer=making.cutouts[0], way="darkened", strength=between(0.2, 0.7, self.strength)))
