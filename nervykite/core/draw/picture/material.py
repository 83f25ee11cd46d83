"""Where pixels come from: a document's footage, stored pictures and mattes, on the grids that sprites ask for."""

import math

import cv2
import numpy as np

from ...common.errors import Refusal
from ...kinds.sources.picture import Cutout, Footage, Grid, Mended, Patch, Stored
from ...piece.model import Document, Framing
from ...see.footage.cube_lut import CubeLut
from ...see.footage.framing_matrix import covered, even, fit_matrix
from ...see.footage.library import Library, beyond
from ...see.footage.place import place
from ...see.footage.planes import Planes, colour_planes
from .draw import PlacedSprite, draw
from .matte_cache import MatteCache
from .sprite import packed

RIM = 2
"""Free pixels around a sprite, so that sampling it never needs to look outside."""
MOST_PLACED = 120_000_000
"""How many pixels of a picture are worked on at once."""
SEEN = 0.002
"""Alpha below which there is nothing to see."""


class Stock:
    """The material of one document over a library."""

    def __init__(self, document: Document, library: Library, mattes: MatteCache) -> None:
        self._document, self._library, self._mattes = document, library, mattes

    def footage(self, shot: str, frame: int, grid: Grid) -> Planes:
        """A source frame on a grid; from a proxy if that will do."""
        found = self._document.shots[shot]
        return self._library.at_size(found, frame, grid.size, grid.framing, grid.background, grid.draft)

    def stored(self, file: str, grid: Grid) -> Planes:
        """A stored picture on a grid."""
        return self._library.plate_at_size(file, grid.size, grid.framing, grid.background)

    def drawing(self, file: str, grid: Grid, margin: int) -> Patch | None:
        """A stored picture with alpha on a grid, and `margin` pixels more; None if there is nothing to see."""
        straight = self._library.drawing(file)
        height, width = straight.shape[:2]
        matrix = fit_matrix((width, height), grid.size, grid.framing)
        pad = margin + RIM
        left, top, right, bottom = covered(matrix, (0, 0, width, height))
        box = even(left - pad, top - pad, right + pad, bottom + pad)
        if width * height > MOST_PLACED or (box[2] - box[0]) * (box[3] - box[1]) > MOST_PLACED:
            raise Refusal("That picture is too large to be drawn there. Make it smaller.")
        rgba = straight.astype(np.float32) / 255
        rgba[..., :3] *= rgba[..., 3:]
        return Patch(box[0], box[1], rgba=place(rgba, matrix, box, 0))

    def shelved(self, file: str) -> np.ndarray | None:
        """A picture of the shelf, straight R'G'B'A, uint8 (h, w, 4); None if it is not there."""
        return self._library.drawing(file) if self._on_shelf(file, "picture") else None

    def table(self, file: str) -> CubeLut | None:
        """A table of colours of the shelf; None if it is not there."""
        return self._library.table(file) if self._on_shelf(file, "table") else None

    def _on_shelf(self, file: str, kind: str) -> bool:
        return any(a.file == file and a.kind == kind for a in self._document.assets.values())

    def cut_out(self, cutout: Cutout, grid: Grid, margin: int) -> Patch | None:
        """A cutout on a grid, as far as its subject goes, be that beyond the canvas, and `margin` pixels more.

        Its colours are the very ones that the ground shows there; None if it is empty.
        """
        alpha, left, top = self.alpha(cutout, grid)
        rows, columns = np.flatnonzero(alpha.max(1) > SEEN), np.flatnonzero(alpha.max(0) > SEEN)
        if not len(rows) or not len(columns):
            return None
        pad = margin + RIM
        box = even(
            left + int(columns[0]) - pad, top + int(rows[0]) - pad,
            left + int(columns[-1]) + 1 + pad, top + int(rows[-1]) + 1 + pad,
        )  # fmt: skip
        cut = crop(alpha, (box[0] - left, box[1] - top, box[2] - left, box[3] - top), cv2.BORDER_CONSTANT)
        return Patch(box[0], box[1], self._colours(cutout.base, grid, box), cut, cutout.matte.fringe)

    def mended(self, mended: Mended, grid: Grid) -> Planes:
        """A source frame with something else in the place of part of it, in that frame's light.

        How much lighter or darker the frame is, and of what other cast, tells the seam around that part.
        """
        planes = mended.base.opaque(self, grid).copy()
        patch = self.cut_out(mended.mend, grid, 0)
        if patch is None or patch.planes is None or patch.alpha is None:
            return planes
        lit = Patch(patch.left, patch.top, in_light(patch, planes), patch.alpha)
        draw(planes, [PlacedSprite(packed(lit), np.eye(3))])
        return planes

    def over_background(self, patch: Patch | None, grid: Grid) -> Planes:
        """A patch on a canvas of the background's colour."""
        y, u, v = colour_planes(grid.background)
        w, h = grid.size
        half = h // 2, w // 2
        planes = Planes(np.full((h, w), y, np.uint8), np.full(half, u, np.uint8), np.full(half, v, np.uint8))
        if patch is not None:
            draw(planes, [PlacedSprite(packed(patch), np.eye(3))])
        return planes

    def alpha(self, cutout: Cutout, grid: Grid) -> tuple[np.ndarray, int, int]:
        """A cutout's matte on a grid, float32 (h, w), 0…1, and where its corner lies; it covers the canvas at least.

        It is made at source size and resampled, so that it does not depend on the size it is looked at.
        """
        shot = self._document.shots[cutout.shot]
        alpha = self._mattes.alpha(shot, cutout.frame, cutout.matte)
        matrix = fit_matrix((shot.width, shot.height), grid.size, grid.framing)
        if (shot.width, shot.height) == grid.size and np.array_equal(matrix, np.eye(3)):
            return alpha, 0, 0
        box = self._reach(alpha, matrix, grid)
        whole = grid.framing.mode == "fill" and box == (0, 0, *grid.size)
        return place(alpha, matrix, box, None if whole else 0), box[0], box[1]

    @staticmethod
    def _reach(alpha: np.ndarray, matrix: np.ndarray, grid: Grid) -> tuple[int, int, int, int]:
        """The canvas, and as much beside it as what is seen of an alpha goes beyond: left, top, right, bottom."""
        w, h = grid.size
        high, wide = alpha.shape
        left, top, right, bottom = covered(matrix, (0, 0, wide, high))
        if left >= -1 and top >= -1 and right <= w + 1 and bottom <= h + 1:
            return 0, 0, w, h
        x, y, wide, high = cv2.boundingRect((alpha > SEEN).astype(np.uint8))
        left, top, right, bottom = covered(matrix, (x, y, x + wide, y + high))
        return even(min(0, left - 2), min(0, top - 2), max(w, right + 2), max(h, bottom + 2))

    def _colours(self, base: Footage | Stored | Mended, grid: Grid, box: tuple[int, int, int, int]) -> Planes:
        """A picture's planes in a box of a grid. On the canvas they are what the ground shows, to the bit."""
        canvas = base.opaque(self, grid)
        w, h = grid.size
        outside = box[0] < 0 or box[1] < 0 or box[2] > w or box[3] > h
        if grid.framing.mode != "fit" and outside:
            own = self._own(base, grid)
            matrix = fit_matrix(own.size, grid.size, grid.framing)
            left, top, right, bottom = covered(matrix, (0, 0, *own.size))
            if left <= -1 or top <= -1 or right >= w + 1 or bottom >= h + 1:
                return beyond(own, matrix, canvas, box)
        return Planes(
            crop(canvas.y, box, cv2.BORDER_REPLICATE),
            crop(canvas.u, halved(box), cv2.BORDER_REPLICATE),
            crop(canvas.v, halved(box), cv2.BORDER_REPLICATE),
        )

    def _own(self, base: Footage | Stored | Mended, grid: Grid) -> Planes:
        if isinstance(base, Stored):
            return self._library.plate_planes(base.file)
        if isinstance(base, Mended):
            wide, high = (2 * math.ceil(v / 2) for v in base.size)
            return base.opaque(self, Grid((wide, high), grid.scale, Framing(), grid.background, grid.draft))
        return self._library.sharp_enough(
            self._document.shots[base.shot], base.frame, grid.size, grid.framing, grid.draft
        )


SEAM = 9
"""How wide the seam around a mended part is, in pixels, that tells the light there."""


def in_light(patch: Patch, planes: Planes) -> Planes:
    """A patch's picture as light, and of the cast, as a whole picture is around it."""
    assert patch.planes is not None
    assert patch.alpha is not None
    h, w = patch.alpha.shape
    box = patch.left, patch.top, patch.left + w, patch.top + h
    seen = (patch.alpha > SEEN).astype(np.uint8)
    seam = cv2.dilate(seen, np.ones((2 * SEAM + 1, 2 * SEAM + 1), np.uint8)) > seen
    there = crop(np.ones_like(planes.y), box, cv2.BORDER_CONSTANT) > 0  # beside the canvas nothing is known
    seam &= there
    if seam.sum() < 32:
        return patch.planes
    small = seam[::2, ::2]
    luma, was = crop(planes.y, box, cv2.BORDER_REPLICATE)[seam], patch.planes.y[seam]
    gain = float(np.clip((np.median(luma) - 16) / max(1.0, np.median(was) - 16), 0.6, 1.6))
    casts = []
    for target, own in ((planes.u, patch.planes.u), (planes.v, patch.planes.v)):
        around = crop(target, halved(box), cv2.BORDER_REPLICATE)
        by = int(round(float(np.median(around[small].astype(int) - own[small])))) if small.any() else 0
        casts.append(np.clip(own.astype(np.int16) + by, 16, 240).astype(np.uint8))
    lit = np.clip(np.round((patch.planes.y.astype(np.float32) - 16) * gain + 16), 16, 235).astype(np.uint8)
    return Planes(lit, *casts)


def halved(box: tuple[int, int, int, int]) -> tuple[int, int, int, int]:
    """A box as the chroma planes have it."""
    return box[0] // 2, box[1] // 2, box[2] // 2, box[3] // 2


def crop(plane: np.ndarray, box: tuple[int, int, int, int], border: int) -> np.ndarray:
    """A box of a plane; what lies outside it is filled as OpenCV's border types say."""
    left, top, right, bottom = box
    h, w = plane.shape[:2]
    inside = plane[max(0, top) : min(h, bottom), max(0, left) : min(w, right)]
    over = max(0, -top), max(0, bottom - h), max(0, -left), max(0, right - w)
    return cv2.copyMakeBorder(inside, *over, border) if any(over) else np.ascontiguousarray(inside)
