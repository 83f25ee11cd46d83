"""A person's own fonts: TrueType, OpenType, WOFF and WOFF2, checked before they are kept."""

import io
import unicodedata
from pathlib import Path

from fontTools.ttLib import TTFont

from ...common.errors import Refusal
from .faces import MOST_BYTES, Face, unpacked
from .outlines import outline

STARTS = (b"\0\1\0\0", b"OTTO", b"true", b"wOFF", b"wOF2", b"ttcf")
"""How files of glyphs begin (OpenType 1.9, “Organization of an OpenType font”; WOFF 1.0; WOFF 2.0)."""
RESTRICTED, BITMAPS = 0x0002, 0x0200
"""Bits of `OS/2.fsType`: not to be embedded at all; only as bitmaps."""

DRAWN = 4000
"""So many characters of a font, about, are drawn once to see whether they can be."""
MOST_BLANK = 0.25
"""The share of letters that may have no outline: some are blank by what they mean."""


def is_font(head: bytes) -> bool:
    """True if a file that begins so is one of glyphs."""
    return head[:4] in STARTS


def read_font(path: Path, name: str) -> str:
    """Checks a file of glyphs; returns the font's own name. Raises Refusal with what is wrong with it."""
    if path.stat().st_size > MOST_BYTES:
        raise Refusal(f"{name} is too large: the most is {MOST_BYTES >> 20} MB for a font. Save a smaller one.")
    data = path.read_bytes()
    if data[:4] == b"ttcf":
        raise Refusal(f"{name} is a collection of several fonts. Save the one that you want as .ttf or .otf.")
    broken = f"{name} is broken: it cannot be read as a font. Get it again, or save it as .ttf or .otf."
    plain = unpacked(data, name)
    try:
        font = TTFont(io.BytesIO(plain), lazy=True)
        known, rights = font.getBestCmap(), font["OS/2"].fsType if "OS/2" in font else 0
        title = font["name"].getBestFullName() if "name" in font else None
        outlines = any(table in font for table in ("glyf", "CFF ", "CFF2"))
        face = Face(plain, {}, {})
    except Refusal:
        raise
    except Exception as error:
        # What reads tables of a broken file fails in any way that there is.
        raise Refusal(broken) from error
    if rights & RESTRICTED or rights & BITMAPS:
        raise Refusal(f"{name} may not be put into a piece: its makers forbid embedding. Ask them, or take another.")
    if not outlines:
        raise Refusal(f"{name} has no outlines, only pictures of letters. Take one that has.")
    if not known or not face.has or face.em < 16 or _blank(face) > MOST_BLANK:
        raise Refusal(broken)
    return (title or path.stem).strip()[:120]


def _blank(face: Face) -> float:
    """The share of a face's letters and figures that are drawn with nothing, 0…1, of some thousand of them."""
    blank = letters = 0
    for character in sorted(face.has)[:: max(1, len(face.has) // DRAWN)]:
        drawn = outline(face, face.font.get_nominal_glyph(character) or 0)
        if unicodedata.category(chr(character))[0] in "LN":
            letters += 1
            blank += drawn.isEmpty() or not drawn.isFinite()
    return blank / max(1, letters)
