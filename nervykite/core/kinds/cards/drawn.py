"""Cards that are drawn: with the brush, a ring, a burst, a bubble, an arch, a signature, a fine rule."""

import math
from typing import ClassVar, Literal

from ..sources.figure_shapes import BoxShape, BubbleShape, RingShape, StarShape
from ..sources.stroke_shapes import BrushStrokeShape, UnderlineShape
from .card import Card, CardPart, Inks, Said, centred, extent, move, words

CONDENSED, CAPITALS = "sofia-sans-extra-condensed", {"case": "capitals"}


class BrushCard(Card):
    """The name over one stroke of a broad brush."""

    kind: Literal["brush-card"] = "brush-card"
    title: ClassVar[str] = "Brush"
    hint: ClassVar[str] = "The name over one stroke of a brush"
    rank: ClassVar[int] = 11

    def parts(self, said: Said, inks: Inks) -> list[CardPart]:
        name = words(
            said.name, "permanent-marker", 0.76 * said.wide, 0.24 * said.wide, colour=inks.on(inks.main), way="rise",
            stagger=0.5,
        )  # fmt: skip
        _, _, wide, tall = extent(name)
        stroke = BrushStrokeShape(wide=wide * 1.2, high=max(1.35 * tall, 0.2 * wide), bend=8, dry=0.5, colour=inks.main)
        line = words(
            said.line, "caveat-brush", 0.85 * wide, 0.12 * said.wide, colour=inks.paper,
            line=max(2.0, 0.01 * said.wide), line_colour=inks.ink,
        )  # fmt: skip
        _, _, _, low = extent(line)
        return [
            CardPart(stroke, turn=-4, drawn=0.32),
            centred(name, turn=-4, comes=0.4, late=0.15),
            centred(line, 0.06 * wide, 0.5 * stroke.high + 0.62 * low, turn=-4, enters=move("pop", lasts=8), late=0.4),
        ]


class SignatureCard(Card):
    """Written, underlined by hand, with the line in small capitals."""

    kind: Literal["signature"] = "signature"
    title: ClassVar[str] = "Signature"
    hint: ClassVar[str] = "Written, and underlined by hand"
    rank: ClassVar[int] = 12

    def parts(self, said: Said, inks: Inks) -> list[CardPart]:
        thin = max(2.0, 0.008 * said.wide)
        name = words(
            said.name, "pacifico", 0.86 * said.wide, 0.32 * said.wide, colour=inks.paper, line=thin,
            line_colour=inks.ink, way="drawn", stagger=0.4,
        )  # fmt: skip
        _, _, wide, tall = extent(name)
        under = UnderlineShape(
            long=0.9 * wide, thick=max(4.0, 0.018 * said.wide), rows=2, swing=0.03 * wide, colour=inks.main,
            line=thin / 2, line_colour=inks.ink,
        )  # fmt: skip
        _, _, _, swung = extent(under)
        line = words(
            said.line, CONDENSED, 0.8 * wide, 0.085 * said.wide, colour=inks.paper, tracking=0.16, line=thin,
            line_colour=inks.ink, **CAPITALS,
        )  # fmt: skip
        _, _, _, low = extent(line)
        y = tall / 2 + 0.4 * swung + thin
        return [
            centred(under, 0, y, drawn=0.4, late=0.45),
            centred(name, comes=0.7),
            centred(line, 0, y + swung / 2 + 0.95 * low, enters=move("fade", lasts=8), late=0.7),
        ]


class RuleCard(Card):
    """A heavy serif over a fine rule, with the line spaced wide."""

    kind: Literal["rule"] = "rule"
    title: ClassVar[str] = "Fine rule"
    hint: ClassVar[str] = "A heavy serif over a fine rule"
    rank: ClassVar[int] = 13

    def parts(self, said: Said, inks: Inks) -> list[CardPart]:
        name = words(
            said.name, "abril-fatface", 0.9 * said.wide, 0.3 * said.wide, colour=inks.paper, way="rise", stagger=0.25
        )
        _, _, wide, tall = extent(name)
        rule = UnderlineShape(
            way="straight", rows=1, long=wide, thick=max(2.5, 0.009 * said.wide), colour=inks.main, ends="flat"
        )
        line = words(said.line, "fredoka", 0.92 * wide, 0.062 * said.wide, colour=inks.paper, tracking=0.22, **CAPITALS)
        _, _, _, low = extent(line)
        y = tall / 2 + 0.28 * tall
        return [
            centred(name, comes=0.5),
            centred(rule, 0, y, drawn=0.4, late=0.2),
            centred(line, 0, y + 1.5 * low, enters=move("fade", lasts=8), late=0.45),
        ]


class ArchCard(Card):
    """The name on an arch with depth, the line straight below it."""

    kind: Literal["arch"] = "arch"
    title: ClassVar[str] = "Arch"
    hint: ClassVar[str] = "Deep letters on an arch"
    rank: ClassVar[int] = 14

    def parts(self, said: Said, inks: Inks) -> list[CardPart]:
        thin = max(2.5, 0.011 * said.wide)
        name = words(
            said.name, "titan-one", 0.9 * said.wide, 0.24 * said.wide, shape="arc", bend=54, filled="gradient",
            colour=inks.paper, second=inks.second, line=thin, line_colour=inks.ink, second_line=thin,
            second_line_colour=inks.paper, depth=2.2 * thin, towards=80, side=inks.ink, side_far=inks.ink, way="pop",
            stagger=0.35, ease="springy", order="from the middle", **CAPITALS,
        )  # fmt: skip
        _, _, wide, tall = extent(name)
        line = words(said.line, "fredoka", 0.52 * wide, 0.1 * said.wide, colour=inks.on(inks.main))
        _, _, long, low = extent(line)
        pill = BoxShape(
            wide=max(2.0, long + 2 * low), high=max(2.0, 2.1 * low), corners=1.05 * low, colour=inks.main, line=thin,
            line_colour=inks.ink,
        )  # fmt: skip
        # Under the arch there is room for it: below the lowest letter that it lies beneath.
        across, down, _, _ = extent(name)
        lows = [
            (abs(x.middle[0] - across), x.path.computeTightBounds().bottom() - down) for x in name.outlines().letters
        ]
        near = [bottom for far, bottom in lows if far < 0.42 * pill.wide] or [tall / 2]
        y = max(near) + 3.2 * thin + 0.5 * pill.high
        pop = move("pop", lasts=9)
        return [
            CardPart(pill, 0, y, of_line=True, enters=pop, late=0.32),
            centred(line, 0, y, enters=pop, late=0.36),
            centred(name, comes=0.6),
        ]


class BurstCard(Card):
    """Shouted on a burst."""

    kind: Literal["burst"] = "burst"
    title: ClassVar[str] = "Burst"
    hint: ClassVar[str] = "Shouted on a burst"
    rank: ClassVar[int] = 15

    def parts(self, said: Said, inks: Inks) -> list[CardPart]:
        thin = max(3.0, 0.012 * said.wide)
        name = words(
            said.name, "bangers", 0.66 * said.wide, 0.26 * said.wide, colour=inks.main, line=thin,
            line_colour=inks.paper, second_line=thin, second_line_colour=inks.ink, tracking=0.02, **CAPITALS,
        )  # fmt: skip
        _, _, wide, tall = extent(name)
        star = StarShape(
            wide=1.42 * wide, high=max(2.7 * tall, 0.72 * wide), tips=17, inner=0.76, colour=inks.second, line=thin,
            line_colour=inks.ink, sharp=True,
        )  # fmt: skip
        line = words(said.line, "bangers", 0.66 * wide, 0.09 * said.wide, colour=inks.on(inks.ink), tracking=0.04)
        _, _, long, low = extent(line)
        bar = BoxShape(wide=max(2.0, long + 1.5 * low), high=max(2.0, 1.9 * low), slant=10, colour=inks.ink)
        y = 0.5 * tall + 0.95 * low
        pop = move("pop", lasts=9, overshoot=0.3)
        return [
            CardPart(star, turn=-6, enters=move("twirl", turns=0.12, size=0.2, lasts=10)),
            centred(name, 0, -0.18 * low, turn=-6, enters=pop, late=0.08),
            CardPart(bar, 0.06 * wide, y, turn=-6, of_line=True, enters=pop, late=0.2),
            centred(line, 0.06 * wide, y, turn=-6, enters=pop, late=0.24),
        ]


class SaidCard(Card):
    """Said in a bubble, with its tail towards the subject."""

    kind: Literal["said"] = "said"
    title: ClassVar[str] = "Said"
    hint: ClassVar[str] = "In a bubble that points at the subject"
    rank: ClassVar[int] = 16

    def parts(self, said: Said, inks: Inks) -> list[CardPart]:
        thin = max(3.0, 0.012 * said.wide)
        name = words(
            said.name, "bangers", 0.62 * said.wide, 0.2 * said.wide, colour=inks.ink, tracking=0.02, **CAPITALS
        )
        _, _, wide, tall = extent(name)
        line = words(said.line, "caveat-brush", 0.9 * wide, 0.1 * said.wide, colour=inks.seen(inks.main, inks.paper))
        _, _, _, low = extent(line)
        gap = 0.3 * tall
        inner = tall + gap + low
        bubble = BubbleShape(
            wide=1.5 * wide, high=max(1.9 * inner, 0.5 * wide), tail_towards=said.tail, tail=0.34 * inner + 20,
            colour=inks.paper, line=thin, line_colour=inks.ink,
        )  # fmt: skip
        top = -inner / 2
        pop = move("pop", lasts=10, overshoot=0.22)
        return [
            CardPart(bubble, enters=pop),
            centred(name, 0, top + tall / 2, enters=pop, late=0.06),
            centred(line, 0, top + tall + gap + low / 2, enters=pop, late=0.12),
        ]


class RingCard(Card):
    """The name across a ring that is drawn around, the line running along it."""

    kind: Literal["ring-card"] = "ring-card"
    title: ClassVar[str] = "Ring"
    hint: ClassVar[str] = "Across a ring, the line running round it"
    rank: ClassVar[int] = 17

    def parts(self, said: Said, inks: Inks) -> list[CardPart]:
        thick = 0.045 * said.wide
        across = 0.78 * said.wide
        ring = RingShape(wide=across, high=across, thick=thick, colour=inks.main)
        name = words(
            said.name, CONDENSED, 0.96 * said.wide, 0.34 * said.wide, colour=inks.paper,
            line=max(3.0, 0.014 * said.wide), line_colour=inks.ink, way="from left", stagger=0.3, **CAPITALS,
        )  # fmt: skip
        radius = across / 2 - thick * 1.5
        # Beneath the middle, upright: letters go along the ring the other way round.
        points = [(radius * math.cos(a), radius * math.sin(a)) for a in (math.pi * n / 12 for n in range(12, -1, -1))]
        line = words(
            said.line, "fredoka", 1.75 * radius, 0.06 * said.wide, colour=inks.paper, line=max(2.0, 0.008 * said.wide),
            line_colour=inks.ink, shape="along", points=points, tracking=0.06, **CAPITALS,
        )  # fmt: skip
        return [
            CardPart(ring, drawn=0.5),
            CardPart(line, enters=move("fade", lasts=8), late=0.4),
            centred(name, turn=-3, comes=0.5, late=0.15),
        ]
