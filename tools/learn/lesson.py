"""One lesson: what the judge is told at some turn of a search, and the truth."""

from dataclasses import dataclass

import cv2
import numpy as np

from nervykite.core.see.find.judge import SIDE, Voices


@dataclass(frozen=True)
class Lesson:
    """The lesson of the judge: float16 (side, side, SEEN) and layers, and the answer, uint8 (side, side), 0…255."""

    seen: np.ndarray
    looked: list[np.ndarray]
    truth: np.ndarray


class Enough(Exception):
    """The turn that was waited for has come."""


def lesson_of(voices: Voices, alpha: np.ndarray, side: int = SIDE) -> Lesson:
    """The lesson that the true matte, float32, of what the voices speak of is, for who looks at so many rows."""
    truth = cv2.resize(np.ascontiguousarray(alpha), (side, side), interpolation=cv2.INTER_AREA)
    looked = [layer.astype(np.float16) for layer in voices.looked()]
    return Lesson(voices.seen(side).astype(np.float16), looked, np.round(truth * 255).astype(np.uint8))
