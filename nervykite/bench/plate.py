"""How good clean plates are behind subjects: where frames show what is there, and where none does."""

from collections.abc import Iterator

import cv2
import numpy as np

from ..core.errors import Refusal
from ..studio.cutting import Remembered
from ..studio.film import Progress, Size, nothing
from ..studio.plates import build
from . import Result
from .worlds import HELD, WORLDS, World, shot_of

SEEDS = 6
"""How many shots there are of each made-up kind."""
FINE = 1.5
"""Detail is what a blur of so many pixels takes away."""


class Frames:
    """Frames that are there, as a film of one take."""

    name, key = "A made-up shot", 0

    def __init__(self, frames: list[np.ndarray]) -> None:
        self._frames = frames
        self.size: Size = frames[0].shape[1], frames[0].shape[0]

    def picture(self, frame: int) -> np.ndarray:
        """A frame."""
        return self._frames[frame]

    def take(self, frame: int) -> range:
        """All frames."""
        return range(len(self._frames))

    def exact(self, window: range, progress: Progress = nothing) -> list[np.ndarray]:
        """Those of a window."""
        return self._frames[window.start : window.stop]

    def small(self, window: range, size: Size, progress: Progress = nothing) -> list[np.ndarray]:
        """The same at a size."""
        return [cv2.resize(f, size, interpolation=cv2.INTER_AREA) for f in self.exact(window)]


def measure(**_: object) -> Result:
    """Errors in levels, 0…255, where subjects cover the place; the baseline is the median of the frames as they lie."""
    figures: dict[str, object] = {}
    ours: list[float] = []
    plain: list[float] = []
    for world in WORLDS:
        known, guessed, said, wrongly, detail = (_usual(v) for v in zip(*_each(world, ours, plain), strict=True))
        figures[world] = (
            f"off by {known:.1f} levels where a frame shows it, {100 * wrongly:.0f} % of that called a guess"
        )
        if not np.isnan(guessed):
            figures[world] = (
                f"{figures[world]}; {guessed:.1f} where none does, {100 * said:.0f} % of that called a guess,"
                f" with {detail:.2f} times the place's detail"
            )
    ratio = float(np.mean(ours) / np.mean(plain))
    return Result("plate", ratio, "as little as can be", figures, "of the median's error")


def _each(world: World, ours: list[float], plain: list[float]) -> Iterator[tuple[float, ...]]:
    for seed in range(SEEDS):
        shot = shot_of(world, seed)
        covered = shot.truth[HELD] > 0.05
        place, hidden = shot.place.astype(np.float32), shot.hidden & covered
        try:
            plate, guess = build(Frames(shot.frames), HELD, Remembered())
        except Refusal:
            continue
        off = np.abs(plate - place).mean(2)
        median = np.median(np.stack(shot.frames[::3]), 0)
        ours.append(float(off[covered].mean()))
        plain.append(float(np.abs(median - place).mean(2)[covered].mean()))
        shown = covered & ~hidden
        detail = _detail(plate)[hidden].mean() / _detail(place)[hidden].mean() if hidden.sum() > 50 else np.nan
        yield _over(off, shown), _over(off, hidden), _over(guess, hidden), _over(guess, shown), detail


def _usual(values: tuple[float, ...]) -> float:
    """The mean of those that are numbers; none if there are none."""
    numbers = [v for v in values if not np.isnan(v)]
    return float(np.mean(numbers)) if numbers else np.nan


def _over(values: np.ndarray, area: np.ndarray) -> float:
    """Their mean in an area that is worth speaking of."""
    return float(values[area].mean()) if area.sum() > 50 else np.nan


def _detail(picture: np.ndarray) -> np.ndarray:
    grey = cv2.cvtColor(picture.astype(np.float32), cv2.COLOR_RGB2GRAY)
    return np.abs(grey - cv2.GaussianBlur(grey, (0, 0), FINE))
