"""Things to be laid onto a canvas: sprites where they go, sprites in motion, groups put together, and masks."""

from collections.abc import Callable, Sequence

import numpy as np

from ...kinds.sources.picture import Patch
from .bands import Bands
from .canvas import Canvas
from .draw import PlacedSprite
from .draws import Draw, GroupDraw, SpriteDraw, WashDraw
from .finish_stages import dressed
from .glass import Box, Glass, On, put_together
from .smear import Smear, smeared
from .sprites import Sprites, level_of, on_canvas
from .washing import wash_glass, weights

Thing = PlacedSprite | Smear | Glass


def thing_of(one: SpriteDraw | GroupDraw, canvas: Canvas, sprites: Sprites, bands: Bands) -> Thing | None:
    """A draw's sprite, where it goes; or what it is in motion; or a group, put together. None if nothing is seen."""
    if isinstance(one, GroupDraw):
        return group(one, canvas, sprites, bands)
    lies = sprites.placed(canvas, one)
    if lies is None or not one.moves:
        return lies
    level = level_of(one, canvas)
    return smeared(lies, [on_canvas(m, canvas.scale, level) for m in one.moves], canvas.size)


def group(one: GroupDraw, canvas: Canvas, sprites: Sprites, bands: Bands) -> Glass | None:
    """A group's members on nothing, with its finishes on."""
    if not one.finishes:
        return together(one.draws, canvas, sprites, bands)
    key = "group", one.inside, *canvas.key
    kept = sprites.stages.peek(key)
    if kept is None:
        glass = together(one.draws, canvas, sprites, bands)
        if glass is None:
            return None
        patch = Patch(glass.left, glass.top, rgba=glass.rgba)
        kept = sprites.stages[key] = dressed(patch, one.finishes, sprites.stage(canvas))
    assert kept.rgba is not None
    return Glass(kept.left, kept.top, kept.rgba)


def together(draws: Sequence[Draw], canvas: Canvas, sprites: Sprites, bands: Bands) -> Glass | None:
    """Draws on nothing, from the farthest to the nearest; a wash among them works on those below it."""
    ons: list[On] = []
    for one in draws:
        if isinstance(one, WashDraw):
            below = put_together(ons, canvas.size, bands)
            if below is not None:
                weigh = weight_of(one, mask_of(one, canvas, sprites, bands))
                below = wash_glass(below, one.finishes, weigh, one.blend, sprites.stage(canvas))
            ons = [] if below is None else [On(below)]
            continue
        thing = thing_of(one, canvas, sprites, bands)
        if isinstance(thing, Smear):
            ons.append(On(thing.glass(), one.blend, 1.0))
        elif thing is not None:
            ons.append(On(thing, one.blend, one.opacity))
    return put_together(ons, canvas.size, bands)


def mask_of(wash: WashDraw, canvas: Canvas, sprites: Sprites, bands: Bands) -> Glass | None:
    """The mask that limits a wash, on the canvas; None if it has none, or none that is seen."""
    thing = thing_of(wash.mask, canvas, sprites, bands) if wash.mask is not None else None
    if isinstance(thing, Smear):
        return thing.glass()
    return put_together([On(thing)], canvas.size, bands) if isinstance(thing, PlacedSprite) else thing


def weight_of(wash: WashDraw, within: Glass | None) -> Callable[[Box], np.ndarray]:
    """The function that says how much of a wash there is in a box of the canvas, float32 (h, w), 0…1, by its mask."""
    # Without a mask it is outside of nothing.
    outside = wash.outside or wash.mask is None
    return lambda box: weights(within, box, wash.opacity, outside)
