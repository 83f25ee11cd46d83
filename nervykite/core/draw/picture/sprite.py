"""Making sprites: a patch of pixels, its finishes, packed for drawing."""

import numpy as np
from numba import njit

from ...kinds.sources.picture import Grid, Material, Patch
from ...piece.model.finish import Stage
from ...see.footage import planes as colour
from ...see.footage.planes import Planes
from ...see.matte.fringe import own_colours
from .draw import FULL, Sprite, pack
from .draws import SpriteSpec
from .finish_stages import Stages, dressed
from .opened import opened, packed_light, packed_planes


def make_sprite(spec: SpriteSpec, material: Material, grid: Grid, stages: Stages | None = None) -> Sprite | None:
    """The sprite of a spec on a grid; None if there is nothing to see. `stages` keeps what is between its finishes.

    Without finishes the colours are the footage's own planes, bit for bit, but for a cleaned fringe.
    """
    if not spec.finishes:
        patch = spec.picture.cut(material, grid, 0)
        return None if patch is None else packed(without_fringe(patch))
    key = "cut", spec.picture.digest, grid
    patch = stages.peek(key) if stages is not None else None
    if patch is None:
        patch = spec.picture.cut(material, grid, 0)
        if patch is None:
            return None
        patch = Patch(patch.left, patch.top, rgba=as_rgba(without_fringe(patch)))
        if stages is not None:
            stages[key] = patch
    stage = Stage(grid.scale, canvas=grid.size, supplies=material)
    return packed(dressed(patch, spec.finishes, stage, stages, key))


def without_fringe(patch: Patch) -> Patch:
    """The patch with the subject's own colours at its edge, as much as it asks for."""
    if patch.fringe <= 0 or patch.planes is None or patch.alpha is None:
        return patch
    return Patch(patch.left, patch.top, cleaned(patch.planes, patch.alpha, patch.fringe), patch.alpha)


def as_rgba(patch: Patch) -> np.ndarray:
    """A patch as premultiplied R'G'B'A: float32 (h, w, 4)."""
    if patch.rgba is not None:
        return patch.rgba
    assert patch.planes is not None
    assert patch.alpha is not None
    return opened(patch.planes, patch.alpha)


def packed(patch: Patch) -> Sprite:
    """A patch ready to be drawn."""
    if patch.rgba is not None:
        return pack_rgba(patch.left, patch.top, patch.rgba)
    assert patch.planes is not None
    assert patch.alpha is not None
    return _pack(patch.left, patch.top, patch.planes, patch.alpha)


def cleaned(part: Planes, alpha: np.ndarray, share: float) -> Planes:
    """A cutout's picture with the subject's own colours where alpha (h, w) is partial, to `share`, 0…1.

    Where the subject covers all of a pixel, and of its neighbours in the same chroma sample, nothing changes.
    """
    rgb = np.ascontiguousarray(colour.to_bgr(part)[..., ::-1])
    own = colour.from_rgb(own_colours(rgb, alpha).astype(np.float32) / 255)
    h, w = alpha.shape
    whole = alpha.reshape(h // 2, 2, w // 2, 2).min((1, 3)) >= 0.998

    def mixed(before: np.ndarray, after: np.ndarray, keep: np.ndarray) -> np.ndarray:
        mix = np.round(before + np.float32(share) * (after.astype(np.float32) - before)).astype(np.uint8)
        return np.where(keep, before, mix)

    return Planes(mixed(part.y, own.y, alpha >= 0.998), mixed(part.u, own.u, whole), mixed(part.v, own.v, whole))


def pack_rgba(left: int, top: int, rgba: np.ndarray) -> Sprite:
    """A sprite from premultiplied R'G'B'A: float32 (h, w, 4), even sides. Colour beyond alpha is light, and is kept."""
    rgba = np.ascontiguousarray(rgba, np.float32)
    if _has_light(rgba):
        return Sprite(left, top, *packed_light(rgba), light=True)
    return Sprite(left, top, *packed_planes(rgba, left, top))


@njit(cache=True, nogil=True)
def _has_light(rgba):
    """True if any colour exceeds what is covered by more than what a screen can show."""
    more = np.float32(1 / 255)
    for r in range(rgba.shape[0]):
        for c in range(rgba.shape[1]):
            p = rgba[r, c]
            # What covers all may be a little brighter than white: that is how footage comes.
            if p[3] < np.float32(0.999) and max(p[0], max(p[1], p[2])) > p[3] + more + np.float32(0.1) * p[3]:
                return True
    return False


def _pack(left: int, top: int, part: Planes, alpha: np.ndarray) -> Sprite:
    h, w = alpha.shape
    cover = np.round(alpha * FULL).astype(np.uint16)
    half = np.round(alpha.reshape(h // 2, 2, w // 2, 2).mean((1, 3)) * FULL).astype(np.uint16)
    return Sprite(left, top, pack(part.y, cover), pack(part.u, half), pack(part.v, half))
