"""Compositing the ground and five moving, turned, scaled cutouts; against NumPy's float over of the same layers."""

from time import perf_counter

import cv2
import numpy as np

from ..core.footage.planes import to_bgr
from ..core.model import Framing
from ..core.picture.draw import FULL, draw
from ..core.picture.evaluate import Evaluation
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
            sprites = [studio.renderer.sprite(document, x.sprite, size, draft) for x in draws[0].layers]
            (shot,) = document.shots.values()
            ground = studio.library.at_size(shot, 12, size, Framing(), "#000000", draft)

            def matrices(draw_, scale=scale):
                for layer in draw_.layers:
                    matrix = np.array(layer.matrix).reshape(3, 3)
                    matrix[:2, 2] *= scale
                    yield matrix

            def ours(draw_, ground=ground, size=size, draft=draft):
                planes = ground.copy()
                placed = [studio.renderer.placed(document, x, size, draft) for x in draw_.layers]
                draw(planes, placed, 2, studio.pool)
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
    return Result("picture", speedups["540x960"], "540×960 under 12 ms, at least 10 times the baseline", figures)


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
