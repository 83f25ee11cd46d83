"""The subjects' true alpha in the demo's shots, each film decoded once a worker."""

from functools import lru_cache

import av
import numpy as np

from nervykite.demo import FOOTAGE


@lru_cache(maxsize=3)
def _film(name: str) -> list[np.ndarray]:
    with av.open(str(FOOTAGE / "truth" / f"{name}.mp4")) as file:
        return [picture.to_ndarray(format="gray8") for picture in file.decode(video=0)]


def truth_alpha(shot: str, frame: int, figure: int | None = None) -> np.ndarray:
    """As `nervykite.demo.demo_project.truth_alpha` has it: float32 (h, w), 0…1; of one `figure` (1, 2) if asked."""
    return np.clip((_film(f"{shot}-alpha{figure or ''}")[frame].astype(np.float32) - 16) / 219, 0, 1)
