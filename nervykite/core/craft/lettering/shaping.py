"""Text to glyphs: bidirectional order (Unicode Annex 9), scripts (Annex 24), then HarfBuzz, run by run."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import uharfbuzz as hb
from bidi import algorithm as bidi
from fontTools import unicodedata

from .faces import FALLBACK, Face, face_files

NEUTRAL = ("Zyyy", "Zinh", "Zzzz")
"""Scripts of what goes with any other: spaces, digits, marks."""
ISOLATES = "\u2066\u2067\u2068\u2069"
NO_LETTERS = ("Cc", "Cs", "Cn", "Co")


@dataclass(frozen=True)
class Glyph:
    """A glyph where it comes to stand on a line, in ems: its pen's place, and what moves it aside from that.

    `letter` is where in the text what it belongs to begins.
    """

    face: Face
    number: int
    letter: int
    x: float
    y: float
    advance: float


@dataclass(frozen=True)
class Shaped:
    """A line of text as glyphs from left to right; how wide it is, in ems; the letters that no face has."""

    glyphs: tuple[Glyph, ...]
    width: float
    missing: tuple[str, ...]
    backwards: bool
    """Whether it reads from right to left."""


def shaped(text: str, files: Sequence[Face], tracking: float = 0.0, features: Sequence[str] = ()) -> Shaped:
    """A line in a face, and in others what that does not have.

    tracking: what is put between letters, in ems; with any, letters are not joined to ligatures. features: OpenType's,
    by their tags.
    """
    if not text:
        return Shaped((), 0.0, (), False)
    levels = _levels(text)
    options = dict.fromkeys(features, True)
    if tracking:
        options |= {"liga": False, "clig": False}
    stack = [*files, *(f for id_ in FALLBACK for f in face_files(id_))]
    glyphs: list[Glyph] = []
    missing: list[str] = []
    pen = 0.0
    for first, past, level in _reordered(levels):
        for a, b, face in _pieces(text, first, past, level, stack):
            if face is None:
                missing.extend(c for c in text[a:b] if c not in missing)
                continue
            for glyph in _run(text, a, b, level, face, options):
                glyphs.append(Glyph(face, glyph.number, glyph.letter, pen + glyph.x, glyph.y, glyph.advance))
                pen += glyph.advance
                if tracking and glyph.advance:
                    pen += tracking
    if tracking and glyphs:
        pen -= tracking
    return Shaped(tuple(glyphs), pen, tuple(missing), bool(levels and _base(text)))


def _base(text: str) -> int:
    return bidi.get_base_level(text)


def _levels(text: str) -> list[int]:
    """The embedding level of each character; what controls direction has that of its neighbour."""
    # What the library does not take has no direction of its own: isolates, controls, and what is no character.
    text = "".join("\u200b" if c in ISOLATES or unicodedata.category(c) in NO_LETTERS else c for c in text)
    storage = bidi.get_empty_storage()
    base = bidi.get_base_level(text)
    storage["base_level"], storage["base_dir"] = base, ("L", "R")[base]
    bidi.get_embedding_levels(text, storage)
    bidi.explicit_embed_and_overrides(storage)
    kept = [n for n, c in enumerate(text) if bidi.bidirectional(c) not in bidi.X9_REMOVED]
    bidi.resolve_weak_types(storage)
    bidi.resolve_neutral_types(storage, False)
    bidi.resolve_implicit_levels(storage, False)
    levels = [base] * len(text)
    for n, one in zip(kept, storage["chars"], strict=False):
        levels[n] = one["level"]
    return levels


def _reordered(levels: Sequence[int]) -> list[tuple[int, int, int]]:
    """Runs of one level, first…past with the level, from left to right (Annex 9, rule L2)."""
    runs, at = [], 0
    for level, group in itertools.groupby(levels):
        count = len(list(group))
        runs.append((at, at + count, level))
        at += count
    odd = [level for *_, level in runs if level % 2]
    for level in range(max((r[2] for r in runs), default=0), min(odd, default=1) - 1, -1):
        n = 0
        while n < len(runs):
            past = n
            while past < len(runs) and runs[past][2] >= level:
                past += 1
            runs[n:past] = runs[n:past][::-1]
            n = max(past, n + 1)
    return runs


def _pieces(text: str, first: int, past: int, level: int, stack: Sequence[Face]) -> list[tuple[int, int, Face | None]]:
    """A run of one level cut where script or face changes, in the order in which it is drawn."""
    scripts = _scripts(text)
    marks: list[tuple[str, Face | None]] = []
    for n in range(first, past):
        own = _face_of(text, n, stack)
        # Marks stay with what they stand on, and spaces with what is before them.
        if marks and (unicodedata.combining(text[n]) or text[n].isspace()) and marks[-1][1] is not None:
            own = marks[-1][1] if ord(text[n]) in marks[-1][1].has else own
        marks.append((scripts[n], own))
    found, at = [], first
    for (_, face), group in itertools.groupby(marks):
        count = len(list(group))
        found.append((at, at + count, face))
        at += count
    return found[::-1] if level % 2 else found


def _face_of(text: str, n: int, stack: Sequence[Face]) -> Face | None:
    code = ord(text[n])
    if unicodedata.category(text[n]) in ("Cf", "Cc"):
        return stack[0]
    return next((f for f in stack if code in f.has), None)


def _scripts(text: str) -> list[str]:
    """The script of each character; what goes with any has that of what is before it, or after it at the beginning."""
    found = [unicodedata.script(c) for c in text]
    known = next((s for s in found if s not in NEUTRAL), "Latn")
    for n, script in enumerate(found):
        known = found[n] = known if script in NEUTRAL else script
    return found


def _run(text: str, first: int, past: int, level: int, face: Face, options: dict[str, bool]) -> list[Glyph]:
    """A piece of one script, one direction and one face, shaped; measures in ems, places from its own pen."""
    buffer = hb.Buffer()
    buffer.add_codepoints([ord(c) for c in text], first, past - first)
    buffer.direction = "rtl" if level % 2 else "ltr"
    buffer.guess_segment_properties()
    buffer.cluster_level = hb.BufferClusterLevel.MONOTONE_GRAPHEMES
    hb.shape(face.font, buffer, options)
    em = face.em
    return [
        Glyph(face, i.codepoint, i.cluster, p.x_offset / em, p.y_offset / em, p.x_advance / em)
        for i, p in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True)
    ]
