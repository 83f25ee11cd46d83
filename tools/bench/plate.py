"""The quality of clean plates behind subjects: where frames show what is there, and where none does."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import cv2
import numpy as np

from nervykite.core.common.errors import Refusal
from nervykite.studio.cutting import Remembered
from nervykite.studio.plates import build
from nervykite.studio.service_footage import Progress, Size, nothing

from . import Result
from .worlds import HELD, WORLDS, Away, World, shot_of

SEEDS = 6
"""How many shots there are of each made-up kind."""
AWAY = (0.05, 0.1, 0.2)
"""The shares of the frames in which places are seen that are hardly ever seen."""
FEW = 50
"""Pixels that are too few to speak of."""
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


@dataclass(frozen=True)
class Scenario:
    """A kind of shot: a world, and when its subjects are away."""

    world: World
    away: Away | None = None

    def __str__(self) -> str:
        if self.away is None:
            return self.world
        return (
            f"{self.world}, away for {100 * self.away.share:.0f} % at the {'beginning' if self.away.before else 'end'}"
        )


SCENARIOS = (
    *(Scenario(world) for world in WORLDS),
    *(Scenario("lingers", Away(share, before)) for share in AWAY for before in (True, False)),
    Scenario("lingers, pans", Away(AWAY[1], False)),
)


def measure(**_: object) -> Result:
    """Errors in levels, 0…255, where subjects cover the place; the baseline is the median of the frames as they lie."""
    figures: dict[str, object] = {}
    alike: list[Measured] = []
    for scenario in SCENARIOS:
        found = list(_each(scenario))
        alike += found
        off, guessed, wrongly = (_usual(getattr(one, what) for one in found) for what in ("shown", "hidden", "wrongly"))
        figures[str(scenario)] = (
            f"off by {off:.1f} levels where a frame shows it, {100 * wrongly:.0f} % of that called a guess"
        )
        if not np.isnan(guessed):
            detail = _usual(one.detail for one in found)
            figures[str(scenario)] += f"; {guessed:.1f} where none does, with {detail:.2f} times the place's detail"
    said, right, hidden = (sum(getattr(one, what) for one in alike) for what in ("said", "rightly", "unseen"))
    figures["guesses"] = (
        f"{100 * right / max(1, said):.0f} % of what is called one is shown by no frame,"
        f" {100 * right / max(1, hidden):.0f} % of what no frame shows is called one"
    )
    ratio = float(np.mean([o.ours for o in alike]) / np.mean([o.median for o in alike]))
    return Result("plate", ratio, "as little as can be", figures, "of the median's error")


@dataclass(frozen=True)
class Measured:
    """One plate: errors in levels where subjects cover the place, and pixels."""

    ours: float
    """The plate's mean error, 0…255."""
    median: float
    """The mean error of the median of the frames as they lie, 0…255."""
    shown: float
    """The plate's mean error where a frame shows the place, 0…255; not a number if none does."""
    hidden: float
    """The plate's mean error where no frame shows the place, 0…255; not a number if all of it is shown."""
    wrongly: float
    """The share of what a frame shows that is called a guess, 0…1."""
    detail: float
    """The plate's detail where no frame shows the place, in the place's own."""
    said: int
    """How many pixels are called a guess."""
    rightly: int
    """How many pixels are called a guess that no frame shows."""
    unseen: int
    """How many pixels no frame shows."""


def _each(scenario: Scenario) -> Iterator[Measured]:
    for seed in range(SEEDS):
        shot = shot_of(scenario.world, seed, away=scenario.away)
        covered = shot.truth[HELD] > 0.05
        place, hidden = shot.place.astype(np.float32), shot.hidden & covered
        # Who hardly ever leaves is found by nothing that moves: it was cut out by hand.
        subject = None if scenario.away is None else shot.truth[HELD]
        try:
            plate, guess = build(Frames(shot.frames), HELD, Remembered(), subject)
        except Refusal:
            continue
        off = np.abs(plate - place).mean(2)
        median = np.abs(np.median(np.stack(shot.frames[::3]), 0) - place).mean(2)
        detail = _detail(plate)[hidden].mean() / _detail(place)[hidden].mean() if hidden.sum() > FEW else np.nan
        yield Measured(
            float(off[covered].mean()), float(median[covered].mean()), _over(off, covered & ~hidden),
            _over(off, hidden), _over(guess, covered & ~hidden), detail,
            int((guess & covered).sum()), int((guess & hidden).sum()), int(hidden.sum()),
        )  # fmt: skip


def _usual(values: Iterable[float]) -> float:
    """The mean of those that are numbers; none if there are none."""
    numbers = [v for v in values if not np.isnan(v)]
    return float(np.mean(numbers)) if numbers else np.nan


def _over(values: np.ndarray, area: np.ndarray) -> float:
    """Their mean in an area that is worth speaking of."""
    return float(values[area].mean()) if area.sum() > FEW else np.nan


def _detail(picture: np.ndarray) -> np.ndarray:
    grey = cv2.cvtColor(picture.astype(np.float32), cv2.COLOR_RGB2GRAY)
    return np.abs(grey - cv2.GaussianBlur(grey, (0, 0), FINE))
