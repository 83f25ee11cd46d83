"""Words laid out: lines, their alignment, and the shape that they follow; each glyph an outline in its place.

Measures are pixels of the canvas, the middle of the block of lines lies at 0, 0, and y goes downwards.
"""

import functools
import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

import skia

from ...common.errors import Refusal
from .curve import ArcLengthPath, Point, through
from .faces import FALLBACK, Face, face_files
from .outlines import outline
from .shaping import Shaped, shaped

Box = tuple[float, float, float, float]
"""Left, top, right, bottom."""
Align = Literal["left", "middle", "right", "even"]
Shape = Literal["straight", "arc", "wave", "along"]
Case = Literal["as typed", "capitals", "small"]


@dataclass(frozen=True)
class Override:
    """The difference of one word or one letter from the rest, counted from 0 on through all lines.

    `size` is how many times as large it is, `up` how far above its line, in ems, `turn` by how many degrees it is
    turned about its middle.
    """

    number: int
    letter: bool = False
    size: float = 1.0
    up: float = 0.0
    turn: float = 0.0
    colour: str | None = None


@dataclass(frozen=True)
class Typesetting:
    """The typesetting of words.

    `size` is the height of an em in pixels, `width` how wide letters are drawn (1: as they are), `tracking` what lies
    between them in ems, `leading` how far apart lines are in ems, `axes` the face's, by their tags. Lines that are even
    are each as large as makes them equally wide. `bend` is by how many degrees an arc turns from its first letter to
    its last, upwards in the middle, or downwards below 0; `swing` how high a wave is, in ems, `waves` how many of them.
    What is different about some of them says `aparts`. `points` are those of the path that letters go along, smooth or
    not, closed or not; they are shifted along it by a `shift` of its length, and stand off it by `off` pixels.
    """

    words: str
    face: str = "anton"
    axes: tuple[tuple[str, float], ...] = ()
    size: float = 120.0
    width: float = 1.0
    tracking: float = 0.0
    leading: float = 1.0
    align: Align = "middle"
    case: Case = "as typed"
    shape: Shape = "straight"
    bend: float = 60.0
    swing: float = 0.2
    waves: float = 1.0
    points: tuple[Point, ...] = ()
    smooth: bool = True
    closed: bool = False
    shift: float = 0.0
    off: float = 0.0
    aparts: tuple[Override, ...] = ()


@dataclass(frozen=True)
class Letter:
    """A glyph's outline in its place; which letter, word and line of the whole it belongs to.

    `shown` is how opaque it is, `drawn` how much of its outline is drawn already, 0…1 each; `colour` is its own, if it
    has one.
    """

    path: skia.Path
    middle: tuple[float, float]
    letter: int
    word: int
    line: int
    shown: float = 1.0
    drawn: float = 1.0
    colour: str | None = None


@dataclass(frozen=True)
class Laid:
    """Words laid out: their letters in reading order, the box around their outlines (None: nothing is seen), and the
    characters that no face has.
    """

    letters: tuple[Letter, ...]
    box: Box | None
    missing: tuple[str, ...] = ()


@dataclass
class _Line:
    """A line before it is put on its shape: how large, how wide, where its baseline is."""

    shaped: Shaped
    size: float
    width: float
    down: float = 0.0
    words: list[int] = field(default_factory=list)
    aparts: dict[int, Override] = field(default_factory=dict)
    """What is different about a letter, by its place in the row."""


PLAIN = Override(-1)


@functools.lru_cache(256)
def laid(setting: Typesetting) -> Laid:
    """Words laid out. In a face that is not installed here they are set in another one, so that a piece still opens."""
    files = _files(setting)
    lines = _lines(setting, files)
    if not lines:
        return Laid((), None)
    place = _shape(setting, lines, files[0])
    letters: list[Letter] = []
    widest = max(line.width for line in lines)
    for number, line in enumerate(lines):
        free = widest - line.width
        pen = -widest / 2 + {"left": 0.0, "right": free}.get(setting.align, free / 2)
        if setting.align == "left" and line.shaped.backwards:
            pen += free
        before, across = 0.0, line.size * setting.width
        for glyph in line.shaped.glyphs:
            own = line.aparts.get(glyph.letter, PLAIN)
            # It stands as far from the one before as that one is wide.
            pen += (glyph.x - before) * across
            across = line.size * setting.width * own.size
            half = glyph.advance * across / 2
            matrix = place(pen + half, line)
            # Drawn about the middle of its advance, where it touches the line that it stands on.
            matrix.preTranslate(-half, -(glyph.y * own.size + own.up) * line.size)
            matrix.preScale(across, line.size * own.size)
            before = glyph.x
            path = skia.Path()
            outline(glyph.face, glyph.number).transform(matrix, path)
            if path.isEmpty():
                continue
            bounds = path.computeTightBounds()
            x, y = bounds.centerX(), bounds.centerY()
            if own.turn:
                path.transform(skia.Matrix.RotateDeg(own.turn, skia.Point(x, y)), path)
            letters.append(Letter(path, (x, y), glyph.letter, line.words[glyph.letter], number, colour=own.colour))
    missing = tuple(dict.fromkeys(c for line in lines for c in line.shaped.missing))
    return Laid(tuple(letters), around(letters), missing)


def _files(setting: Typesetting) -> tuple[Face, ...]:
    try:
        return face_files(setting.face, setting.axes)
    except Refusal:
        return face_files(FALLBACK[0])


def _lines(setting: Typesetting, files: tuple[Face, ...]) -> list[_Line]:
    """The lines of the words, shaped, sized, and one below the other about the middle."""
    text = {"capitals": str.upper, "small": str.lower}.get(setting.case, str)(setting.words)
    found: list[_Line] = []
    words = seen = 0
    for row in text.replace("\t", " ").split("\n"):
        one = shaped(row.rstrip(), files, setting.tracking)
        line = _Line(one, setting.size, one.width * setting.size * setting.width)
        line.words, words = _words(row, words)
        if setting.aparts:
            line.aparts, seen = _aparts(setting, row, line.words, seen)
            line.width = _widened(line, setting.size * setting.width)
        found.append(line)
    while found and not found[-1].shaped.glyphs:
        found.pop()
    if setting.align == "even":
        widest = max((line.width for line in found), default=0.0)
        for line in found:
            by = widest / line.width if line.width else 1.0
            line.size, line.width = line.size * by, line.width * by
    capital = files[0].capital / files[0].em
    down = 0.0
    for n, line in enumerate(found):
        # From baseline to baseline: as much above a line as its size asks for.
        down += (
            capital * line.size if n == 0 else line.size * (setting.leading + (capital - 1) * (setting.align == "even"))
        )
        line.down = down
    middle = down / 2
    for line in found:
        line.down -= middle
    return found


def _aparts(setting: Typesetting, row: str, words: list[int], seen: int) -> tuple[dict[int, Override], int]:
    """The overrides of the letters of a row, by their places; and how many letters there are up to its end.

    What is said of a letter itself goes before what is said of its word.
    """
    by_word = {a.number: a for a in setting.aparts if not a.letter}
    by_letter = {a.number: a for a in setting.aparts if a.letter}
    found: dict[int, Override] = {}
    for n, c in enumerate(row):
        if c.isspace():
            continue
        own = by_letter.get(seen) or by_word.get(words[n])
        if own is not None:
            found[n] = own
        seen += 1
    return found, seen


def _widened(line: _Line, across: float) -> float:
    """The width of a line with some of its letters larger or smaller."""
    sizes = [line.aparts.get(g.letter, PLAIN).size for g in line.shaped.glyphs]
    return line.shaped.width * across + sum(
        (size - 1) * g.advance * across for size, g in zip(sizes, line.shaped.glyphs, strict=True)
    )


def _words(row: str, first: int) -> tuple[list[int], int]:
    """For each character of a row the number of its word, and that of the first word after it."""
    numbers, n, within = [], first, False
    for c in row:
        if c.isspace():
            n, within = n + within, False
        else:
            within = True
        numbers.append(n)
    return numbers, n + within


def _shape(setting: Typesetting, lines: list[_Line], face: Face):
    """A function that says where a place along a line comes to lie: pixels from its middle and the line to a matrix."""
    capital = face.capital / face.em
    bend = math.radians(max(-350.0, min(350.0, setting.bend)))
    if setting.shape == "arc" and abs(bend) > 0.01:
        widest = max(line.width for line in lines)
        radius = widest / abs(bend)
        if bend > 0:
            # The lowest line is the tightest: its letters touch as they do when straight, all others lie freer.
            middle = lines[-1].down + radius
            return lambda x, line: _turned(x / (middle - line.down), middle - line.down, middle, 1)
        # Bent the other way letters meet at their tops: there they keep their distance.
        middle = lines[0].down - capital * lines[0].size - radius
        return lambda x, line: _turned(x / (line.down - middle - capital * line.size), line.down - middle, middle, -1)
    if setting.shape == "wave" and setting.swing:
        widest = max(line.width for line in lines) or 1.0
        pace = 2 * math.pi * setting.waves / widest

        def wave(x: float, line: _Line) -> skia.Matrix:
            high = setting.swing * line.size
            matrix = skia.Matrix.Translate(x, line.down + high * math.sin(pace * x))
            return matrix.preRotate(math.degrees(math.atan(high * pace * math.cos(pace * x))))

        return wave
    if setting.shape == "along":
        along = ArcLengthPath(through(setting.points, setting.smooth, setting.closed))
        if along.length > 0:
            widest = max(line.width for line in lines)
            # Lines aligned to a side begin, or end, where the path does.
            aside = {"left": widest / 2, "right": along.length - widest / 2}.get(setting.align, along.length / 2)
            shifted, low = aside + setting.shift * along.length, lines[-1].down - setting.off
            return lambda x, line: along.matrix(shifted + x, line.down - low)
    return lambda x, line: skia.Matrix.Translate(x, line.down)


def _turned(angle: float, radius: float, middle: float, side: int) -> skia.Matrix:
    """On a circle about (0, middle): above it (side 1) or below (-1), so far round from its middle."""
    matrix = skia.Matrix.Translate(radius * math.sin(angle), middle - side * radius * math.cos(angle))
    return matrix.preRotate(math.degrees(side * angle))


def around(letters: Sequence[Letter]) -> Box | None:
    """The box around some letters."""
    if not letters:
        return None
    boxes = [x.path.computeTightBounds() for x in letters]
    return (
        min(b.left() for b in boxes), min(b.top() for b in boxes),
        max(b.right() for b in boxes), max(b.bottom() for b in boxes),
    )  # fmt: skip
