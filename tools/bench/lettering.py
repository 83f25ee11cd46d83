"""The cost of words and of what is worked out at 540×960: forty letters on an arc, laid out and painted with three
lines; letters that come in; each backdrop and all in the air, there and at 1080×1920; cards. Against the same letters
drawn by Skia alone, straight and plain.
"""

from dataclasses import replace
from time import perf_counter

import numpy as np
import skia

from nervykite.core.craft.lettering.coming import Coming, come
from nervykite.core.craft.lettering.faces import SHIPPED, home
from nervykite.core.craft.lettering.layout import Typesetting, laid
from nervykite.core.craft.lettering.paint import LetterStyle, painted
from nervykite.core.kinds.cards.card import Card, Inks, Said
from nervykite.core.kinds.sources.worked import Worked, plane_of
from nervykite.core.piece.model import Source
from nervykite.core.piece.model.kinds import name_of

from . import Result
from .material import median_ms

SIZE = (540, 960)
RUNS = 9
WORDS = "Gull Point kite relay from dune to hut 40"
LOOK = LetterStyle(("#FFF4D8", "#F2B632"), lines=((3, "#D63F22"), (3, "#1E2530"), (2, "#FFFFFF")))


def measure() -> Result:
    """Milliseconds; the ratio is the arc over the plain letters."""
    setting = Typesetting(WORDS, "titan-one", size=30, shape="arc", bend=120)
    matrix = np.array([[1, 0, SIZE[0] / 2], [0, 1, SIZE[1] / 2], [0, 0, 1]])
    figures: dict[str, float] = {}
    layouts, paints, flights = [], [], []
    for n in range(RUNS):
        begun = perf_counter()
        words = laid(replace(setting, size=30 + 0.01 * n))
        layouts.append(perf_counter() - begun)
        assert words.box is not None
        box = _even(words.box)
        begun = perf_counter()
        painted(words, LOOK, matrix, box)
        paints.append(perf_counter() - begun)
        begun = perf_counter()
        painted(come(words, Coming("pop", 0.5 + 0.01 * n), 30), LOOK, matrix, box, words.box)
        flights.append(perf_counter() - begun)
    figures["40 letters on an arc laid out, ms"] = median_ms(layouts[1:])
    figures["painted with three lines, ms"] = median_ms(paints[1:])
    figures["flying in, ms a frame"] = median_ms(flights[1:])
    plain = _plain()
    figures["drawn by Skia alone, ms"] = plain
    for kind in (k for k in Source.family.all().values() if issubclass(k, Worked)):
        for scale, where in ((0.75, ""), (1.5, " at 1080×1920")):
            figures[f"{name_of(kind)}{where}, ms a frame"] = _worked(kind(), scale)
    said, inks = Said("Juno Abara", "Harbour Hares, leg two", 560), Inks()
    times = []
    for n in range(RUNS):
        begun = perf_counter()
        for kind in Card.family.all().values():
            kind().laid(replace(said, wide=560 + 0.1 * n), inks)
        times.append((perf_counter() - begun) / len(Card.family.all()))
    figures["a card laid out, ms"] = median_ms(times[1:])
    whole = figures["40 letters on an arc laid out, ms"] + figures["painted with three lines, ms"]
    aim = "an arc of 40 letters 15 ms, letters flying in 6 ms a frame, each backdrop 12 ms, 45 at 1080×1920"
    return Result("lettering", whole / plain, aim, figures, "times the same letters by Skia, straight and plain")


def _worked(source: Worked, scale: float) -> float:
    """Milliseconds that a frame of it takes on a tall canvas at a scale."""
    times, canvas = [], (720, 1280)
    box = 0, 0, round(canvas[0] * scale), round(canvas[1] * scale)
    for n in range(RUNS):
        begun = perf_counter()
        source.painted(plane_of(source, np.diag([scale, scale, 1.0]), box, canvas), source.beat(n) / 30, canvas)
        times.append(perf_counter() - begun)
    return median_ms(times[1:])


def _even(box: tuple[float, float, float, float]) -> tuple[int, int, int, int]:
    x, y = SIZE[0] / 2, SIZE[1] / 2
    left, top, right, bottom = box[0] + x - 12, box[1] + y - 12, box[2] + x + 12, box[3] + y + 12
    return int(left) // 2 * 2, int(top) // 2 * 2, int(right) // 2 * 2 + 2, int(bottom) // 2 * 2 + 2


def _plain() -> float:
    """Milliseconds that Skia takes for the same letters, on a canvas of the whole size."""
    font = skia.Font(skia.Typeface.MakeFromFile(str(home() / SHIPPED["titan-one"].files[0])), 30)
    pixels = np.zeros((SIZE[1], SIZE[0], 4), np.uint8)
    surface, paint = skia.Surface(pixels), skia.Paint(AntiAlias=True, Color=skia.ColorWHITE)
    times = []
    for _ in range(RUNS):
        begun = perf_counter()
        surface.getCanvas().clear(skia.ColorTRANSPARENT)
        surface.getCanvas().drawString(WORDS, 10, 480, font, paint)
        surface.flushAndSubmit()
        times.append(perf_counter() - begun)
    return median_ms(times[1:])
