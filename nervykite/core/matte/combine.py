"""Pieces, in order, to one alpha."""

import math

import cv2
import numpy as np

from ..model import Matte, Piece
from . import path
from .coverage import coverage


def piece_alpha(piece: Piece, height: int, width: int) -> np.ndarray:
    """One piece's own alpha: float32 (height, width), 0…1."""
    alpha = coverage(path.flatten(piece.nodes), height, width)
    if piece.invert:
        alpha = 1 - alpha
    return alpha * np.float32(piece.opacity)


def matte_alpha(matte: Matte, height: int, width: int) -> np.ndarray:
    """The matte of a frame of the given size: float32 (height, width), 0…1.

    Pieces join in order: *add* keeps the larger, *overlap* the smaller, *cut away* takes the piece's alpha off,
    so that a piece cut away from itself leaves nothing. Then the whole is inverted, grown, softened, clamped.
    """
    alpha = np.zeros((height, width), np.float32)
    for piece in matte.pieces:
        if not piece.visible:
            continue
        own = piece_alpha(piece, height, width)
        if piece.combine == "add":
            np.maximum(alpha, own, out=alpha)
        elif piece.combine == "overlap":
            np.minimum(alpha, own, out=alpha)
        else:
            np.maximum(alpha - own, 0, out=alpha)
    if matte.invert:
        alpha = 1 - alpha
    return np.clip(soften(grow(alpha, matte.grow), matte.soften), 0, 1)


def grow(alpha: np.ndarray, by: float) -> np.ndarray:
    """The alpha (h, w) with its edge moved outwards by `by` pixels (inwards if negative).

    Grey dilation with a disc (Serra 1982) moves every level of a soft edge alike; parts of a pixel are a
    mixture of the two nearest whole discs.
    """
    if by == 0:
        return alpha
    move = cv2.dilate if by > 0 else cv2.erode
    whole, part = divmod(abs(by), 1)

    def disc(radius: int) -> np.ndarray:
        if radius == 0:
            return alpha
        y, x = np.mgrid[-radius : radius + 1, -radius : radius + 1]
        kernel = (x * x + y * y <= (radius + 0.25) ** 2).astype(np.uint8)
        return move(alpha, kernel, borderType=cv2.BORDER_REPLICATE)

    result = disc(int(whole))
    return result if part == 0 else result * np.float32(1 - part) + disc(int(whole) + 1) * np.float32(part)


def soften(alpha: np.ndarray, by: float) -> np.ndarray:
    """The alpha (h, w) with its edge blurred over about `by` pixels (a Gaussian of by/3)."""
    if by <= 0:
        return alpha
    sigma = by / 3
    side = 2 * math.ceil(3 * sigma) + 1
    return cv2.GaussianBlur(alpha, (side, side), sigma, borderType=cv2.BORDER_REPLICATE)


def bounds(matte: Matte) -> tuple[float, float, float, float] | None:
    """Left, top, right, bottom of the pieces that add, in source pixels; None without any."""
    boxes = [path.bounds(p.nodes) for p in matte.pieces if p.visible and p.combine == "add"]
    if not boxes:
        return None
    lefts, tops, rights, bottoms = zip(*boxes, strict=True)
    return min(lefts), min(tops), max(rights), max(bottoms)
