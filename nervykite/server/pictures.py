"""Pictures for the page: preview frames, mattes, strips, thumbnails; packed, and remembered by what they show."""

import struct
import threading
from collections.abc import Callable

import cv2
import numpy as np

from ..core.common.errors import Refusal
from ..core.common.kept import Kept
from ..core.draw.picture.canvas import Canvas
from ..core.draw.picture.draws import Draws, GroupDraw, SpriteDraw
from ..core.draw.picture.evaluate import Evaluation
from ..core.draw.picture.sprite import as_rgba
from ..core.kinds.sources.picture import Grid, Patch, picture_or_uncut
from ..core.piece.model import Document, GroundItem, Layer, Matte, Shot
from ..core.piece.motion.placing import flat_at
from ..core.see.footage.framing_matrix import fit_matrix
from ..core.see.footage.planes import jpeg, to_bgr
from ..core.see.footage.proxy import shrink
from ..core.see.matte.cling import Cling
from ..core.see.matte.fringe import own_colours
from ..studio import Studio
from .messages import PlacedLayer
from .quiet import Quiet

Box = tuple[int, int, int, int]
"""Left, top, width and height of a part of a picture, in pixels."""
BOX = "<4H"
"""How those four are packed."""


WIDEST = 4
"""How many times as wide as high a small picture is at most."""
PACKED_BYTES = 300_000_000
"""How much packed pictures may hold before those used least go."""


class Pictures:
    """Makes the page's pictures from a studio."""

    def __init__(self, studio: Studio, quiet: Quiet | None = None) -> None:
        self._studio, self._quiet = studio, quiet or Quiet(lambda: False)
        self._cache: Kept[bytes] = Kept(PACKED_BYTES, len)
        self._cling: tuple[object, Cling] | None = None
        self._clinging = threading.Lock()

    def frame(self, document: Document, draws: Draws, size: tuple[int, int], exact: bool = False) -> bytes:
        """A preview frame as JPEG; `exact`: of the footage itself instead of its proxies."""

        def make() -> bytes:
            planes = self._studio.renderer.render(Canvas(document, size, draft=not exact), draws)
            return jpeg(planes, 94 if exact else 88)

        return self._cache.get(("frame", draws.key, size, exact), make)

    def matte(self, matte: Matte, shot: Shot, frame: int, size: tuple[int, int]) -> tuple[Box, bytes]:
        """A frame's matte at a size (w, h): the box of what is in it, and a PNG of that: black, the matte as alpha."""

        def make() -> bytes:
            alpha = self._studio.renderer.sprites.mattes.alpha(shot, frame, matte)
            alpha = cv2.resize(alpha, size, interpolation=cv2.INTER_AREA if size[0] < shot.width else cv2.INTER_LINEAR)
            return _black(alpha)

        return _apart(self._cache.get(("matte", matte.model_dump_json(), shot.id, frame, size), make))

    def cut(self, matte: Matte, shot: Shot, frame: int, size: tuple[int, int]) -> tuple[Box, bytes]:
        """A frame's cutout at a size (w, h): the box of what is in it, and a PNG of that with straight alpha.

        Its edge is in the subject's own colours.
        """

        def make() -> bytes:
            mattes = self._studio.renderer.sprites.mattes
            alpha, picture = mattes.alpha(shot, frame, matte), mattes.picture(shot, frame)
            if size != (shot.width, shot.height):
                alpha, picture = (cv2.resize(p, size, interpolation=cv2.INTER_AREA) for p in (alpha, picture))
            own = own_colours(picture, alpha) if matte.fringe > 0 else picture
            mixed = cv2.addWeighted(own, matte.fringe, picture, 1 - matte.fringe, 0)
            return _part(np.dstack([mixed[..., ::-1], np.round(alpha * 255).astype(np.uint8)]))

        return _apart(self._cache.get(("cut", matte.model_dump_json(), shot.id, frame, size), make))

    def cling(self, document: Document, shot_id: str, frame: int, start: tuple[float, float]):
        """Lines along the edges of a source frame from a point: a function from another point to [[x, y], …]."""
        shot = document.shots.get(shot_id)
        if shot is None or not 0 <= frame < shot.frames:
            raise Refusal("That frame is no longer there. Choose another.")
        key = shot_id, frame, start
        with self._clinging:
            if self._cling is None or self._cling[0] != key:
                self._cling = key, Cling(self._studio.renderer.sprites.mattes.picture(shot, frame), *start)
            line = self._cling[1]

        def to(end: tuple[float, float]) -> list[list[float]]:
            with self._clinging:
                return line.to(*end).round(2).tolist()

        return to

    def source(self, shot: Shot, frame: int, width: int | None) -> bytes:
        """A source frame as JPEG: from the proxy when a width up to its own is asked for, else the original."""

        def make() -> bytes:
            if even:
                proxy = self._studio.library.proxy(shot).planes(frame)
                if even <= proxy.size[0]:
                    return jpeg(shrink(proxy, even, max(2, round(even * shot.height / shot.width / 2) * 2)))
            return jpeg(self._studio.library.exact(shot, frame), 94)

        # From the proxy it is never made larger than that is.
        even = None if width is None else max(2, width // 2 * 2)
        return self._cache.get(("source", shot.id, frame, even), make)

    def strip(self, shot: Shot, frames: tuple[int, ...], height: int) -> bytes:
        """Several frames of a shot side by side, as JPEG."""

        def make() -> bytes:
            proxy = self._studio.library.proxy(shot)
            width = max(2, round(height * shot.width / shot.height))
            # Of a very wide shot the middle; a JPEG has at most 65 535 pixels a side.
            shown = min(width, WIDEST * height, 65_000 // len(frames))
            left = (width - shown) // 2
            shrunk = []
            for f in frames:
                bgr = to_bgr(proxy.planes(f))
                part = slice(left * bgr.shape[1] // width, max(1, (left + shown) * bgr.shape[1] // width))
                shrunk.append(cv2.resize(bgr[:, part], (shown, height), interpolation=cv2.INTER_AREA))
            return cv2.imencode(".jpg", np.hstack(shrunk), [cv2.IMWRITE_JPEG_QUALITY, 82])[1].tobytes()

        return self._made_small(("strip", shot.id, frames, height), make)

    def drawing(self, file: str, side: int) -> bytes:
        """A stored picture with alpha, small, as PNG."""

        def make() -> bytes:
            rgba = self._studio.library.drawing(file)
            return _png(np.ascontiguousarray(rgba[..., [2, 1, 0, 3]]), side)

        return self._made_small(("drawing", file, side), make)

    def thumbnail(self, evaluation: Evaluation, layer: Layer, side: int) -> bytes:
        """The thumbnail of a layer, cropped to it, as PNG with alpha; the whole frame while there is nothing to see.

        A group is shown as it is in the middle of its time.
        """
        document, project = evaluation.document, evaluation.document.project
        scale = 480 / max(project.width, project.height)
        size = max(2, round(project.width * scale / 2) * 2), max(2, round(project.height * scale / 2) * 2)
        if layer.source.gathers:
            draws = whole_group(evaluation, layer)
            if draws is None:
                return _png(np.zeros((2, 2, 4), np.uint8), side)

            def gathered() -> bytes:
                glass = self._studio.renderer.alone(Canvas(document, size, draft=True), [draws])
                return _cropped(np.zeros((2, 2, 4), np.float32) if glass is None else glass.rgba, side)

            return self._made_small(("thumbnail", draws.key, size, side), gathered)
        frame = layer.source.shows(document, None)
        picture = picture_or_uncut(layer.source, document, frame)
        if picture is None:  # words that no ink is spent on, for example
            return _png(np.zeros((2, 2, 4), np.uint8), side)
        framing = evaluation.framing(layer)

        def make() -> bytes:
            grid = Grid(size, size[0] / project.width, framing, project.background, draft=True)
            stock = self._studio.renderer.sprites.supplies(document)
            patch = picture.cut(stock, grid, 0) or Patch(0, 0, rgba=np.zeros((2, 2, 4), np.float32))
            return _cropped(as_rgba(patch), side)

        return self._made_small(("thumbnail", picture.digest, framing, side), make)

    def _made_small(self, key: object, make: Callable[[], bytes]) -> bytes:
        """One of many small pictures, when it is its turn."""

        def in_turn() -> bytes:
            with self._quiet.small():
                return make()

        return self._cache.get(key, in_turn)

    def poster(self, evaluation: Evaluation, height: int) -> bytes:
        """A frame that stands for the piece, as JPEG."""
        project = evaluation.document.project
        frame = max((s.landing for s in evaluation.timeline.spans.values() if s), default=evaluation.length // 2)
        height = min(height, WIDEST * height * project.height // project.width) or 2
        width = max(2, round(height * project.width / project.height / 2) * 2)
        return self.frame(evaluation.document, evaluation.at(min(frame, evaluation.length - 1)), (width, height))


def whole_group(evaluation: Evaluation, group: Layer) -> SpriteDraw | GroupDraw | None:
    """The box that a group covers in the middle of its time; None if that is nothing."""
    span = evaluation.timeline.span(group)
    return None if span is None else evaluation.covering(group.id, (span.start + span.end) // 2)


def _cropped(rgba: np.ndarray, side: int) -> bytes:
    """A premultiplied picture, float (h, w, 4), as PNG, cropped to what there is to see."""
    alpha = np.clip(rgba[..., 3], 0, 1)
    straight = rgba[..., :3] / np.maximum(alpha, 1e-4)[..., None]
    bgra = np.round(255 * np.dstack([np.clip(straight[..., ::-1], 0, 1), alpha])).astype(np.uint8)
    ys, xs = np.flatnonzero(alpha.max(1) > 0.1), np.flatnonzero(alpha.max(0) > 0.1)
    return _png(bgra[ys[0] : ys[-1] + 1, xs[0] : xs[-1] + 1] if len(ys) else bgra, side)


def _png(bgra: np.ndarray, side: int) -> bytes:
    """A picture uint8 (h, w, 4) as PNG, its longer side so many pixels."""
    by = side / max(bgra.shape[:2])
    small = max(1, round(bgra.shape[1] * by)), max(1, round(bgra.shape[0] * by))
    return cv2.imencode(".png", cv2.resize(bgra, small, interpolation=cv2.INTER_AREA))[1].tobytes()


def packed_matte(alpha: np.ndarray) -> tuple[Box, bytes]:
    """The box of what is in a matte, float (h, w), 0…1, and a PNG of that: black, the matte as alpha."""
    return _apart(_black(alpha))


def _black(alpha: np.ndarray) -> bytes:
    rgba = np.zeros((*alpha.shape, 4), np.uint8)
    rgba[..., 3] = np.round(alpha * 255)
    return _part(rgba)


def _part(rgba: np.ndarray) -> bytes:
    """The part of a picture uint8 (h, w, 4) that is not all clear: its box, see `Box`, and a PNG of it.

    Most of a frame is not the subject, and would only be packed, sent, unpacked and drawn.
    """
    alpha = rgba[..., 3]
    x, y, width, height = cv2.boundingRect(alpha) if alpha.any() else (0, 0, 1, 1)
    png = cv2.imencode(".png", rgba[y : y + height, x : x + width], [cv2.IMWRITE_PNG_COMPRESSION, 1])[1].tobytes()
    return struct.pack(BOX, x, y, width, height) + png


def _apart(data: bytes) -> tuple[Box, bytes]:
    return struct.unpack_from(BOX, data), data[struct.calcsize(BOX) :]


def corners_of(evaluation: Evaluation, item: GroundItem, frame: int) -> list[list[float]]:
    """Where the corners of a ground item's picture lie, in canvas pixels, from the top left one on, clockwise."""
    document = evaluation.document
    width, height = item.source.size(document)
    framing = evaluation.framing_at(item, frame)
    matrix = fit_matrix((width, height), (document.project.width, document.project.height), framing)
    corners = np.array([[0, width, width, 0], [0, 0, height, height], [1, 1, 1, 1]])
    return (matrix @ corners)[:2].T.round(3).tolist()


def outline_of(evaluation: Evaluation, layer: Layer, frame: int) -> PlacedLayer | None:
    """Where a layer is at a frame; None where it is not to be seen."""
    span = evaluation.timeline.spans[layer.id]
    if span is None or not span.start <= frame < span.end:
        return None
    box = evaluation.box(layer, frame)
    if box is None:
        return None
    left, top, right, bottom = box
    within = evaluation.within(layer, frame)
    rest, matrix = evaluation.rest(layer), within @ evaluation.matrix(layer, frame)
    corners = np.array([[left, top, 1], [right, top, 1], [right, bottom, 1], [left, bottom, 1]]).T
    placed = matrix @ rest @ corners
    placed = placed / placed[2]
    ax, ay = evaluation.anchor(layer)
    anchor = matrix @ [ax, ay, 1]
    anchor = anchor / anchor[2]
    x, y = evaluation.keyed(layer).position(frame)
    around = flat_at(evaluation.around(layer, frame), (ax + x, ay + y))
    return PlacedLayer(
        id=layer.id,
        box=(left, top, right, bottom),
        corners=placed[:2].T.round(3).tolist(),
        anchor=anchor[:2].round(3).tolist(),
        values=evaluation.values(layer, frame),
        shows=layer.source.shows(evaluation.document, evaluation.timeline.item_at(frame), frame - span.start),
        within=around[:2, :2].ravel().round(6).tolist(),
    )
