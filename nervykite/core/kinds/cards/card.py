"""Protocol of cards: words, in a project's colours, laid out about a middle as parts that become ordinary layers."""

from abc import abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, ClassVar

from ...common.colour import lab_of, rgb_of
from ...piece.model import PutOn
from ...piece.model.framing import Box
from ...piece.model.kinds import Family, Kind
from ..sources.inked import Inked
from ..sources.lettering import LetteringSource

TRIES = 6
"""How often a card is laid out anew at most until it fits its room."""


READ = 0.22
"""By how much of OKLab's lightness letters differ at least from what they stand on."""


@dataclass(frozen=True)
class Inks:
    """A card's colours: a strong one, a second one beside it, the lightest and the darkest."""

    main: str = "#D63F22"
    second: str = "#E0A11B"
    paper: str = "#FBF6EA"
    ink: str = "#1B2026"

    @classmethod
    def of(cls, palette: Sequence[str]) -> "Inks":
        """Those of a palette, and what it lacks of them from our own; nothing that could not be told apart."""
        labs = {c: lab_of(rgb_of(c)) for c in dict.fromkeys(palette)}
        own = cls()
        vivid = sorted(
            (c for c, lab in labs.items() if _chroma(lab) > 0.06), key=lambda c: _chroma(labs[c]), reverse=True
        )
        main = vivid[0] if vivid else own.main
        rest = [c for c in (*vivid[1:], own.second, own.main) if _apart(c, main) > 0.12]
        light = max(labs, key=lambda c: labs[c][0], default=own.paper)
        dark = min(labs, key=lambda c: labs[c][0], default=own.ink)
        paper = light if labs and labs[light][0] > 0.85 else own.paper
        ink = dark if labs and labs[dark][0] < 0.36 else own.ink
        return cls(main, rest[0], paper, ink)

    def on(self, colour: str) -> str:
        """That of the lightest and the darkest which is read better on a colour."""
        return max((self.paper, self.ink), key=lambda c: _apart_in_light(c, colour))

    def seen(self, colour: str, on: str) -> str:
        """A colour, if it is read well on another; else that of the lightest and the darkest which is."""
        return colour if _apart_in_light(colour, on) > READ else self.on(on)


def _chroma(lab: Any) -> float:
    return float((lab[1] ** 2 + lab[2] ** 2) ** 0.5)


def _apart(one: str, other: str) -> float:
    return float(((lab_of(rgb_of(one)) - lab_of(rgb_of(other))) ** 2).sum() ** 0.5)


def _apart_in_light(one: str, other: str) -> float:
    return abs(float(lab_of(rgb_of(one))[0] - lab_of(rgb_of(other))[0]))


@dataclass(frozen=True)
class Said:
    """The words that a card says, and how wide it may be, in project pixels. `tail` is where a subject is seen from it,
    in degrees.
    """

    name: str
    line: str
    wide: float
    tail: float = 120.0


@dataclass(frozen=True)
class CardPart:
    """A layer to be: what it shows, and where its middle lies from the card's, in project pixels.

    `of_line` says that it is there for the line, and goes where there is none. `enters` is its move; `drawn` says that
    its shape is drawn on, `comes` that its letters come in, over so many seconds each; `late` is how long it waits for
    that, in seconds.
    """

    source: Inked
    x: float = 0.0
    y: float = 0.0
    turn: float = 0.0
    shear: float = 0.0
    of_line: bool = False
    enters: PutOn | None = None
    drawn: float = 0.0
    comes: float = 0.0
    late: float = 0.0

    @property
    def box(self) -> Box:
        """The box it covers, from the card's middle."""
        found = self.source.outlines().box or (0.0, 0.0, 0.0, 0.0)
        left, up, right, down = self.source.look.reach
        return self.x + found[0] - left, self.y + found[1] - up, self.x + found[2] + right, self.y + found[3] + down


class Card(Kind):
    """A design. It is laid out for the words and the room that there are."""

    family: ClassVar[Family[Any]] = Family("card", "nervykite.core.kinds.cards")
    on: ClassVar[tuple[str, ...]] = ("sky",)

    @abstractmethod
    def parts(self, said: Said, inks: Inks) -> list[CardPart]:
        """Its parts, from the lowest up, about 0, 0."""

    def laid(self, said: Said, inks: Inks) -> list[CardPart]:
        """Its parts with the middle of all of them at 0, 0, no wider than the room that there is."""
        asked = said
        for _ in range(TRIES):
            parts = [p for p in self.parts(asked, inks) if said.line or not p.of_line]
            left, top, right, bottom = around(parts)
            if right - left <= 1.01 * said.wide:
                break
            asked = replace(asked, wide=asked.wide * said.wide / (right - left))
        x, y = (left + right) / 2, (top + bottom) / 2
        return [replace(p, x=p.x - x, y=p.y - y) for p in parts]


def around(parts: Sequence[CardPart]) -> Box:
    """The box that parts cover together."""
    boxes = [p.box for p in parts]
    return (
        min(b[0] for b in boxes), min(b[1] for b in boxes), max(b[2] for b in boxes), max(b[3] for b in boxes),
    )  # fmt: skip


def words(text: str, face: str, wide: float, most: float, **more: Any) -> LetteringSource:
    """Words as wide as there is room, and no higher than so many pixels an em."""
    given = {"line": 0.0, "case": "as typed", **more}
    one = LetteringSource(words=text, face=face, high=100.0, **given)
    box = one.outlines().box
    if box is None:
        return one
    high = min(most, 100.0 * wide / max(1.0, box[2] - box[0]))
    return one.model_copy(update={"high": round(max(6.0, high), 1)})


def extent(source: Inked) -> tuple[float, float, float, float]:
    """Of outlines: their middle, across and down, and how wide and high they are."""
    left, top, right, bottom = source.outlines().box or (0.0, 0.0, 0.0, 0.0)
    return (left + right) / 2, (top + bottom) / 2, right - left, bottom - top


def centred(source: Inked, x: float = 0.0, y: float = 0.0, **more: Any) -> CardPart:
    """A part whose outlines have their middle at a place."""
    across, down, _, _ = extent(source)
    return CardPart(source, x - across, y - down, **more)


def move(kind: str, **settings: Any) -> PutOn:
    """An entrance."""
    return PutOn(kind=kind, settings=settings)
