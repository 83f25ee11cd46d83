"""Frames of a document, at any size: the one compositor behind preview and export."""

from collections.abc import Sequence

import numpy as np

from ...common.kept import Kept
from ...see.footage.library import Library
from ...see.footage.planes import Planes
from .bands import WHOLE, Bands
from .blending import blend
from .canvas import Canvas
from .draw import PlacedSprite, Sprite, draw
from .draws import Draw, Draws, WashDraw
from .finish_stages import Stages
from .glass import Glass, lay
from .grounds import Grounds
from .smear import lay_in_light
from .sprites import Sprites
from .things import Thing, mask_of, thing_of, together, weight_of
from .washing import wash_planes


class Renderer:
    """Draws frames.

    `ground` reads footage in order; `holds` reads the held frames, and may be the same library where order does
    not matter.
    """

    def __init__(
        self,
        ground: Library,
        holds: Library | None = None,
        cache: Kept[Sprite | None] | None = None,
        stages: Stages | None = None,
        bands: Bands = WHOLE,
    ) -> None:
        self.sprites = Sprites(holds or ground, cache, stages)
        self._grounds = Grounds(ground, self.sprites)
        self._bands = bands

    def render(self, canvas: Canvas, draws: Draws) -> Planes:
        """The frame as planes."""
        planes = self._grounds.planes(canvas, draws)
        run: list[PlacedSprite] = []
        for one in draws.layers:
            if isinstance(one, WashDraw):
                draw(planes, run, self._bands)
                planes, run = self._washed(canvas, planes, one), []
                continue
            thing = thing_of(one, canvas, self.sprites, self._bands)
            if isinstance(thing, PlacedSprite) and one.blend == "normal":
                # Plain sprites one after the other are drawn in one go, each tile by those that are seen there.
                run.append(thing)
            elif thing is not None:
                draw(planes, run, self._bands)
                run = []
                self._laid(planes, thing, one)
        draw(planes, run, self._bands)
        return planes

    def _laid(self, planes: Planes, thing: Thing, one: Draw) -> None:
        """Lays a thing onto planes, in place, as its draw is blended."""
        if isinstance(thing, Glass):
            lay(planes, thing, one.opacity, one.blend, self._bands)
        elif isinstance(thing, PlacedSprite):
            blend(planes, thing, one.blend, self._bands)
        elif one.blend == "normal":
            lay_in_light(planes, thing, self._bands)
        else:
            lay(planes, thing.glass(), 1.0, one.blend, self._bands)

    def _washed(self, canvas: Canvas, planes: Planes, one: WashDraw) -> Planes:
        """The canvas so far under a wash."""
        weight: np.ndarray | float = one.opacity
        if one.mask is not None or one.outside:
            mask = mask_of(one, canvas, self.sprites, self._bands)
            weight = weight_of(one, mask)((0, 0, *canvas.size))
        stage = self.sprites.stage(canvas, opaque=True)
        return wash_planes(planes, one.finishes, weight, one.blend, stage, self._bands)

    def alone(self, canvas: Canvas, draws: Sequence[Draw]) -> Glass | None:
        """Draws put together by themselves on nothing; None if nothing is seen."""
        return together(draws, canvas, self.sprites, self._bands)

    def cover(self, canvas: Canvas, draws: Sequence[Draw]) -> np.ndarray:
        """The coverage of a canvas by draws, together: float32 (h, w), 0…1."""
        glass = self.alone(canvas, draws)
        return np.zeros(canvas.size[::-1], np.float32) if glass is None else glass.alpha_on((0, 0, *canvas.size))
