"""Sprites of draws, made once for a canvas, and where they go on it."""

import numpy as np

from ...common.kept import Kept
from ...piece.model import Document
from ...piece.model.finish import Stage
from ...see.footage.library import Library
from .canvas import Canvas
from .draw import PlacedSprite, Sprite
from .draws import AT_REST, Matrix, SpriteDraw, SpriteSpec
from .finish_stages import Stages, stage_cache
from .material import Stock
from .matte_cache import MatteCache
from .sprite import make_sprite

SPRITE_BYTES = 600_000_000
"""How much sprites may hold before those used least go."""
ENLARGED = 1.02
"""From here on a picture drawn larger than it rests is worth a finer sprite."""


def sprite_cache() -> Kept[Sprite | None]:
    """A cache for sprites, to be shared by renderers."""
    return Kept(SPRITE_BYTES, lambda sprite: sprite.nbytes if sprite else 0)


class Sprites:
    """The sprites made of a library's frames, and the stages of the finishes on them."""

    def __init__(self, holds: Library, cache: Kept[Sprite | None] | None, stages: Stages | None) -> None:
        self._holds = holds
        self._cache = cache or sprite_cache()
        self.stages = stages or stage_cache()
        self.mattes = MatteCache(holds)

    def supplies(self, document: Document) -> Stock:
        """The material of a document, for its pictures and the finishes on them."""
        return Stock(document, self._holds, self.mattes)

    def stage(self, canvas: Canvas, opaque: bool = False) -> Stage:
        """The stage of finishes on a canvas; opaque: if what they are put on covers all of it."""
        return Stage(canvas.scale, canvas=canvas.size, opaque=opaque, supplies=self.supplies(canvas.document))

    def sprite(self, canvas: Canvas, spec: SpriteSpec, level: int = 1) -> Sprite | None:
        """The sprite of a spec for a canvas, `level` times as fine, from the cache if it is there."""
        grid = canvas.grid(spec.framing, level=level)

        def make() -> Sprite | None:
            return make_sprite(spec, self.supplies(canvas.document), grid, self.stages)

        # What the sprite is framed like is part of its digest; all else that a grid says is here.
        project = canvas.document.project
        return self._cache.get((spec.digest, grid.size, project.width, project.background, canvas.draft), make)

    def placed(self, canvas: Canvas, one: SpriteDraw) -> PlacedSprite | None:
        """A draw's sprite, and where it goes on a canvas; None if there is nothing to see."""
        level = level_of(one, canvas)
        sprite = self.sprite(canvas, one.sprite, level)
        return None if sprite is None else PlacedSprite(sprite, on_canvas(one.matrix, canvas.scale, level), one.opacity)


def on_canvas(given: Matrix, scale: float, level: int) -> np.ndarray:
    """A draw's matrix, 3×3, on a canvas so many times the project's size, of a sprite so many times as fine."""
    matrix = np.array(given).reshape(3, 3)
    matrix[:2, 2] *= scale
    matrix[2, :2] /= scale
    return matrix @ np.diag([1 / level, 1 / level, 1]) if level > 1 else matrix


def level_of(one: SpriteDraw, canvas: Canvas) -> int:
    """The fineness of a draw's sprite: as the canvas, 1, or 2, 4 … times that if it is ever drawn larger than it rests.

    Never finer than the source's own pixels; at rest always 1, so that a landing is exact.
    """
    if one.matrix == AT_REST or one.largest <= ENLARGED:
        return 1
    width, height = one.sprite.picture.size
    project, framing = canvas.document.project, one.sprite.framing
    shape = width / project.width, height / project.height
    fills = min(shape) / (framing.scale if framing.mode == "hand" else 1)
    own = (max(shape) if framing.mode == "fit" else fills) / canvas.scale
    level = 1
    while level < one.largest and level < own:
        level *= 2
    return level
