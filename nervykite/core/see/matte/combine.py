"""Pieces, in order, to one alpha."""

import math
from collections.abc import Callable

import cv2
import numpy as np

from ...piece.model.matte import Matte, Piece, Shape
from . import pen_path
from .coverage import coverage
from .fine import fine_edge

AlphaOf = Callable[[str], np.ndarray]
"""Stored alpha by the hash of its file: uint8 (height, width)."""

DISC = 4
"""The largest disc, in pixels, that is taken in one go: a large one is the sum of small ones, and those are quick."""
UNSEEN = 0.01
"""Pixels of softness or smoothness that change nothing."""


def piece_alpha(piece: Piece, height: int, width: int, alpha_of: AlphaOf | None = None) -> np.ndarray:
    """One piece's own alpha: float32 (height, width), 0…1. Pieces that were found need `alpha_of`."""
    if isinstance(piece, Shape):
        alpha = coverage(pen_path.flatten(piece.nodes), height, width)
    else:
        if alpha_of is None:
            raise ValueError("a piece that was found needs its stored alpha")
        alpha = alpha_of(piece.raster.file).astype(np.float32) / 255
        if alpha.shape != (height, width):  # from a shot of another size
            alpha = cv2.resize(alpha, (width, height), interpolation=cv2.INTER_LINEAR)
    if piece.invert:
        alpha = 1 - alpha
    alpha = soften(grow(alpha, piece.grow), piece.soften_in, piece.soften_out)
    return alpha * np.float32(piece.opacity)


def matte_alpha(
    matte: Matte, height: int, width: int, alpha_of: AlphaOf | None = None, picture: np.ndarray | None = None
) -> np.ndarray:
    """The matte of a frame of the given size: float32 (height, width), 0…1.

    Pieces join in order: *add* keeps the larger, *overlap* the smaller, *cut away* takes the piece's alpha off,
    so that a piece cut away from itself leaves nothing. Then the whole gets its fine edge, is inverted, smoothed,
    grown, softened, clamped. The fine edge goes by the frame itself, uint8 RGB (height, width, 3).
    """
    alpha = np.zeros((height, width), np.float32)
    for piece in matte.pieces:
        if not piece.visible:
            continue
        own = piece_alpha(piece, height, width, alpha_of)
        if piece.combine == "add":
            np.maximum(alpha, own, out=alpha)
        elif piece.combine == "overlap":
            np.minimum(alpha, own, out=alpha)
        else:
            np.maximum(alpha - own, 0, out=alpha)
    if matte.fine_edge > 0 and picture is not None:
        alpha = fine_edge(picture, alpha, matte.fine_edge)
    if matte.invert:
        alpha = 1 - alpha
    alpha = grow(smooth(alpha, matte.smooth), matte.grow)
    return np.clip(soften(alpha, matte.soften_in, matte.soften_out), 0, 1)


def grow(alpha: np.ndarray, by: float) -> np.ndarray:
    """The alpha (h, w) with its edge moved outwards by `by` pixels (inwards if negative).

    Grey dilation with a disc (Serra 1982) moves every level of a soft edge alike; parts of a pixel are a
    mixture of the two nearest whole discs. A large disc is the Minkowski sum of smaller ones.
    """
    if by == 0:
        return alpha
    move = cv2.dilate if by > 0 else cv2.erode
    whole, part = divmod(abs(by), 1)

    def disc(picture: np.ndarray, radius: int) -> np.ndarray:
        y, x = np.mgrid[-radius : radius + 1, -radius : radius + 1]
        kernel = (x * x + y * y <= (radius + 0.25) ** 2).astype(np.uint8)
        return move(picture, kernel, borderType=cv2.BORDER_REPLICATE)

    result = alpha
    for _ in range(int(whole) // DISC):
        result = disc(result, DISC)
    if int(whole) % DISC:
        result = disc(result, int(whole) % DISC)
    return result if part == 0 else result * np.float32(1 - part) + disc(result, 1) * np.float32(part)


def soften(alpha: np.ndarray, inside: float, outside: float) -> np.ndarray:
    """The alpha (h, w) with its edge spread over `inside` pixels inwards and `outside` pixels outwards, about.

    A Gaussian around the middle of that stretch, a third of whose half it is wide.
    """
    if inside + outside < UNSEEN:
        return alpha
    middle = (outside - inside) / 2
    moved = grow(alpha, round(middle * 4) / 4)
    sigma = (inside + outside) / 6
    side = 2 * math.ceil(3 * sigma) + 1
    return cv2.GaussianBlur(moved, (side, side), sigma, borderType=cv2.BORDER_REPLICATE)


def smooth(alpha: np.ndarray, by: float) -> np.ndarray:
    """The alpha (h, w) with an outline that no longer follows bends narrower than about `by` pixels.

    The outline of a Gaussian of by/2 (curvature flow after Merriman, Bence and Osher 1994), as crisp as a pixel
    allows; an edge that was wider than that is as wide afterwards.
    """
    if by < UNSEEN:
        return alpha
    sigma = by / 2
    soft = cv2.GaussianBlur(alpha, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE)
    crisp = np.clip((soft - 0.5) * np.float32(math.sqrt(2 * math.pi) * max(sigma, 0.4)) + 0.5, 0, 1)
    partial = ((alpha > 0.02) & (alpha < 0.98)).astype(np.float32)
    wide = np.clip(cv2.boxFilter(partial, -1, (7, 7)) * 7 - 2.5, 0, 1)  # a hard edge fills about 1.5 of 7 rows
    return crisp * (1 - wide) + soft * wide
