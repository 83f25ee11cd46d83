"""Faces: files of glyphs, read so that text can be shaped and glyphs drawn. Those that ship with the program come with
the page's npm packages, under the SIL Open Font License 1.1 or the Apache License 2.0.
"""

import functools
import io
import os
import re
import struct
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import uharfbuzz as hb
from fontTools.ttLib import TTFont

from ...common.errors import Refusal


@dataclass(frozen=True)
class Axis:
    """Something about a face that can be varied: its tag in the file, a title, and from where to where it goes."""

    tag: str
    title: str
    low: float
    usual: float
    high: float


@dataclass(frozen=True)
class Shipped:
    """A face that ships with the program: its id, its own name, what sort it is of, and the files that it lies in.

    Of a character the first file counts that has it. `axes` are where what can be varied is to begin with.
    """

    id: str
    title: str
    sort: str
    files: tuple[str, ...]
    axes: tuple[tuple[str, float], ...] = ()


def _plain(id_: str, title: str, sort: str, weight: str, name: str) -> Shipped:
    return Shipped(id_, title, sort, (f"@expo-google-fonts/{id_}/{weight}/{name}_{weight}.ttf",))


def _varied(id_: str, title: str, **axes: float) -> Shipped:
    parts = ("latin", "latin-ext", "vietnamese")
    files = tuple(f"@fontsource-variable/{id_}/files/{id_}-{p}-standard-normal.woff2" for p in parts)
    return Shipped(id_, title, "varied", files, tuple(axes.items()))


SHIPPED: dict[str, Shipped] = {
    f.id: f
    for f in (
        _plain("anton", "Anton", "condensed", "400Regular", "Anton"),
        _plain("bebas-neue", "Bebas Neue", "condensed", "400Regular", "BebasNeue"),
        _plain("sofia-sans-extra-condensed", "Sofia Sans", "condensed", "900Black", "SofiaSansExtraCondensed"),
        _varied("anybody", "Anybody", wdth=120, wght=850),
        _varied("bricolage-grotesque", "Bricolage", wght=800),
        _plain("archivo-black", "Archivo Black", "heavy", "400Regular", "ArchivoBlack"),
        _plain("rubik", "Rubik", "heavy", "900Black", "Rubik"),
        _plain("alfa-slab-one", "Alfa Slab", "slab", "400Regular", "AlfaSlabOne"),
        _plain("abril-fatface", "Abril Fatface", "serif", "400Regular", "AbrilFatface"),
        _plain("titan-one", "Titan One", "rounded", "400Regular", "TitanOne"),
        _plain("fredoka", "Fredoka", "rounded", "700Bold", "Fredoka"),
        _plain("baloo-2", "Baloo", "rounded", "800ExtraBold", "Baloo2"),
        _plain("bangers", "Bangers", "comic", "400Regular", "Bangers"),
        _plain("saira-stencil-one", "Saira Stencil", "stencil", "400Regular", "SairaStencilOne"),
        _plain("permanent-marker", "Permanent Marker", "brush", "400Regular", "PermanentMarker"),
        _plain("caveat-brush", "Caveat Brush", "brush", "400Regular", "CaveatBrush"),
        _plain("kalam", "Kalam", "hand", "700Bold", "Kalam"),
        _plain("pacifico", "Pacifico", "script", "400Regular", "Pacifico"),
        _plain("space-mono", "Space Mono", "mono", "700Bold", "SpaceMono"),
    )
}
"""The faces that ship with the program, by their ids, in the order in which they are offered."""
FALLBACK = ("rubik", "sofia-sans-extra-condensed", "baloo-2", "fredoka", "anton", "space-mono")
"""Faces that are asked for characters that the chosen one does not have, in this order."""
MOST_BYTES = 32 << 20
"""How large a file of glyphs is at most."""
AXES = {"wght": "Weight", "wdth": "Width", "opsz": "Fine", "slnt": "Slant", "ital": "Italic"}
"""Titles of the registered axes of OpenType; others go by their own names."""


def home() -> Path:
    """Where the packages are looked for: NERVYKITE_FACES, or the page's packages."""
    given = os.environ.get("NERVYKITE_FACES")
    return Path(given) if given else Path(__file__).parents[4] / "web/node_modules"


Place = Callable[[str], Path]
"""Where a file lies, by its hash."""
OWN = re.compile("[0-9a-f]{64}")
"""The id of a person's own face is the hash of its file."""
_places: list[Place] = []


def add_place(place: Place) -> None:
    """Has files of faces looked for in one more place. As they go by what is in them, all places agree."""
    _places.append(place)


def remove_place(place: Place) -> None:
    """Has them looked for there no more."""
    if place in _places:
        _places.remove(place)


class Face:
    """One file of glyphs, with its axes as they are set, and else as they begin."""

    def __init__(self, data: bytes, axes: dict[str, float], begins: dict[str, float]) -> None:
        self.face = hb.Face(data)
        self.font = hb.Font(self.face)
        self._begins = begins
        known = {a.tag for a in self.axes}
        own = {tag: value for tag, value in (begins | axes).items() if tag in known}
        if own:
            self.font.set_variations(own)
        self.em = self.face.upem
        """How many units an em has; all measures are in these."""
        extents = self.font.get_font_extents("ltr")
        self.ascends, self.descends = extents.ascender, -extents.descender
        self._capital = self._height("H") or 0.7 * self.em
        self.has = frozenset(self.face.unicodes)
        """The characters that it has."""

    @functools.cached_property
    def axes(self) -> tuple[Axis, ...]:
        """The axes in which it can be varied."""
        begins = self._begins
        return tuple(
            Axis(a.tag, AXES.get(a.tag, a.tag), a.min_value, begins.get(a.tag, a.default_value), a.max_value)
            for a in self.face.axis_infos
        )

    @property
    def capital(self) -> float:
        """The height of a capital letter."""
        return self._capital

    def _height(self, letter: str) -> float:
        glyph = self.font.get_nominal_glyph(ord(letter))
        extents = self.font.get_glyph_extents(glyph) if glyph else None
        return extents.y_bearing if extents else 0.0


def face_files(id_: str, axes: tuple[tuple[str, float], ...] = ()) -> tuple[Face, ...]:
    """The files of a face, with its axes set. Raises Refusal if there is no such face, or it is not installed."""
    return _own(id_, axes) if OWN.fullmatch(id_) else _loaded(home(), id_, axes)


@functools.lru_cache(maxsize=64)
def _own(id_: str, axes: tuple[tuple[str, float], ...]) -> tuple[Face, ...]:
    for place in _places:
        try:
            data = place(id_).read_bytes()
        except OSError:
            continue
        return (Face(unpacked(data, "That font"), dict(axes), {}),)
    raise Refusal("That font is no longer there. Import it again, or choose another face.")


@functools.lru_cache(maxsize=128)
def _loaded(folder: Path, id_: str, axes: tuple[tuple[str, float], ...]) -> tuple[Face, ...]:
    shipped = SHIPPED.get(id_)
    if shipped is None:
        raise Refusal("There is no such face. Choose another.")
    paths = [folder / f for f in shipped.files]
    found = [p for p in paths if p.is_file()]
    if not found:
        raise Refusal(f"{shipped.title} is not installed (run “make setup”). Choose another face.")
    begins = dict(shipped.axes)
    return tuple(Face(unpacked(p.read_bytes(), shipped.title), dict(axes), begins) for p in found)


def unpacked(data: bytes, name: str) -> bytes:
    """A file of glyphs as plain OpenType, out of WOFF or WOFF2 if it is one. Raises Refusal if it cannot be read."""
    if data[:4] not in (b"wOFF", b"wOF2"):
        return data
    # Both say how large they will be (WOFF 1.0, table 2; WOFF 2.0, table 3): that is believed before room is made.
    if len(data) < 20 or struct.unpack(">I", data[16:20])[0] > MOST_BYTES:
        raise Refusal(f"{name} cannot be read as a font, or is too large. Save it as .ttf or .otf.")
    try:
        font = TTFont(io.BytesIO(data))
        font.flavor = None
        out = io.BytesIO()
        font.save(out, reorderTables=False)
    except Exception as error:
        # What unpacks a broken file fails in any way that there is.
        raise Refusal(f"{name} cannot be read as a font. Save it as .ttf or .otf.") from error
    return out.getvalue()
