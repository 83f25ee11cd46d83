"""A matte for a smaller picture: for what is shown at once, and soon replaced."""

from ...piece.model.matte import Matte, Node, Piece, Shape

LENGTHS = "grow", "soften_in", "soften_out"


def reduced(matte: Matte, by: float) -> Matte:
    """The same matte of a picture `by` times as large, 0…1; without its fine edge, of which nothing would be seen."""
    lengths = {name: getattr(matte, name) * by for name in (*LENGTHS, "smooth")}
    pieces = [_piece(p, by) for p in matte.pieces]
    return matte.model_copy(update={"pieces": pieces, "fine_edge": 0.0, **lengths})


def _piece(piece: Piece, by: float) -> Piece:
    update: dict = {name: getattr(piece, name) * by for name in LENGTHS}
    if isinstance(piece, Shape):
        update["nodes"] = [_node(n, by) for n in piece.nodes]
    return piece.model_copy(update=update)


def _node(node: Node, by: float) -> Node:
    (ax, ay), (lx, ly) = node.arrive, node.leave
    place = {"x": node.x * by, "y": node.y * by, "arrive": (ax * by, ay * by), "leave": (lx * by, ly * by)}
    return node.model_copy(update=place)
