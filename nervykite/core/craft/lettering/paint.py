"""Letters, and outlines of other things, painted: depth below, lines around them, the outermost first, then what fills
them, all premultiplied.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
import skia

from ...common.colour import rgb_of
from ..finishing.compositing import flat, lay_on, over
from .layout import Box, Laid, Letter

Lines = tuple[tuple[float, str], ...]
"""Lines around letters from the innermost out: how wide, in pixels of the canvas, and of which colour."""


@dataclass(frozen=True)
class LetterStyle:
    """The style of letters.

    `fill` is one colour or two, which go over from one to the other along `angle`, in degrees, across all of it; None
    leaves them hollow. `depth` is how far they reach back, in pixels of the canvas, towards `towards`, in degrees, in
    one colour or going over into another. `sharp`: lines have corners as letters have, else they are round.
    """

    fill: tuple[str, ...] | None = ("#FFFFFF",)
    angle: float = 90.0
    lines: Lines = ()
    sharp: bool = False
    depth: float = 0.0
    towards: float = 60.0
    side: tuple[str, ...] = ("#7A2413",)

    @property
    def reach(self) -> tuple[float, float, float, float]:
        """The reach beyond the outlines: to the left, up, to the right, down."""
        around = sum(w for w, _ in self.lines) * (1.6 if self.sharp else 1)
        x, y = (self.depth * f(math.radians(self.towards)) for f in (math.cos, math.sin))
        return around + max(0, -x), around + max(0, -y), around + max(0, x), around + max(0, y)


def painted(
    laid: Laid,
    look: LetterStyle,
    matrix: np.ndarray,
    box: tuple[int, int, int, int],
    across: Box | None = None,
    picture: np.ndarray | None = None,
) -> np.ndarray:
    """Letters in a box of a grid: premultiplied R'G'B'A, float32 (h, w, 4).

    matrix: pixels of the canvas, from the middle of the letters, to those of the grid, 3×3
    across: where a gradient goes from end to end, and what a picture covers, if that is not the box around them
    picture: what they are filled with instead, straight R'G'B'A, uint8 (h, w, 4)
    """
    shape = box[3] - box[1], box[2] - box[0]
    scale = math.sqrt(abs(np.linalg.det(matrix[:2, :2])))
    to = skia.Matrix.MakeAll(
        *(float(v) for v in (np.array([[1, 0, -box[0]], [0, 1, -box[1]], [0, 0, 1]]) @ matrix).ravel())
    )
    hollow = look.fill is None
    whole = tuple(replace(x, drawn=1.0) for x in laid.letters) if hollow else laid.letters
    bodies = _mask(whole, to, shape, 0, look.sharp, hollow)
    wide = sum(w for w, _ in look.lines)
    out = np.zeros((*shape, 4), np.float32)
    for width, colour in reversed(look.lines):
        mask = _mask(laid.letters, to, shape, wide, look.sharp, hollow)
        if hollow:
            mask = mask * (1 - bodies)
        # A line thinner than a pixel is fainter, not as thick as one.
        lay_on(out, mask * np.float32(min(1.0, 2 * width * scale)), colour)
        wide -= width
    if picture is not None and not hollow:
        out = over(_pictured(bodies, picture, across or laid.box, matrix, box), out)
    elif look.fill is not None and len(look.fill) == 1:
        lay_on(out, bodies, look.fill[0])
    elif look.fill is not None:
        out = over(_filled(bodies, look.fill, look.angle, across or laid.box, matrix, box), out)
    for colour in dict.fromkeys(x.colour for x in laid.letters if x.colour is not None and not hollow):
        lay_on(out, _mask([x for x in laid.letters if x.colour == colour], to, shape, 0, look.sharp, hollow), colour)
    if look.depth * scale > 0.3:
        out = over(out, _deep(out[..., 3], look, matrix))
    return out


def _mask(
    letters: Sequence[Letter], to: skia.Matrix, shape: tuple[int, int], wide: float, sharp: bool, hollow: bool
) -> np.ndarray:
    """The coverage of letters, so much wider all around: float32 (h, w), 0…1."""
    pixels = np.zeros(shape, np.uint8)
    info = skia.ImageInfo.MakeA8(shape[1], shape[0])
    surface = skia.Surface.MakeRasterDirect(info, pixels, pixels.strides[0])
    canvas = surface.getCanvas()
    canvas.concat(to)
    paint = skia.Paint(AntiAlias=True, Color=skia.ColorWHITE)
    if wide:
        paint.setStyle(skia.Paint.kStrokeAndFill_Style)
        paint.setStrokeWidth(2 * wide)
        paint.setStrokeJoin(skia.Paint.kMiter_Join if sharp else skia.Paint.kRound_Join)
        paint.setStrokeMiter(3.0)
    for letter in letters:
        if letter.drawn < 1 or letter.shown < 1:
            canvas.drawPath(letter.path, _unfinished(letter, paint, wide, _pen(wide, to), hollow))
        else:
            canvas.drawPath(letter.path, paint)
    surface.flushAndSubmit()
    return pixels.astype(np.float32) * np.float32(1 / 255)


def _pen(wide: float, to: skia.Matrix) -> float:
    """The thickness of the line that outlines are drawn with: as it is, or at least as broad as can be seen."""
    return max(2 * wide, 2.5 / max(to.getScaleX(), 0.05) if to.getScaleX() > 0 else 2.5)


def _unfinished(letter: Letter, paint: skia.Paint, wide: float, pen: float, hollow: bool) -> skia.Paint:
    """The paint for a letter that has not come in wholly: fainter, or only as much of its outline as is drawn."""
    own = skia.Paint(paint)
    own.setAlphaf(letter.shown)
    if letter.drawn < 1:
        # First the outline is drawn, then what is within it comes up, if anything does.
        line = letter.drawn if hollow else min(1.0, 1.5 * letter.drawn)
        inside = max(0.0, 3 * letter.drawn - 2)
        if wide or not inside:
            own.setStyle(skia.Paint.kStroke_Style)
            own.setStrokeWidth(pen)
            if line < 1:
                own.setPathEffect(skia.TrimPathEffect.Make(0.0, line))
        else:
            own.setAlphaf(inside)
    return own


def _pictured(
    mask: np.ndarray, picture: np.ndarray, around: Box | None, matrix: np.ndarray, box: tuple[int, int, int, int]
) -> np.ndarray:
    """A picture, as large as covers a box of the canvas, where a mask is: premultiplied, float32 (h, w, 4)."""
    left, top, right, bottom = around or (0.0, 0.0, 1.0, 1.0)
    high, wide = picture.shape[:2]
    by = max((right - left) / wide, (bottom - top) / high)
    there = np.array([[by, 0, (left + right - by * wide) / 2], [0, by, (top + bottom - by * high) / 2], [0, 0, 1.0]])
    whole: np.ndarray = np.array([[1, 0, -box[0]], [0, 1, -box[1]], [0, 0, 1.0]]) @ matrix @ there
    scale = math.sqrt(abs(np.linalg.det(whole[:2, :2])))
    rgba: np.ndarray = picture.astype(np.float32) / 255
    rgba[..., :3] *= rgba[..., 3:]
    if scale < 0.7:
        # Pixels that are too fine are averaged first.
        size = max(1, round(wide * scale)), max(1, round(high * scale))
        rgba = cv2.resize(rgba, size, interpolation=cv2.INTER_AREA)
        whole = whole @ np.diag([wide / size[0], high / size[1], 1])
    half = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1]])
    whole = np.linalg.inv(half) @ whole @ half
    shown = cv2.warpAffine(
        rgba, whole[:2], mask.shape[::-1], flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT_101
    )  # fmt: skip
    return shown * mask[..., None]


def _filled(
    mask: np.ndarray, colours: tuple[str, ...], angle: float, around: Box | None, matrix: np.ndarray,
    box: tuple[int, int, int, int],
) -> np.ndarray:  # fmt: skip
    if around is None:
        return flat(mask, colours[0])
    from ..finishing.compiled.fields_kernels import gradient

    # How far each pixel lies along the way across the letters, as they lie before the grid turns them.
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    left, top, right, bottom = around
    span = max(1.0, abs((right - left) * c) + abs((bottom - top) * s))
    turned = np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]])
    middle = np.array([[1, 0, -(left + right) / 2], [0, 1, -(top + bottom) / 2], [0, 0, 1]])
    pixel = np.array([[1, 0, box[0] + 0.5], [0, 1, box[1] + 0.5], [0, 0, 1]])
    plane = turned @ middle @ np.linalg.inv(matrix) @ pixel
    along = np.empty(mask.shape, np.float32)
    gradient(np.ascontiguousarray(plane[:2], np.float32), 0, np.float32(span), np.float32(0), along)
    return ramped(mask, colours, along)


def ramped(mask: np.ndarray, colours: tuple[str, ...], along: np.ndarray) -> np.ndarray:
    """Colours that go over into each other as a share, float32 (h, w), says, as opaque as a mask: (h, w, 4)."""
    from ..finishing.compiled.fields_kernels import coloured

    out = np.empty((*mask.shape, 4), np.float32)
    solid = np.array([(*rgb_of(c), 1.0) for c in colours], np.float32)
    coloured(np.ascontiguousarray(along, np.float32).ravel(), solid, out.reshape(-1, 4))
    return np.multiply(out, mask[..., None], out=out)


def _deep(mask: np.ndarray, look: LetterStyle, matrix: np.ndarray) -> np.ndarray:
    """The depth behind letters, as far back as it goes: all places that a mask passes on the way, nearest on top."""
    way = matrix[:2, :2] @ [look.depth * f(math.radians(look.towards)) for f in (math.cos, math.sin)]
    steps = max(1, math.ceil(math.hypot(*way) / 0.75))
    size = mask.shape[::-1]
    cover, far = mask.copy(), np.zeros_like(mask)
    step = 1
    # By doubling: what covers a way of n steps, and the same n steps on, covers one of 2n.
    while step < steps + 1:
        by = way * (min(step, steps + 1 - step) / steps)
        shift = np.array([[1, 0, by[0]], [0, 1, by[1]]])
        moved = cv2.warpAffine(cover, shift, size, flags=cv2.INTER_LINEAR)
        later = cv2.warpAffine(far, shift, size, flags=cv2.INTER_LINEAR) + np.float32(math.hypot(*by))
        # What shows of a place is what is nearest there.
        far = np.where(cover >= 0.5, far, np.where(moved >= 0.5, later, far))
        cover = np.maximum(cover, moved)
        step *= 2
    if len(look.side) == 1:
        return flat(cover, look.side[0])
    return ramped(cover, look.side, far / max(1.0, math.hypot(*way)))
