"""Compositing the ground and five moving, turned, scaled cutouts; against NumPy's float over of the same layers."""

from time import perf_counter

import cv2
import numpy as np

from nervykite.core.change.edits import MakeGroup, SetValue
from nervykite.core.draw.picture.bands import Bands
from nervykite.core.draw.picture.blending import blend
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.draw import FULL, PlacedSprite, draw
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.picture.sprite import pack_rgba
from nervykite.core.piece.model import Document, Framing
from nervykite.core.piece.model.blend import BlendMode
from nervykite.core.see.footage.planes import to_bgr

from . import Result
from .material import median_ms, studio_with, with_cutouts

REPEATS = 40


def measure() -> Result:
    """Milliseconds a frame at two sizes; the ratio is the baseline's time over ours, at 540×960."""
    figures: dict = {}
    speedups = {}
    with studio_with(30) as (studio, project, _path):
        document = with_cutouts(studio, project)
        evaluation = Evaluation(document)
        for size in ((540, 960), (1080, 1920)):
            scale = size[0] / document.project.width
            draft = size[0] < 1080
            draws = [evaluation.at(f) for f in range(8, 28)]
            canvas = Canvas(document, size, draft)
            sprites = [studio.renderer.sprites.sprite(canvas, x.sprite) for x in draws[0].layers]
            (shot,) = document.shots.values()
            ground = studio.library.at_size(shot, 12, size, Framing(), "#000000", draft)

            def matrices(draw_, scale=scale):
                for layer in draw_.layers:
                    matrix = np.array(layer.matrix).reshape(3, 3)
                    matrix[:2, 2] *= scale
                    yield matrix

            def ours(draw_, ground=ground, canvas=canvas):
                planes = ground.copy()
                placed = [studio.renderer.sprites.placed(canvas, x) for x in draw_.layers]
                draw(planes, placed, Bands(2, studio.pool))
                return planes

            # The baseline has the same layers as float pictures and does over on the whole frame.
            floats = [_as_float(s, size) for s in sprites]
            background = to_bgr(ground).astype(np.float32) / 255

            def numpy_over(draw_, floats=floats, background=background, size=size, matrices=matrices):
                frame = background
                for rgba, matrix in zip(floats, matrices(draw_), strict=True):
                    moved = cv2.warpAffine(rgba, matrix[:2], size, flags=cv2.INTER_LINEAR)
                    frame = moved[..., :3] + frame * (1 - moved[..., 3:])
                return (frame * 255 + 0.5).astype(np.uint8)

            times: dict[str, list[float]] = {"ours": [], "baseline": []}
            ours(draws[0])
            for n in range(REPEATS):
                for name, function in (("ours", ours), ("baseline", numpy_over)):
                    if name == "baseline" and n % 4:
                        continue
                    begun = perf_counter()
                    function(draws[n % len(draws)])
                    times[name].append(perf_counter() - begun)
            name = f"{size[0]}x{size[1]}"
            figures[f"{name}, ms a frame"] = median_ms(times["ours"])
            figures[f"{name}, ms a layer"] = median_ms(times["ours"]) / 5
            figures[f"{name}, baseline ms a frame"] = median_ms(times["baseline"])
            speedups[name] = median_ms(times["baseline"]) / median_ms(times["ours"])
            figures[f"{name}, times faster"] = speedups[name]
        figures |= _beside(studio, document)
    return Result("picture", speedups["540x960"], "540×960 under 12 ms, at least 10 times the baseline", figures)


def _beside(studio, document: Document) -> dict[str, float]:
    """A layer over all of the frame in other modes than over, and the cutouts as a group against the cutouts alone."""
    size = (540, 960)
    (shot,) = document.shots.values()
    ground = studio.library.at_size(shot, 12, size, Framing(), "#000000", True)
    noise = np.random.default_rng(0).random((size[1] + 4, size[0] + 4, 4), np.float32)
    noise[..., 3] = 1
    noise[:2], noise[-2:], noise[:, :2], noise[:, -2:] = 0, 0, 0, 0
    layer = PlacedSprite(pack_rgba(-2, -2, noise), np.eye(3), 0.8)
    modes: tuple[BlendMode, ...] = ("multiply", "soft-light", "luminosity")
    took: dict[str, list[float]] = {}
    for _ in range(REPEATS):
        for mode in modes:
            planes = ground.copy()
            begun = perf_counter()
            blend(planes, layer, mode, Bands(2, studio.pool))
            took.setdefault(f"540x960, full-frame {mode}, ms", []).append(perf_counter() - begun)
    group = MakeGroup(layers=[x.id for x in document.project.layers])
    grouped = group.apply(document)
    faded = SetValue(layer=group.group, channel="opacity", frame=0, value=[0.5]).apply(grouped)
    pieces = {"alone": Evaluation(document), "in a group": Evaluation(grouped), "in a group, faded": Evaluation(faded)}
    for n in range(REPEATS):
        for name, evaluation in pieces.items():
            begun = perf_counter()
            studio.renderer.render(Canvas(evaluation.document, size, draft=True), evaluation.at(8 + n % 20))
            took.setdefault(f"540x960, five cutouts {name}, ms", []).append(perf_counter() - begun)
    return {name: median_ms(times) for name, times in took.items()}


def _as_float(sprite, size: tuple[int, int]) -> np.ndarray:
    """The sprite as a premultiplied float picture of the whole canvas."""
    alpha = sprite.alpha
    luma = ((sprite.luma & np.uint64(0xFFFFFFFF)).astype(np.float32) / FULL - 16 * alpha) / 219
    rgba = np.dstack([luma, luma, luma, alpha])
    out = np.zeros((size[1], size[0], 4), np.float32)
    top, left = max(0, sprite.top), max(0, sprite.left)
    part = rgba[top - sprite.top :, left - sprite.left :][: size[1] - top, : size[0] - left]
    out[top : top + part.shape[0], left : left + part.shape[1]] = part
    return out
