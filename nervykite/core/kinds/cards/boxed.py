"""Cards on boxes: strips, a slanted bar, a poster, a ticket, a tag, a crate, a typed label."""

import math
from dataclasses import replace
from typing import ClassVar, Literal

from ..sources.figure_shapes import BoxShape, OvalShape, TicketShape
from ..sources.stroke_shapes import PenShape
from .card import Card, CardPart, Inks, Said, centred, extent, move, words

CONDENSED, CAPITALS = "sofia-sans-extra-condensed", {"case": "capitals"}


class StripsCard(Card):
    """Two strips, the name on the larger one and the line on one that lies over its corner."""

    kind: Literal["strips"] = "strips"
    title: ClassVar[str] = "Strips"
    hint: ClassVar[str] = "The name on one strip, the line on another over its corner"
    rank: ClassVar[int] = 1

    def parts(self, said: Said, inks: Inks) -> list[CardPart]:
        name = words(said.name, CONDENSED, 0.84 * said.wide, 0.34 * said.wide, colour=inks.on(inks.main), **CAPITALS)
        _, _, wide, tall = extent(name)
        pad = 0.24 * tall
        strip = BoxShape(wide=wide + 2.6 * pad, high=tall + 1.6 * pad, colour=inks.main)
        left, bottom = -strip.wide / 2, strip.high / 2
        line = words(said.line, "fredoka", 0.7 * strip.wide, 0.4 * tall, colour=inks.paper)
        _, _, long, low = extent(line)
        second = BoxShape(wide=max(2.0, long + 1.6 * low), high=max(2.0, 2.1 * low), colour=inks.ink)
        x, y = left + second.wide / 2 + 0.6 * pad, bottom + 0.32 * second.high
        sweep = move("sweep", direction="left", lasts=12, lean=0)
        return [
            CardPart(strip, enters=sweep),
            centred(name, enters=sweep, late=0.07),
            CardPart(second, x, y, of_line=True, enters=sweep, late=0.16),
            centred(line, x, y, of_line=True, enters=sweep, late=0.2),
        ]


class SlantedCard(Card):
    """A slanted bar, its letters leaning with it, over a thinner one in the second colour."""

    kind: Literal["slanted"] = "slanted"
    title: ClassVar[str] = "Slanted bar"
    hint: ClassVar[str] = "Leaning letters on a leaning bar"
    rank: ClassVar[int] = 2

    def parts(self, said: Said, inks: Inks) -> list[CardPart]:
        lean = 14.0
        name = words(said.name, "anton", 0.78 * said.wide, 0.26 * said.wide, colour=inks.on(inks.ink), **CAPITALS)
        _, _, wide, tall = extent(name)
        pad = 0.26 * tall
        bar = BoxShape(wide=wide + 3.4 * pad, high=tall + 1.7 * pad, slant=lean, colour=inks.ink)
        line = words(
            said.line, CONDENSED, 0.62 * bar.wide, 0.44 * tall, colour=inks.on(inks.second), tracking=0.05, **CAPITALS
        )
        _, _, long, low = extent(line)
        thin = BoxShape(wide=max(2.0, long + 2.4 * low), high=max(2.0, 2.0 * low), slant=lean, colour=inks.second)
        x, y = bar.wide / 2 - thin.wide / 2 - 0.3 * pad, bar.high / 2 + 0.36 * thin.high
        right, left = (move("sweep", direction=d, lasts=11, lean=0) for d in ("right", "left"))
        return [
            CardPart(bar, enters=right),
            centred(name, shear=-lean, enters=right, late=0.08),
            CardPart(thin, x, y, of_line=True, enters=left, late=0.18),
            centred(line, x, y, shear=-lean, of_line=True, enters=left, late=0.22),
        ]


class PosterCard(Card):
    """Each word of the name on a line of its own, all as wide, with the line on a bar below."""

    kind: Literal["poster"] = "poster"
    title: ClassVar[str] = "Poster"
    hint: ClassVar[str] = "Each word as wide as the card, stacked"
    rank: ClassVar[int] = 3

    def parts(self, said: Said, inks: Inks) -> list[CardPart]:
        stacked = "\n".join(said.name.split()[:4]) or said.name
        name = words(
            stacked, "anton", 0.9 * said.wide, 0.4 * said.wide, align="even", leading=1.08, colour=inks.paper,
            line=max(2.0, 0.008 * said.wide), line_colour=inks.ink, way="rise", by="line", stagger=0.35, **CAPITALS,
        )  # fmt: skip
        # Short words as wide as the card would be taller than it.
        tall = extent(name)[3]
        name = name.model_copy(update={"high": name.high * min(1.0, 0.6 * said.wide / tall)}) if tall else name
        _, _, wide, tall = extent(name)
        line = words(
            said.line, CONDENSED, 0.86 * wide, 0.11 * said.wide, colour=inks.on(inks.main), tracking=0.08, **CAPITALS
        )
        _, _, _, low = extent(line)
        bar = BoxShape(wide=max(2.0, wide), high=max(2.0, 2.1 * low), colour=inks.main)
        y = tall / 2 + bar.high / 2 + 0.5 * low
        unfold = move("unfold", axis="upright", lasts=9, lean=0)
        return [
            centred(name, comes=0.5),
            CardPart(bar, 0, y, of_line=True, enters=unfold, late=0.3),
            centred(line, 0, y, enters=move("fade", lasts=6), late=0.45),
        ]


class TicketCard(Card):
    """A ticket, with the line along its lower edge and a stub."""

    kind: Literal["ticket-card"] = "ticket-card"
    title: ClassVar[str] = "Ticket"
    hint: ClassVar[str] = "The name on a ticket"
    rank: ClassVar[int] = 4

    def parts(self, said: Said, inks: Inks) -> list[CardPart]:
        name = words(said.name, "alfa-slab-one", 0.62 * said.wide, 0.17 * said.wide, colour=inks.ink, **CAPITALS)
        _, _, wide, tall = extent(name)
        line = words(
            said.line, "space-mono", wide, 0.052 * said.wide, colour=inks.seen(inks.main, inks.paper), **CAPITALS
        )
        _, _, _, low = extent(line)
        gap = 0.45 * tall
        inner = tall + gap + low
        high = inner + 1.9 * gap
        across = max(wide / 0.66, 2.2 * high)
        shape = TicketShape(
            wide=across, high=high, stub=0.82, bite=0.11 * high, holes=8, colour=inks.paper,
            line=max(2.0, 0.005 * said.wide), line_colour=inks.ink,
        )  # fmt: skip
        x, top = -0.09 * across, -inner / 2
        stub = words("No 1", "alfa-slab-one", 0.5 * high, 0.14 * said.wide, colour=line.colour)
        twirl = move("twirl", turns=0.1, size=0.6, lasts=12)
        turn = -5.0
        return [
            CardPart(shape, turn=turn, enters=twirl),
            _turned(centred(name, x, top + tall / 2, enters=twirl), turn),
            _turned(centred(line, x, top + tall + gap + low / 2, enters=twirl), turn),
            _turned(centred(stub, 0.41 * across, 0, enters=twirl), turn, -90),
        ]


class TagCard(Card):
    """A tag on a string."""

    kind: Literal["tag"] = "tag"
    title: ClassVar[str] = "Tag"
    hint: ClassVar[str] = "A tag on a string"
    rank: ClassVar[int] = 5

    def parts(self, said: Said, inks: Inks) -> list[CardPart]:
        name = words(said.name, "archivo-black", 0.66 * said.wide, 0.15 * said.wide, colour=inks.on(inks.second))
        _, _, wide, tall = extent(name)
        line = words(said.line, "fredoka", wide, 0.065 * said.wide, colour=inks.on(inks.second))
        _, _, _, low = extent(line)
        gap = 0.4 * tall
        inner = tall + gap + low
        high = inner + 2 * gap
        across = wide + 1.5 * high
        body = BoxShape(wide=across, high=high, corners=0.26 * high, colour=inks.second)
        hole = -across / 2 + 0.36 * high
        eye = OvalShape(wide=0.24 * high, high=0.24 * high, colour=inks.ink, line=0.04 * high, line_colour=inks.paper)
        up = 0.9 * high
        points = [(0.0, 0.0), (-0.22 * high, -0.35 * up), (0.05 * high, -0.7 * up), (-0.12 * high, -up)]
        string = PenShape(points=points, thick=max(3.0, 0.035 * high), colour=inks.paper)
        drop = move("drop", lasts=16, overshoot=0.2)
        turn = 5.0
        x, top = 0.3 * high, -inner / 2
        return [
            CardPart(body, turn=turn, enters=drop),
            _turned(CardPart(eye, hole, 0, enters=drop), turn),
            _turned(CardPart(string, hole, 0, enters=drop), turn, -turn),
            _turned(centred(name, x, top + tall / 2, enters=drop), turn),
            _turned(centred(line, x, top + tall + gap + low / 2, enters=drop), turn),
        ]


class CrateCard(Card):
    """Stencilled within a frame that is drawn around it."""

    kind: Literal["crate"] = "crate"
    title: ClassVar[str] = "Crate"
    hint: ClassVar[str] = "Stencilled letters in a drawn frame"
    rank: ClassVar[int] = 6

    def parts(self, said: Said, inks: Inks) -> list[CardPart]:
        name = words(
            said.name, "saira-stencil-one", 0.8 * said.wide, 0.22 * said.wide, colour=inks.paper, tracking=0.04,
            way="typed", stagger=1.0, **CAPITALS,
        )  # fmt: skip
        _, _, wide, tall = extent(name)
        line = words(
            said.line, "space-mono", wide, 0.06 * said.wide, colour=inks.seen(inks.second, inks.ink), **CAPITALS
        )
        _, _, _, low = extent(line)
        gap = 0.42 * tall
        inner = tall + gap + low
        thick = max(3.0, 0.012 * said.wide)
        frame = BoxShape(
            wide=wide + 2.6 * gap,
            high=inner + 2.2 * gap,
            filled="hollow",
            line=thick,
            line_colour=inks.paper,
            sharp=True,
        )
        ground = BoxShape(wide=frame.wide + 4 * thick, high=frame.high + 4 * thick, colour=inks.ink)
        top = -inner / 2
        return [
            CardPart(ground, enters=move("fade", lasts=5)),
            CardPart(frame, drawn=0.5),
            centred(name, 0, top + tall / 2, comes=0.5, late=0.15),
            centred(line, 0, top + tall + gap + low / 2, enters=move("fade", lasts=6), late=0.55),
        ]


class TypedCard(Card):
    """Typed on a dark label, letter by letter, with a mark that runs ahead."""

    kind: Literal["typed"] = "typed"
    title: ClassVar[str] = "Typed"
    hint: ClassVar[str] = "Typed letter by letter on a label"
    rank: ClassVar[int] = 7

    def parts(self, said: Said, inks: Inks) -> list[CardPart]:
        name = words(
            said.name, "space-mono", 0.82 * said.wide, 0.2 * said.wide, colour=inks.paper, way="typed", stagger=1.0,
            align="left",
        )  # fmt: skip
        _, _, wide, tall = extent(name)
        second = inks.seen(inks.second, inks.ink)
        line = words(said.line, "space-mono", wide, 0.062 * said.wide, colour=second, way="typed", stagger=1.0)
        _, _, long, low = extent(line)
        gap = 0.55 * tall
        inner = tall + gap + low
        label = BoxShape(wide=wide + 2.4 * gap, high=inner + 2.2 * gap, corners=0.16 * tall, colour=inks.ink)
        mark = BoxShape(wide=0.16 * tall, high=inner + 2.2 * gap, corners=0.08 * tall, colour=inks.main)
        top, left = -inner / 2, -wide / 2
        fade = move("fade", lasts=5)
        return [
            CardPart(label, enters=fade),
            CardPart(mark, -label.wide / 2 + mark.wide / 2, 0, enters=fade),
            centred(name, left + wide / 2, top + tall / 2, comes=0.6, late=0.1),
            centred(line, left + long / 2, top + tall + gap + low / 2, comes=0.4, late=0.6),
        ]


def _turned(part: CardPart, turn: float, own: float = 0.0) -> CardPart:
    """A part of something that is turned about the card's middle as a whole, and turned itself besides."""
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    across, down, _, _ = extent(part.source)
    x, y = part.x + across, part.y + down
    return replace(part, x=c * x - s * y - across, y=s * x + c * y - down, turn=part.turn + turn + own)
