"""The cost of motion blur: five cutouts that move by up to 60 pixels while the shutter is open; against the same sharp.

Also how far the profile of a moving edge is from the ideal ramp, in light.
"""

from time import perf_counter

import numpy as np

from nervykite.core.change.edits import ChangePiece, SetKey
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.draw import PlacedSprite, Sprite, pack
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.picture.render import Renderer
from nervykite.core.draw.picture.smear import LEVELS, lay_in_light, smeared
from nervykite.core.piece.model import Blur, Document, Key
from nervykite.core.see.footage.planes import Planes
from nervykite.studio import Studio

from . import Result
from .material import median_ms, studio_with, with_cutouts

REPEATS = 40
FARTHEST = 60
"""Pixels of the preview that the fastest one moves by at 180°."""


def measure() -> Result:
    """Milliseconds a frame, ground included; the ratio is that with motion blur over that without."""
    figures: dict[str, float] = {}
    ratios = {}
    with studio_with(30) as (studio, project, _path):
        sharp = _moving(studio, project)
        blurred = ChangePiece(blur=Blur()).apply(sharp)
        for size in ((540, 960), (1080, 1920)):
            times: dict[str, list[float]] = {"sharp": [], "blurred": []}
            draws = {"sharp": Evaluation(sharp), "blurred": Evaluation(blurred)}
            renderer: Renderer = studio.renderer
            for n in range(REPEATS + 4):
                for name, evaluation in draws.items():
                    ready = evaluation.at(12 + n % 6)
                    begun = perf_counter()
                    renderer.render(Canvas(evaluation.document, size, draft=size[0] < 1080), ready)
                    if n >= 4:
                        times[name].append(perf_counter() - begun)
            name = f"{size[0]}x{size[1]}"
            figures |= {f"{name}, {k}, ms a frame": median_ms(t) for k, t in times.items()}
            ratios[name] = median_ms(times["blurred"]) / median_ms(times["sharp"])
            figures[f"{name}, times as long"] = ratios[name]
    for far in (8, 24, 60):
        figures[f"edge over {far} px, worst distance to the ramp"] = _profile(far)
    return Result("picture --blur", ratios["540x960"], "at most 4 at 540×960; the profile within 0.03", figures)


def _moving(studio: Studio, project: str) -> Document:
    """The piece of `picture`, its cutouts moving evenly, from slow to fast."""
    document = with_cutouts(studio, project)
    per = document.project.width / 540
    for n, layer in enumerate(document.project.layers, 1):
        far = FARTHEST * n / 5 * 2 * per  # a frame: the shutter is open for half of it
        for frame, x in ((0, -far * 12), (29, far * 17)):
            key = Key(channel="position", tie="start", offset=frame - (n - 1), value=[x, 30.0 * n - 90])
            document = SetKey(layer=layer.id, key=key).apply(document)
        kept = [k for k in document.layer(layer.id).keys if k.channel != "position" or k.tie == "start"]  # type: ignore[union-attr]
        layers = [x.model_copy(update={"keys": kept}) if x.id == layer.id else x for x in document.project.layers]
        document = document.model_copy(update={"project": document.project.model_copy(update={"layers": layers})})
    return document


def _profile(far: float) -> float:
    """Deviation of the light of a white edge over black from a ramp as long as it moves, 0…1, at the worst pixel."""
    side = 120
    cover = np.zeros((side + 8, side + 8), np.uint16)
    cover[4:-4, 4:-4] = 256
    white, grey = (
        np.full(cover.shape, 235, np.uint8),
        np.full((cover.shape[0] // 2, cover.shape[1] // 2), 128, np.uint8),
    )
    half = cover.reshape(cover.shape[0] // 2, 2, -1, 2).mean((1, 3)).astype(np.uint16)
    sprite = Sprite(0, 0, pack(white, cover), pack(grey, half), pack(grey, half))
    planes = Planes(
        np.full((64, 320), 16, np.uint8), np.full((32, 160), 128, np.uint8), np.full((32, 160), 128, np.uint8)
    )
    moves = [np.array([[1, 0, x], [0, 1, 0], [0, 0, 1.0]]) for x in (80, 80 + far)]
    smear = smeared(PlacedSprite(sprite, moves[0], 1.0), moves, (320, 64))
    assert smear is not None
    lay_in_light(planes, smear)
    codes = np.round((planes.y[32].astype(float) - 16) / 219 * 255).astype(int)
    ideal = np.clip((np.arange(320) + 0.5 - 84) / far, 0, 1)
    seen = slice(80, 80 + side // 2)
    return float(np.abs(LEVELS[codes] - ideal)[seen].max())
