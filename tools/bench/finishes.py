"""The cost of each finish on a cutout of a quarter of the frame at 540×960: cold, warm, and while a setting of it
moves; against a Gaussian blur of the same picture by SciPy.
"""

from time import perf_counter
from typing import Any

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter

from nervykite.core.change.edits import ChangeLayer
from nervykite.core.draw.picture.bands import Bands
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.draws import SpriteDraw, SpriteSpec
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.picture.render import Renderer
from nervykite.core.piece.model import Document, Finish, FinishKind
from nervykite.core.piece.model.kinds import name_of
from nervykite.studio import Studio
from nervykite.studio.importing import import_file

from . import Result
from .material import median_ms, studio_with, with_cutouts

SIZE = (540, 960)
RUNS = 7
HEAVY = "scatter", "halftone", "ink"


def measure() -> Result:
    """Milliseconds; the ratio is the median finish, animated, over the baseline."""
    figures: dict[str, float] = {}
    cold: dict[str, float] = {}
    moving: dict[str, float] = {}
    with studio_with(12) as (studio, project, _path):
        given = _given(studio, project)
        document = with_cutouts(studio, project, 1)
        layer = document.project.layers[0].id

        def spec_of(finish: Finish) -> tuple[Document, SpriteSpec]:
            dressed = ChangeLayer(layer=layer, finishes=[finish]).apply(document)
            draw = Evaluation(dressed).at(6).layers[-1]
            assert isinstance(draw, SpriteDraw)
            return dressed, draw.sprite

        kinds = [k for k in FinishKind.family.all().values() if "cutout" in k.on]
        for kind in kinds:
            name = name_of(kind)
            times: dict[str, list[float]] = {"cold": [], "warm": [], "animated": []}
            renderer = studio.renderer
            for n in range(RUNS):
                dressed, spec = spec_of(_with(kind, n, given))
                # A renderer that knows nothing yet, but the mattes.
                fresh = Renderer(studio.library, bands=Bands(2, studio.pool))
                fresh.sprites.mattes = renderer.sprites.mattes
                for how, draws_it in (("cold", fresh), ("animated", renderer), ("warm", renderer)):
                    begun = perf_counter()
                    draws_it.sprites.sprite(Canvas(dressed, SIZE, draft=True), spec)
                    times[how].append(perf_counter() - begun)
            cold[name], moving[name] = median_ms(times["cold"][1:]), median_ms(times["animated"][1:])
            figures[f"{name}, cold, ms"] = cold[name]
            figures[f"{name}, animated, ms"] = moving[name]
            figures[f"{name}, warm, ms"] = median_ms(times["warm"][1:])
        bare = document.model_copy()
        (plain,) = Evaluation(bare).at(6).layers
        assert isinstance(plain, SpriteDraw)
        sprite = studio.renderer.sprites.sprite(Canvas(bare, SIZE, draft=True), plain.sprite)
        assert sprite is not None
        picture = np.random.default_rng(0).random((*sprite.luma.shape, 4), np.float32)
        blurs = []
        for _ in range(RUNS):
            begun = perf_counter()
            gaussian_filter(picture, (7, 7, 0))
            blurs.append(perf_counter() - begun)
    figures["a Gaussian blur by SciPy, ms"] = median_ms(blurs)
    late = [n for n, ms in cold.items() if ms > 40]
    slow = [n for n, ms in moving.items() if ms > (25 if n in HEAVY else 12)]
    aim = "cold at most 40 ms, warm 0, animated at most 12 ms (scatter, halftone, ink 25)"
    words = f"times a SciPy blur; late when cold: {', '.join(late) or 'none'}, animated: {', '.join(slow) or 'none'}"
    return Result("finishes", float(np.median(list(moving.values()))) / median_ms(blurs), aim, figures, words)


def _with(kind: type[FinishKind], n: int, given: dict[str, Any]) -> Finish:
    """A finish whose first number is a little more each time, or less where it was at its end; and what it is given."""
    settings = kind().settings | {k: v for k, v in given.items() if k in kind.model_fields}
    properties = kind.settings_schema()["properties"]
    for name, schema in properties.items():
        if schema.get("type") == "number":
            low, high = schema.get("minimum", 0), schema.get("maximum", 100)
            step = (high - low) * 1e-3
            settings[name] += n * (step if settings[name] + RUNS * step <= high else -step)
            break
    return Finish(kind=name_of(kind), settings=settings)


def _given(studio: Studio, project: str) -> dict[str, Any]:
    """The supplies of finishes from the shelf, put there first, and tones to match."""
    corners = (f"{1 - r} {g} {b}" for b in (0, 1) for g in (0, 1) for r in (0, 1))
    table, picture = studio.folder / "some.cube", studio.folder / "tile.png"
    table.write_text("\n".join(["LUT_3D_SIZE 2", *corners]))
    cv2.imwrite(str(picture), np.full((16, 16, 3), 90, np.uint8))
    for path in (table, picture):
        import_file(studio, project, studio.keep_file(path), path.name)
    files = {a.kind: a.file for a in studio.state(project).document.assets.values()}
    return {**{str(k): v for k, v in files.items()}, "like": [0.1, 0.3, 0.5, 0.7, 0.9, 0.02, 0.02, 0.05, 0.05]}
