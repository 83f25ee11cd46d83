"""A contact sheet: frames in rows, each with its number below."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import skia

FACE = Path(__file__).with_name("figtree.ttf")


@dataclass(frozen=True)
class Sheet:
    """The sheet's measures, in pixels.

    wide: the width of the sheet at most; gap: between frames, and around them all; line: how high a line of writing is;
    paper and ink: its colours, as R, G, B.
    """

    wide: int = 2400
    gap: int = 16
    line: int = 34
    paper: tuple[int, int, int] = (248, 244, 236)
    ink: tuple[int, int, int] = (30, 37, 48)


def contact_sheet(
    pictures: Sequence[np.ndarray], labels: Sequence[str], title: str, settings: Sheet | None = None
) -> np.ndarray:
    """A contact sheet of some pictures, uint8 RGB (h, w, 3) of one size, in order: uint8 RGB.

    labels: what is written below each; title: what is written above them all. Raises ValueError if there are none.
    """
    settings = settings or Sheet()
    if not pictures:
        raise ValueError("a contact sheet needs a picture")
    height, width = pictures[0].shape[:2]
    across = _across(len(pictures), width, height, settings)
    gap, line = settings.gap, settings.line
    cell = (settings.wide - gap) // across - gap
    cell = min(cell, width)
    tall = max(1, round(cell * height / width))
    rows = math.ceil(len(pictures) / across)
    size = across * (cell + gap) + gap, 2 * gap + line + rows * (tall + line + gap)
    made = np.full((size[1], size[0], 4), 255, np.uint8)
    made[..., :3] = settings.paper
    surface = skia.Surface(made)
    canvas = surface.getCanvas()
    face = skia.Typeface.MakeFromFile(str(FACE))
    ink = skia.Paint(Color=skia.Color(*settings.ink), AntiAlias=True)
    big, small = skia.Font(face, 0.68 * line), skia.Font(face, 0.56 * line)
    for font in (big, small):
        font.setSubpixel(True)
    canvas.drawString(title, gap, gap + 0.62 * line, big, ink)
    for number, (picture, label) in enumerate(zip(pictures, labels, strict=True)):
        x = gap + (number % across) * (cell + gap)
        y = 2 * gap + line + (number // across) * (tall + line + gap)
        rgba = np.dstack([picture, np.full(picture.shape[:2], 255, np.uint8)])
        image = skia.Image.fromarray(np.ascontiguousarray(rgba), skia.ColorType.kRGBA_8888_ColorType)
        sampling = skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear)
        canvas.drawImageRect(image, skia.Rect.MakeXYWH(x, y, cell, tall), sampling)
        canvas.drawString(label, x, y + tall + 0.66 * line, small, ink)
    surface.flushAndSubmit()
    return np.ascontiguousarray(made[..., :3])


def _across(count: int, width: int, height: int, settings: Sheet) -> int:
    """The number of frames lie in a row: so that the sheet is about as wide as high, but no frame is tiny."""
    ideal = math.sqrt(count * (height + settings.line) / width)
    least = 120 / max(1, min(width, 400))
    return max(1, min(count, round(ideal), int(settings.wide / (settings.gap + max(96, 120 * least)))))
