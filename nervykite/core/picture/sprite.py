"""Making sprites: matte, finishes, colours, in canvas pixels at rest."""

import cv2
import numpy as np

from ..finishes.registry import cutout_finish
from ..footage import planes as colour
from ..footage.library import Library, fit_matrix, place
from ..footage.planes import Planes
from ..matte.fringe import own_colours
from ..model import Document
from .draw import FULL, Sprite, pack
from .evaluate import SpriteSpec
from .mattes import Mattes

RIM = 2


def canvas_alpha(spec: SpriteSpec, document: Document, mattes: Mattes, size: tuple[int, int]) -> np.ndarray:
    """The matte on a canvas of the given size (w, h): float32 (h, w), 0…1.

    It is made at source size and resampled, so that it does not depend on the size it is looked at.
    """
    shot = document.shots[spec.shot]
    alpha = mattes.alpha(shot, spec.frame, spec.matte)
    if (shot.width, shot.height) == size:
        return alpha
    empty = None if spec.fit == "cover" else 0
    return place(alpha, fit_matrix((shot.width, shot.height), size, spec.fit), size, empty)


def make_sprite(
    spec: SpriteSpec,
    document: Document,
    library: Library,
    mattes: Mattes,
    size: tuple[int, int],
    scale: float,
    draft: bool,
) -> Sprite | None:
    """The sprite of a spec on a canvas of the given even size (w, h), `scale` of the project's; None if empty.

    Without finishes the colours are the footage's own planes, bit for bit, but for a cleaned fringe.
    """
    alpha = canvas_alpha(spec, document, mattes, size)
    rows, columns = np.flatnonzero(alpha.max(1) > 0.002), np.flatnonzero(alpha.max(0) > 0.002)
    if not len(rows) or not len(columns):
        return None
    shot = document.shots[spec.shot]
    background = document.project.background
    if spec.plate is not None:
        picture = library.plate_at_size(spec.plate, size, spec.fit, background)
    else:
        picture = library.at_size(shot, spec.frame, size, spec.fit, background, draft)
    finishes = [cutout_finish(f) for f in spec.finishes]
    margin = sum(finish.reach(settings) * scale for finish, settings in finishes)
    pad = int(np.ceil(margin)) + RIM
    left, top = (int(rows_or[0]) - pad for rows_or in (columns, rows))
    left, top = left - left % 2, top - top % 2
    right, bottom = int(columns[-1]) + 1 + pad, int(rows[-1]) + 1 + pad
    right, bottom = right + (right - left) % 2, bottom + (bottom - top) % 2
    box = left, top, right, bottom
    cut = _crop(alpha, box, cv2.BORDER_CONSTANT)
    chroma_box = left // 2, top // 2, right // 2, bottom // 2
    part = Planes(
        _crop(picture.y, box, cv2.BORDER_REPLICATE),
        _crop(picture.u, chroma_box, cv2.BORDER_REPLICATE),
        _crop(picture.v, chroma_box, cv2.BORDER_REPLICATE),
    )
    if spec.matte.fringe > 0:
        part = cleaned(part, cut, spec.matte.fringe)
    if not finishes:
        return _pack(left, top, part, cut)
    rgba = np.dstack([colour.to_bgr(part)[..., ::-1].astype(np.float32) / 255, cut])
    rgba[..., :3] *= rgba[..., 3:]
    for finish, settings in finishes:
        rgba = finish.apply(rgba, settings, scale)
    return pack_rgba(left, top, rgba)


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
    """A sprite from premultiplied R'G'B'A: float32 (h, w, 4), even sides."""
    alpha = np.clip(rgba[..., 3], 0, 1)
    rgb = np.clip(rgba[..., :3] / np.maximum(alpha, 1e-4)[..., None], 0, 1)
    # Chroma is averaged premultiplied: colours beyond the edge must not bleed into it.
    h, w = alpha.shape
    share = alpha.reshape(h // 2, 2, w // 2, 2)
    mean = (rgb * alpha[..., None]).reshape(h // 2, 2, w // 2, 2, 3).sum((1, 3))
    mean /= np.maximum(share.sum((1, 3)), 1e-4)[..., None]
    luma = colour.from_rgb(rgb)
    chroma = colour.from_rgb(np.repeat(np.repeat(mean, 2, 0), 2, 1))
    return _pack(left, top, Planes(luma.y, chroma.u, chroma.v), alpha)


def _pack(left: int, top: int, part: Planes, alpha: np.ndarray) -> Sprite:
    h, w = alpha.shape
    cover = np.round(alpha * FULL).astype(np.uint16)
    half = np.round(alpha.reshape(h // 2, 2, w // 2, 2).mean((1, 3)) * FULL).astype(np.uint16)
    return Sprite(left, top, pack(part.y, cover), pack(part.u, half), pack(part.v, half))


def _crop(plane: np.ndarray, box: tuple[int, int, int, int], border: int) -> np.ndarray:
    left, top, right, bottom = box
    h, w = plane.shape[:2]
    inside = plane[max(0, top) : min(h, bottom), max(0, left) : min(w, right)]
    over = max(0, -top), max(0, bottom - h), max(0, -left), max(0, right - w)
    return cv2.copyMakeBorder(inside, *over, border) if any(over) else np.ascontiguousarray(inside)
