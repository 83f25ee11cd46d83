"""The ground under all layers, as planes."""

import cv2

from ...common.colour import rgb_of
from ...common.kept import Kept
from ...kinds.sources.picture import Patch
from ...piece.model import Framing
from ...see.footage.library import Library
from ...see.footage.planes import Planes
from .canvas import Canvas
from .draws import Draws, SpriteSpec
from .finish_stages import dressed
from .material import Stock
from .opened import closed, opened
from .smear import shaken
from .sprites import Sprites, on_canvas

STILL_GROUNDS = 4
"""How many dressed grounds are kept: while one stands still it is made once."""


class Grounds:
    """Grounds, read from a library in order."""

    def __init__(self, library: Library, sprites: Sprites) -> None:
        self._library, self._sprites = library, sprites
        self._kept: Kept[Planes] = Kept(STILL_GROUNDS)

    def planes(self, canvas: Canvas, draws: Draws) -> Planes:
        """The ground of some draws, to be drawn on if they have layers."""
        if draws.ground is None:
            stock = Stock(canvas.document, self._library, self._sprites.mattes)
            return stock.over_background(None, canvas.grid(Framing(), draws.background))
        own = bool(draws.layers) and draws.leaving is None and not draws.shaken
        planes = self._lying(canvas, draws.ground, draws.background)
        if draws.leaving is not None:
            planes = faded(planes, self._lying(canvas, draws.leaving[0], draws.background), draws.leaving[1])
        if draws.shaken:
            return shaken(planes, [on_canvas(m, canvas.scale, 1) for m in draws.shaken])
        return planes.copy() if own else planes

    def _lying(self, canvas: Canvas, ground: SpriteSpec, background: str) -> Planes:
        """An item as it lies, with its finishes; kept by others, so not to be drawn on."""
        stock = Stock(canvas.document, self._library, self._sprites.mattes)
        grid = canvas.grid(ground.framing, background)
        if not ground.finishes:
            return ground.picture.opaque(stock, grid)

        def make() -> Planes:
            stage = self._sprites.stage(canvas, opaque=True)
            patch = dressed(Patch(0, 0, rgba=opened(ground.picture.opaque(stock, grid))), ground.finishes, stage)
            assert patch.rgba is not None
            return closed(patch.rgba, rgb_of(background))

        return self._kept.get((ground.digest, grid), make)


def faded(planes: Planes, other: Planes, share: float) -> Planes:
    """A picture with another one over it that covers a share of it, 0…1."""
    pairs = ((planes.y, other.y), (planes.u, other.u), (planes.v, other.v))
    return Planes(*(cv2.addWeighted(a, 1 - share, b, share, 0) for a, b in pairs))
