"""Where a matte's pieces lie."""

from ...piece.model.matte import Found, Matte, Shape
from . import pen_path


def bounds(matte: Matte) -> tuple[float, float, float, float] | None:
    """Left, top, right, bottom of the pieces that add, in source pixels; None without any."""
    boxes = [piece_bounds(p) for p in matte.pieces if p.visible and p.combine == "add"]
    if not boxes:
        return None
    lefts, tops, rights, bottoms = zip(*boxes, strict=True)
    return min(lefts), min(tops), max(rights), max(bottoms)


def piece_bounds(piece: Shape | Found) -> tuple[float, float, float, float]:
    """Left, top, right, bottom of a piece, in source pixels."""
    if isinstance(piece, Shape):
        return pen_path.bounds(piece.nodes)
    left, top, right, bottom = piece.raster.box
    return left, top, right, bottom
