"""Picture files, with their alpha: PNG, WebP, JPEG and the like, and SVG."""

import math
import xml.etree.ElementTree as tree
from pathlib import Path

import cv2
import numpy as np
import skia

from ...common.errors import Refusal
from .loose import unpacked
from .svg_files import parsed

DRAWN_SIDE = 2048
"""The longest side, in pixels, at which drawings without pixels of their own are made into some."""
MOST_DRAWING = 8 << 20
"""How many bytes of an SVG are read."""
MOST_PICTURE = 256 << 20
"""How many bytes of any other picture file are read."""
HEADS = (b"\x89PNG", b"\xff\xd8\xff", b"BM", b"II*\x00", b"MM\x00*")
"""How picture files begin: PNG, JPEG, BMP, TIFF."""


def is_drawing(head: bytes) -> bool:
    """True if a file that begins so, with some kilobytes, is an SVG."""
    return b"<svg" in head and not head.startswith(HEADS)


def is_picture(head: bytes) -> bool:
    """True if a file that begins so is a picture: what moves, a GIF for example, is none."""
    return head.startswith(HEADS) or (head[:4] == b"RIFF" and head[8:12] == b"WEBP") or is_drawing(head)


def read_still(path: Path, name: str) -> np.ndarray:
    """A picture file, upright, as straight R'G'B'A: uint8 (h, w, 4). Raises Refusal."""
    with path.open("rb") as file:
        head = file.read(4096)
        if is_drawing(head):
            return drawn(head + file.read(MOST_DRAWING), name)
        data = head + file.read(MOST_PICTURE)
    if len(data) > MOST_PICTURE:
        raise Refusal(f"{name} is too large: the most is {MOST_PICTURE >> 20} MB for a picture. Save it smaller first.")
    picture = unpacked(data, cv2.IMREAD_UNCHANGED, name)
    if picture is None:
        raise Refusal(f"{name} cannot be read as a picture. Save it as PNG, JPEG or WebP.")
    if picture.dtype == np.uint16:
        picture = cv2.convertScaleAbs(picture, alpha=1 / 257)
    if picture.ndim == 3 and picture.shape[2] == 4:
        return np.ascontiguousarray(picture[..., [2, 1, 0, 3]])
    # Only read as colour does OpenCV turn a picture upright as its camera was held.
    upright = unpacked(data, cv2.IMREAD_COLOR, name)
    assert upright is not None
    full = np.full((*upright.shape[:2], 1), 255, np.uint8)
    return np.ascontiguousarray(np.concatenate([upright[..., ::-1], full], 2))


def drawn(data: bytes, name: str) -> np.ndarray:
    """An SVG as straight R'G'B'A, uint8 (h, w, 4), as large as pictures without a size of their own are made.

    What it refers to outside itself is not looked at. Raises Refusal.
    """
    if len(data) > MOST_DRAWING:
        raise Refusal(f"{name} is too large: the most is {MOST_DRAWING >> 20} MB of SVG. Save it as PNG.")
    root = parsed(data.decode(errors="replace").lstrip("\ufeff"))
    dom = skia.SVGDOM.MakeFromStream(skia.MemoryStream(data))
    if dom is None:
        raise Refusal(f"{name} cannot be read as SVG. Save it as PNG.")
    own = dom.containerSize()
    sides = (own.width(), own.height()) if own.width() > 0 and own.height() > 0 else _view_box(root)
    scale = DRAWN_SIDE / max(sides)
    width, height = (max(1, round(side * scale)) for side in sides)
    picture = np.zeros((height, width, 4), np.uint8)  # the surface does not keep it
    surface = skia.Surface(picture)
    canvas = surface.getCanvas()
    if own.width() > 0 and own.height() > 0:
        canvas.scale(scale, scale)
    else:
        dom.setContainerSize(skia.Size(width, height))
    dom.render(canvas)
    made = surface.toarray(colorType=skia.ColorType.kRGBA_8888_ColorType)
    if not made[..., 3].any():
        raise Refusal(f"There is nothing to see in {name}. Letters have to be paths: save it as PNG otherwise.")
    return np.ascontiguousarray(made)


def _view_box(root: tree.Element) -> tuple[float, float]:
    """Width and height of a document's view box; of a square if it has none that can be drawn."""
    try:
        _, _, width, height = (float(n) for n in root.get("viewBox", "").replace(",", " ").split())
    except ValueError:
        return 1.0, 1.0
    usable = math.isfinite(width) and math.isfinite(height) and width > 0 and height > 0
    return (width, height) if usable else (1.0, 1.0)
