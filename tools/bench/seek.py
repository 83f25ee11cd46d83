"""A random frame of a ten-second shot with long groups of pictures, to a picture of preview size."""

from time import perf_counter

import av
import numpy as np

from nervykite.core.piece.model import Framing
from nervykite.core.see.footage.planes import jpeg

from . import Result
from .material import median_ms, studio_with


def measure() -> Result:
    """Milliseconds through the proxy, and by seeking in the file itself; the ratio is ours over that."""
    with studio_with(300) as (studio, project, path):
        (shot,) = studio.projects.state(project).document.shots.values()
        order = np.random.default_rng(5).permutation(shot.frames)[:60]
        ours, packed = [], []
        studio.library.at_size(shot, 0, (540, 960), Framing(), "#000000", draft=True)
        for frame in order:
            begun = perf_counter()
            planes = studio.library.at_size(shot, int(frame), (540, 960), Framing(), "#000000", draft=True)
            ours.append(perf_counter() - begun)
            jpeg(planes)
            packed.append(perf_counter() - begun)
        seeking = []
        with av.open(str(path)) as file:
            stream = file.streams.video[0]
            stream.thread_type = "AUTO"
            for frame in order[:20]:
                begun = perf_counter()
                at = int(frame / 30 / stream.time_base)
                file.seek(at, stream=stream)
                for picture in file.decode(stream):
                    if picture.pts >= at:
                        picture.reformat(width=540, height=960).to_ndarray(format="bgr24")
                        break
                seeking.append(perf_counter() - begun)
    figures = {
        "to a picture, ms": median_ms(ours),
        "to a picture, 95 of 100 under, ms": float(np.quantile(ours, 0.95) * 1e3),
        "to a packed JPEG, ms": median_ms(packed),
        "baseline: seeking in the file, ms": median_ms(seeking),
    }
    return Result("seek", median_ms(ours) / median_ms(seeking), "median under 25 ms", figures)
