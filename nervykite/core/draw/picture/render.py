"""Frames of a document, at any size: the one compositor behind preview and export."""

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor

import cv2
import numpy as np

from ...common.colour import rgb_of
from ...common.kept import Kept
from ...kinds.sources.picture import Grid, Patch
from ...piece.model import Document, Framing
from ...piece.model.finish import Stage
from ...see.footage.library import Library
from ...see.footage.planes import Planes
from .blending import blend
from .draw import PlacedSprite, Sprite, draw
from .draws import AT_REST, Draw, Draws, GroupDraw, Matrix, SpriteDraw, SpriteSpec, WashDraw
from .finish_stages import Stages, dressed, stage_cache
from .glass import Box, Glass, On, lay, put_together
from .material import Stock
from .matte_cache import MatteCache
from .opened import closed, opened
from .smear import Smear, lay_in_light, shaken, smeared
from .sprite import make_sprite
from .washing import wash_glass, wash_planes, weights

SPRITE_BYTES = 600_000_000
"""How much sprites may hold before those used least go."""
STILL_GROUNDS = 4
"""How many dressed grounds are kept: while one stands still it is made once."""
ENLARGED = 1.02
"""From here on a picture drawn larger than it rests is worth a finer sprite."""


def sprite_cache() -> Kept[Sprite | None]:
    """A cache for sprites, to be shared by renderers."""
    return Kept(SPRITE_BYTES, lambda sprite: sprite.nbytes if sprite else 0)


class Renderer:
    """Draws frames on a canvas of one size.

    `ground` reads footage in order; `holds` reads the held frames, and may be the same library where order does
    not matter. A draft may use proxies. With a pool, each frame is drawn in bands.
    """

    def __init__(
        self,
        ground: Library,
        holds: Library | None = None,
        cache: Kept[Sprite | None] | None = None,
        pool: ThreadPoolExecutor | None = None,
        bands: int = 2,
        stages: Stages | None = None,
    ) -> None:
        self._ground, self._holds = ground, holds or ground
        self._cache = cache or sprite_cache()
        self._stages = stages or stage_cache()
        self._grounds: Kept[Planes] = Kept(STILL_GROUNDS)
        self.mattes = MatteCache(self._holds)
        self._pool, self._bands = pool, bands if pool else 1

    def render(self, document: Document, draws: Draws, size: tuple[int, int] | None = None, draft=False) -> Planes:
        """The frame as planes. `size` (w, h), even, has the project's shape; None is the project's own size."""
        project = document.project
        size = size or (project.width, project.height)
        planes = self._ground_planes(document, draws, size, draft)
        run: list[PlacedSprite] = []
        for one in draws.layers:
            if isinstance(one, WashDraw):
                draw(planes, run, self._bands, self._pool)
                planes, run = self._washed(document, planes, one, size, draft), []
                continue
            thing = self._thing(document, one, size, draft)
            if thing is None:
                continue
            if isinstance(thing, PlacedSprite) and one.blend == "normal":
                run.append(thing)
                continue
            draw(planes, run, self._bands, self._pool)
            run = []
            if isinstance(thing, Smear):
                if one.blend == "normal":
                    lay_in_light(planes, thing, self._bands, self._pool)
                else:
                    lay(planes, thing.glass(), 1.0, one.blend, self._bands, self._pool)
            elif isinstance(thing, PlacedSprite):
                blend(planes, thing, one.blend, self._bands, self._pool)
            else:
                lay(planes, thing, one.opacity, one.blend, self._bands, self._pool)
        draw(planes, run, self._bands, self._pool)
        return planes

    def alone(
        self, document: Document, draws: Sequence[Draw], size: tuple[int, int], draft: bool = True
    ) -> Glass | None:
        """Draws put together by themselves on nothing, on a canvas of a size (w, h), even; None if nothing is seen."""
        return self._together(document, GroupDraw("", tuple(draws), 1.0), size, draft)

    def cover(self, document: Document, draws: Sequence[Draw], size: tuple[int, int]) -> np.ndarray:
        """The coverage of draws, together, on a canvas of a size (w, h), even: float32 (h, w), 0…1."""
        found = np.zeros(size[::-1], np.float32)
        glass = self.alone(document, draws, size)
        if glass is not None:
            left, top, right, bottom = glass.box
            x0, y0, x1, y1 = max(0, left), max(0, top), min(size[0], right), min(size[1], bottom)
            if x0 < x1 and y0 < y1:
                found[y0:y1, x0:x1] = glass.rgba[y0 - top : y1 - top, x0 - left : x1 - left, 3]
        return found

    def _thing(
        self, document: Document, one: SpriteDraw | GroupDraw, size: tuple[int, int], draft: bool
    ) -> PlacedSprite | Smear | Glass | None:
        """A draw's sprite, where it goes; or what it is in motion; or a group, put together."""
        if isinstance(one, SpriteDraw):
            lies = self.placed(document, one, size, draft)
            if lies is None or not one.moves:
                return lies
            scale = size[0] / document.project.width
            level = level_of(one, document, scale)
            return smeared(lies, [on_canvas(m, scale, level) for m in one.moves], size)
        if not one.finishes:
            return self._together(document, one, size, draft)
        key = "group", one.inside, size, document.project.width, document.project.background, draft
        kept = self._stages.peek(key)
        if kept is None:
            glass = self._together(document, one, size, draft)
            if glass is None:
                return None
            stage = self._stage(document, size)
            kept = self._stages[key] = dressed(Patch(glass.left, glass.top, rgba=glass.rgba), one.finishes, stage)
        assert kept.rgba is not None
        return Glass(kept.left, kept.top, kept.rgba)

    def _together(self, document: Document, one: GroupDraw, size: tuple[int, int], draft: bool) -> Glass | None:
        """A group's members on nothing; a wash among them works on those below it."""
        ons: list[On] = []
        for inner in one.draws:
            if isinstance(inner, WashDraw):
                below = put_together(ons, size, self._bands, self._pool)
                washed = below and self._washed_glass(document, below, inner, size, draft)
                ons = [On(washed)] if washed else []
                continue
            thing = self._thing(document, inner, size, draft)
            if isinstance(thing, Smear):
                ons.append(On(thing.glass(), inner.blend, 1.0))
            elif thing is not None:
                ons.append(On(thing, inner.blend, inner.opacity))
        return put_together(ons, size, self._bands, self._pool)

    def _washed(self, document: Document, planes: Planes, one: WashDraw, size: tuple[int, int], draft: bool) -> Planes:
        """The canvas so far under a wash."""
        weight: np.ndarray | float = one.opacity
        if one.mask is not None or one.outside:
            weight = weights(self._mask(document, one, size, draft), (0, 0, *size), one.opacity, one.outside)
        stage = self._stage(document, size, opaque=True)
        return wash_planes(planes, one.finishes, weight, one.blend, stage, self._bands, self._pool)

    def _washed_glass(
        self, document: Document, below: Glass, one: WashDraw, size: tuple[int, int], draft: bool
    ) -> Glass | None:
        """The glass of a group so far, under a wash."""
        mask, limited = self._mask(document, one, size, draft), one.mask is not None or one.outside

        def weigh(box: Box) -> np.ndarray:
            # Unlimited, it is outside of nothing.
            return weights(mask, box, one.opacity, one.outside or not limited)

        stage = self._stage(document, size)
        return wash_glass(below, one.finishes, weigh, one.blend, stage)

    def _mask(self, document: Document, one: WashDraw, size: tuple[int, int], draft: bool) -> Glass | None:
        """The mask that limits a wash, on the canvas."""
        thing = self._thing(document, one.mask, size, draft) if one.mask is not None else None
        if isinstance(thing, Smear):
            return thing.glass()
        return put_together([On(thing)], size, self._bands, self._pool) if isinstance(thing, PlacedSprite) else thing

    def placed(self, document: Document, one: SpriteDraw, size: tuple[int, int], draft: bool) -> PlacedSprite | None:
        """A draw's sprite, and where it goes on a canvas of a size; None if there is nothing to see."""
        scale = size[0] / document.project.width
        level = level_of(one, document, scale)
        sprite = self.sprite(document, one.sprite, size, draft, level)
        if sprite is None:
            return None
        return PlacedSprite(sprite, on_canvas(one.matrix, scale, level), one.opacity)

    def sprite(
        self, document: Document, spec: SpriteSpec, size: tuple[int, int], draft: bool, level: int = 1
    ) -> Sprite | None:
        """The sprite of a spec on a canvas of a size, `level` times as fine, from the cache if it is there."""
        project = document.project
        fine = size[0] * level, size[1] * level

        def make() -> Sprite | None:
            grid = Grid(fine, fine[0] / project.width, spec.framing, project.background, draft)
            return make_sprite(spec, Stock(document, self._holds, self.mattes), grid, self._stages)

        # What the sprite is framed like is part of its digest; all else that a grid says is here.
        return self._cache.get((spec.digest, fine, project.width, project.background, draft), make)

    def _stage(self, document: Document, size: tuple[int, int], opaque: bool = False) -> Stage:
        supplies = Stock(document, self._holds, self.mattes)
        return Stage(size[0] / document.project.width, canvas=size, opaque=opaque, supplies=supplies)

    def _ground_planes(self, document: Document, draws: Draws, size: tuple[int, int], draft: bool) -> Planes:
        stock = Stock(document, self._ground, self.mattes)
        scale = size[0] / document.project.width
        if draws.ground is None:
            return stock.over_background(None, Grid(size, scale, Framing(), draws.background, draft))

        def lying(ground: SpriteSpec, own: bool) -> Planes:
            grid = Grid(size, scale, ground.framing, draws.background, draft)
            if not ground.finishes:
                held = ground.picture.opaque(stock, grid)
                return held.copy() if own else held

            def make() -> Planes:
                stage = self._stage(document, size, opaque=True)
                patch = dressed(Patch(0, 0, rgba=opened(ground.picture.opaque(stock, grid))), ground.finishes, stage)
                assert patch.rgba is not None
                return closed(patch.rgba, rgb_of(draws.background))

            planes = self._grounds.get((ground.digest, grid), make)
            return planes.copy() if own else planes

        own = bool(draws.layers) and draws.leaving is None and not draws.shaken
        planes = lying(draws.ground, own)
        if draws.leaving is not None:
            planes = mixed(planes, lying(draws.leaving[0], False), draws.leaving[1])
        return shaken(planes, [on_canvas(m, scale, 1) for m in draws.shaken]) if draws.shaken else planes


def on_canvas(given: Matrix, scale: float, level: int) -> np.ndarray:
    """A draw's matrix, 3×3, on a canvas so many times the project's size, of a sprite so many times as fine."""
    matrix = np.array(given).reshape(3, 3)
    matrix[:2, 2] *= scale
    matrix[2, :2] /= scale
    return matrix @ np.diag([1 / level, 1 / level, 1]) if level > 1 else matrix


def mixed(planes: Planes, other: Planes, share: float) -> Planes:
    """A picture with another one over it that covers a share of it, 0…1."""
    pairs = ((planes.y, other.y), (planes.u, other.u), (planes.v, other.v))
    return Planes(*(cv2.addWeighted(a, 1 - share, b, share, 0) for a, b in pairs))


def level_of(one: SpriteDraw, document: Document, scale: float) -> int:
    """The number of times as fine as the canvas a draw's sprite is: 1, or 2, 4 … if it is ever drawn larger than it
    rests.

    Never finer than the source's own pixels; at rest always 1, so that a landing is exact. `scale` is the size of the
    canvas over the project's.
    """
    if one.matrix == AT_REST or one.largest <= ENLARGED:
        return 1
    width, height = one.sprite.picture.size
    shape = width / document.project.width, height / document.project.height
    framing = one.sprite.framing
    own = (
        max(shape) if framing.mode == "fit" else min(shape) / (framing.scale if framing.mode == "hand" else 1)
    ) / scale
    level = 1
    while level < one.largest and level < own:
        level *= 2
    return level
