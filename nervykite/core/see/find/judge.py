"""The judge: a small network that weighs all that speaks for and against a subject, and knows what subjects look like.

Colours, ways along the picture and a person finder each err in their own manner, and how they err together is hard to
put into rules. The judge is a U-Net (Ronneberger, Fischer and Brox, "U-Net: convolutional networks for biomedical image
segmentation", 2015) that was shown thousands of scenes with strokes, what every voice said of them, and the true
subject. `tools.learn` tells how, and can make it again.
"""

from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

from ..matte.networks import shipped, warm_up
from .looks import Features

MODEL = Path(__file__).with_name("judge.tflite")
SIDE = 128
"""Rows and columns at which it looks, whatever the picture's own shape."""
SEEN = 15
"""Values that it is shown of each pixel."""
LAYERS = ((1, 2), (3,), (4,))
"""Which layers of the looks it is shown beside that, those of one size together."""
SURE = 3.0
"""The most that it says for or against."""
MOST = 3.0
"""The most of a unary term that it is shown."""


@dataclass(frozen=True)
class Voices:
    """The evidence of a picture when the judge is asked; float32 or bool (h, w) unless said."""

    picture: np.ndarray
    """The picture, uint8 RGB (h, w, 3)."""
    unary: np.ndarray
    """All rules together: above 0 for the subject."""
    colours: np.ndarray
    """Whose colours they are, -1…1."""
    along: np.ndarray
    """Whether the way along the picture is shorter to a keep stroke (up to 1) or to a drop stroke (down to -1)."""
    away: np.ndarray
    """How far from the keep strokes, in their extent."""
    person: np.ndarray
    """What a person finder says, -1…1; 0 if nothing."""
    sure: np.ndarray
    """How far the strokes bear that out, 0…1; without strokes, below 0 as far as nobody knows what is behind."""
    before: np.ndarray
    """The last answer, 0…1; 0 if there is none yet."""
    keep: np.ndarray
    drop: np.ndarray
    """What the strokes cover."""
    kept: np.ndarray
    dropped: np.ndarray
    """How well the colours are known to subject and surroundings, see `evidence.known_to`."""
    similar: np.ndarray
    """Whether it looks like what was found so far, -1…1, see `looks.alike`; 0 if nothing can be said."""
    looks: Features | None
    """What all of it looks like; None if no network can be run here."""

    def part(self, box: tuple[slice, slice]) -> "Voices":
        """The same in some rows and columns, but for the looks, which are those of all of it."""
        fields = vars(self)
        there = {k: np.ascontiguousarray(v[box]) for k, v in fields.items() if isinstance(v, np.ndarray)}
        return Voices(**{**fields, **there})

    def seen(self, side: int = SIDE) -> np.ndarray:
        """As the network is shown them: float32 (side, side, SEEN)."""

        def shrunk(values: np.ndarray) -> np.ndarray:
            return _shrunk(values, side)

        mean, spread = cv2.meanStdDev(self.picture)
        overall = np.sqrt((spread**2 + (mean - mean.mean()) ** 2).mean())  # of all values, whichever colour
        return np.dstack(
            [
                (shrunk(self.picture) - mean.ravel().astype(np.float32)) / np.float32(overall + 8),
                np.clip(shrunk(self.unary), -MOST, MOST),
                shrunk(self.colours),
                shrunk(self.along),
                shrunk(np.clip(self.away, 0, 1.5)),
                *(shrunk(v) for v in (self.person, self.sure, self.before, self.keep, self.drop)),
                *(shrunk(np.clip(v, 0, 14)) / 7 for v in (self.kept, self.dropped)),
                shrunk(self.similar),
            ]
        )

    def looked(self) -> list[np.ndarray]:
        """The layers that it is shown beside that, float32 (h, w, n), the largest first; none without looks."""
        layers = self.looks.layers if self.looks else ()
        return [np.concatenate([layers[k] for k in of_one_size], -1) for of_one_size in LAYERS] if layers else []


def judged(voices: Voices) -> np.ndarray | None:
    """The judge's answer, above 0 for the subject: float32 (h, w), ±SURE; None if no network can be run here."""
    network = shipped(MODEL)
    if network is None or voices.looks is None:
        return None
    answer = network(voices.seen(), *voices.looked())[0].reshape(SIDE, SIDE)
    return _grown(np.clip(answer / 2, -SURE, SURE), voices.unary.shape)


def seen_at(unary: np.ndarray) -> np.ndarray:
    """The rest of a unary term (h, w) where the judge looks from: float32 (h, w), ±MOST."""
    return _grown(np.clip(_shrunk(unary, SIDE), -MOST, MOST), unary.shape)


def load() -> None:
    """Loads it and asks it once, as the first answer takes longest."""
    warm_up(MODEL)


def _shrunk(values: np.ndarray, side: int) -> np.ndarray:
    larger = min(values.shape[:2]) > side
    how = cv2.INTER_AREA if larger else cv2.INTER_LINEAR
    return cv2.resize(values.astype(np.float32), (side, side), interpolation=how)


def _grown(values: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    return cv2.resize(values, size[::-1], interpolation=cv2.INTER_LINEAR)
