"""Everything stands: short freezes with strokes, and name cards."""

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...common.errors import Refusal
from ...kinds.cards.card import Card, Said, around
from ...kinds.cards.room import room_for
from ...see.catch.take import Take
from ..edits.carding import AddCard
from ..edits.making import Making
from ..edits.pushing import Pushed, SlowPush, Window
from ..edits.worlds import PutWorld
from .controls import Coloured, Lines, Strength, between, count, seconds

SMALL = 120
"""How many rows a canvas has on which room for a card is looked for."""
WIDE = 0.82
"""How wide a card would like to be on a wide canvas, in shares of its height."""


class PopsRecipe(Coloured):
    """One, two, three: it stands for a few frames each time, with strokes around the subject."""

    kind: Literal["pops"] = "pops"
    title: ClassVar[str] = "Pop, pop, pop"
    hint: ClassVar[str] = "Short freezes, each with a stroke around the subject"
    rank: ClassVar[int] = 8
    when: ClassVar[str] = "A fast sequence whose best three moments nobody would see."
    film: ClassVar[str] = "Anything that moves, by hand as well. 60 frames a second give crisper freezes."
    missed: ClassVar[str] = "Freezes of more than six frames: it stutters instead of popping."

    many: Annotated[int, count(8)] = 3
    lasts: Annotated[int, Field(ge=1, le=12, title="Frames each", json_schema_extra={"unit": "fr", "step": 1})] = 3
    strength: Strength = 0.5

    def catch(self, takes: Sequence[Take]) -> list[tuple[int, int]]:
        return [(0, frame) for frame in takes[0].peaks(self.many, 0.35)]

    def make(self, making: Making) -> None:
        inks = making.inks
        for n, cutout in enumerate(making.cutouts):
            making.stands(cutout, self.lasts, heard="runs on")
            colour = (inks.paper, inks.second, inks.main)[n % 3]
            width = making.px(between(3, 21, self.strength))
            making.wears(cutout, ("outline", {"width": width, "colour": colour}))
            making.hears(cutout, "pop", -6, to="start", seed=n + 1)


class NameCardRecipe(Coloured):
    """Everything stands, the subject swells, the world is blurred, a name comes in; all leaves the way it came."""

    words: ClassVar[bool] = True
    card: ClassVar[str] = ""
    when: ClassVar[str] = "To say who that is, in the middle of what they do best."
    film: ClassVar[str] = "Half a second in which all of the subject is seen, with room beside it for the name."
    missed: ClassVar[str] = "A frame with motion blur in the face: nudge the moment to a crisp one."

    name: Annotated[Lines, Field(title="Name")] = "Your name"
    line: Annotated[Lines, Field(title="Line")] = ""
    lasts: Annotated[float, seconds("Stands", 6)] = 1.6
    strength: Strength = 0.5

    def catch(self, takes: Sequence[Take]) -> list[tuple[int, int]]:
        return [(0, takes[0].best)]

    def make(self, making: Making) -> None:
        if not self.name.strip():
            raise Refusal("A name card needs a name. Type one.")
        cutout = making.only
        lasts = making.frames(self.lasts)
        making.stands(cutout, lasts, heard="runs on")
        move = max(2, min(making.frames(0.3), lasts // 3))
        making.wears(cutout, ("outline", {"width": making.px(7), "colour": making.inks.paper}))
        making.enters(cutout, "swell", amount=between(0.04, 0.2, self.strength), lasts=move)
        making.leaves_as_it_came(cutout)
        making.do(PutWorld(layer=cutout, way="blurred", strength=between(0.2, 0.8, self.strength)))
        span = making.span(cutout)
        x, y, wide = self._room(making, cutout)
        making.do(
            AddCard(
                card=Card.family[self.card](), name=self.name, line=self.line, at=span.start,
                frames=max(2, span.end - span.start), x=x, y=y, wide=wide, above=cutout,
            )
        )  # fmt: skip
        making.hears(cutout, "slam", -7, to="start")
        making.hears(cutout, "reverse-swell", -11, to="start")

    def _room(self, making: Making, cutout: str) -> tuple[float, float, float]:
        """The middle of the card and its width: low down on a tall canvas, beside the subject on a wide one."""
        width, height = making.document.project.width, making.document.project.height
        if height >= width:
            return width / 2, 0.8 * height, 0.8 * width
        left, top, right, bottom = (v / height * SMALL for v in making.box(cutout))
        cover = np.zeros((SMALL, round(SMALL * width / height)), np.float32)
        cover[max(0, round(top)) : max(0, round(bottom)), max(0, round(left)) : max(0, round(right))] = 1
        card = around(Card.family[self.card]().laid(Said(self.name.strip(), self.line.strip(), 600.0), making.inks))
        high = (card[3] - card[1]) / max(1.0, card[2] - card[0])
        room = room_for(cover, high, WIDE * height / width)
        return room.x * width, room.y * height, room.wide * width


class StripsNameRecipe(NameCardRecipe):
    """With the name on strips."""

    kind: Literal["name-strips"] = "name-strips"
    title: ClassVar[str] = "Name card, strips"
    hint: ClassVar[str] = "Everything stands, and a name comes on strips"
    rank: ClassVar[int] = 9
    card: ClassVar[str] = "strips"


class BrushNameRecipe(NameCardRecipe):
    """With the name over the stroke of a brush."""

    kind: Literal["name-brush"] = "name-brush"
    title: ClassVar[str] = "Name card, brush"
    hint: ClassVar[str] = "Everything stands, and a name comes on a stroke of paint"
    rank: ClassVar[int] = 9
    card: ClassVar[str] = "brush-card"


class ArchNameRecipe(NameCardRecipe):
    """With deep letters on an arch."""

    kind: Literal["name-arch"] = "name-arch"
    title: ClassVar[str] = "Name card, arch"
    hint: ClassVar[str] = "Everything stands, and a name pops up on an arch"
    rank: ClassVar[int] = 9
    card: ClassVar[str] = "arch"


class InkPanelRecipe(Coloured):
    """Everything stands as in a comic: inked, over printed dots, subject and world pushed slowly apart."""

    kind: Literal["ink-panel"] = "ink-panel"
    title: ClassVar[str] = "Ink panel"
    hint: ClassVar[str] = "A page of a comic, pushed slowly apart"
    rank: ClassVar[int] = 11
    when: ClassVar[str] = "A pose that says all: the punch, the leap, the look back."
    film: ClassVar[str] = "Plain clothes and light from one side: ink lives on clear shapes."
    missed: ClassVar[str] = "A small subject: lines and dots need room. Come nearer, or frame the take closer."

    lasts: Annotated[float, seconds("Stands", 6)] = 1.4
    strength: Strength = 0.5

    def catch(self, takes: Sequence[Take]) -> list[tuple[int, int]]:
        return [(0, takes[0].best)]

    def make(self, making: Making) -> None:
        cutout, inks = making.only, making.inks
        making.stands(cutout, making.frames(self.lasts), heard="runs on")
        making.wears(cutout, ("ink", {"edge": making.px(between(3, 13, self.strength), 0, 24)}))
        world = PutWorld(layer=cutout, way="coloured", strength=between(0.3, 0.9, self.strength))
        making.do(world)
        dots = {"size": making.px(between(10, 26, self.strength), 2, 80), "colour": inks.ink, "paper": inks.paper}
        making.wears(world.made, ("halftone", {**dots, "amount": between(0.4, 1.0, self.strength)}))
        size = 1 - between(0.04, 0.14, self.strength)
        making.do(SlowPush(of=[Pushed(layer=cutout)], start=Window(), end=Window(size=size)))
        making.hears(cutout, "paper", -6, to="start")
        making.hears(cutout, "slam", -9, to="start")
