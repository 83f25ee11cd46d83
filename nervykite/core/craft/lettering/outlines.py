"""The outlines of glyphs as paths, y downwards, in ems."""

import functools

import skia

from .faces import Face

MOST = 4096
"""How many outlines are remembered."""


class _Pen:
    """A pen that draws a glyph for HarfBuzz, into a path."""

    def __init__(self, em: float) -> None:
        self.path, self._by = skia.Path(), 1 / em

    def _at(self, *points: tuple[float, float]) -> list[float]:
        return [v for x, y in points for v in (x * self._by, -y * self._by)]

    def moveTo(self, at: tuple[float, float]) -> None:
        self.path.moveTo(*self._at(at))

    def lineTo(self, at: tuple[float, float]) -> None:
        self.path.lineTo(*self._at(at))

    def qCurveTo(self, handle: tuple[float, float], at: tuple[float, float]) -> None:
        self.path.quadTo(*self._at(handle, at))

    def curveTo(self, one: tuple[float, float], two: tuple[float, float], at: tuple[float, float]) -> None:
        self.path.cubicTo(*self._at(one, two, at))

    def closePath(self) -> None:
        self.path.close()

    def endPath(self) -> None:
        self.path.close()


@functools.lru_cache(MOST)
def outline(face: Face, glyph: int) -> skia.Path:
    """The outline of a glyph. It is not to be written to."""
    pen = _Pen(face.em)
    face.font.draw_glyph_with_pen(glyph, pen)
    return pen.path
