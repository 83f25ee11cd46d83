"""Looks: what the pixels of a picture look like beyond their colour, and which of them look alike.

The layers of a network that was taught to find all kinds of things (Sandler and others, "MobileNetV2: inverted
residuals and linear bottlenecks", 2018) respond to grain, stripes, folds, soft or hard edges and, the later ones, to
parts of things. A straight line through what they say (ridge regression: Hoerl and Kennard, "Ridge regression: biased
estimation for nonorthogonal problems", 1970) tells what looks like one part of the picture from what looks like
another. It is learned on that picture alone, so that it serves whatever the subject is.

Two short strokes need it where nobody is known: without it they lose 0.03 of overlap on the demo.
"""

from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np

from ...common.errors import Refusal
from ..matte.networks import THINGS, network

SIDE = 75
"""Rows and columns of looks, whatever the picture's own shape: those of the finest layers."""
ASKED = 300
"""Rows and columns of the picture that the network is shown."""
LAYERS = (150, 153, 157, 168, 190)
"""Which layers are listened to, by the numbers that they have in the network, the finest first."""
COVERED = 0.3
"""From which share on a pixel of looks belongs to an area."""
STIFF = 0.03
"""How far the line is kept from following every single pixel."""
STEEP = 1.5
"""How fast it becomes sure of itself."""


@dataclass(frozen=True)
class Features:
    """The features of a picture."""

    layers: tuple[np.ndarray, ...]
    """What each layer says, float32 (h, w, n), of the whole picture at the layer's own size."""

    @cached_property
    def grown(self) -> list[np.ndarray]:
        """All of them at (SIDE, SIDE, n)."""
        return [_grown(layer) for layer in self.layers]

    @cached_property
    def scales(self) -> list[np.ndarray]:
        """By what each value is divided, float32 (n,), so that each layer counts the same with any number of them."""
        return [(g.std((0, 1)) + np.float32(1e-3)) * np.float32(np.sqrt(g.shape[2])) for g in self.grown]


def looks_of(picture: np.ndarray) -> Features | None:
    """The features of a picture, uint8 RGB (h, w, 3); None if no network can be run here."""
    try:
        layers = network(THINGS, LAYERS)
    except Refusal:
        return None
    shrinks = min(picture.shape[:2]) > ASKED
    shown = cv2.resize(picture, (ASKED, ASKED), interpolation=cv2.INTER_AREA if shrinks else cv2.INTER_LINEAR)
    return Features(tuple(layers(shown.astype(np.float32) / 127.5 - 1)))


def load() -> None:
    """Loads the network and asks it once, as the first answer takes longest."""
    looks_of(np.zeros((ASKED, ASKED, 3), np.uint8))


@dataclass(frozen=True)
class LinearClassifier:
    """A straight line through looks that tells whose they are."""

    slopes: tuple[np.ndarray, ...]
    """How much each value of each layer counts, float32 (n,)."""
    middle: float
    """What all of it comes to where it is as much the one's as the other's."""

    def says(self, looks: Features, size: tuple[int, int]) -> np.ndarray:
        """Whose looks each pixel has: float32 of a size (h, w), -1…1."""
        # A sum is enlarged as well as what is summed, and that is hundreds of values.
        sums = (_grown(layer @ slope) for layer, slope in zip(looks.layers, self.slopes, strict=True))
        says = np.tanh(STEEP * (sum(sums) - np.float32(self.middle)))
        return cv2.resize(says, size[::-1], interpolation=cv2.INTER_LINEAR)


def line_of(looks: Features, ours: np.ndarray, others: np.ndarray) -> LinearClassifier | None:
    """The line that tells the looks of a subject from those of the rest; None if either area is too small to tell.

    looks: from `looks_of`; ours, others: what is known of the subject and of the rest, bool (h, w) of any one size.
    """
    own, rest = (_shrunk(area) for area in (ours, others & ~ours))
    if min(own.sum(), rest.sum()) < 3:
        return None
    grown, scales, known = looks.grown, looks.scales, own | rest
    seen = np.concatenate([g[known] / scale for g, scale in zip(grown, scales, strict=True)], -1)
    wanted = np.where(own[known], 1, -1).astype(np.float32)
    share = np.where(own[known], 0.5 / own.sum(), 0.5 / rest.sum()).astype(np.float32)
    middle = share @ seen
    apart = seen - middle
    weighed = apart * share[:, None]
    spread = weighed.T @ apart + STIFF * np.eye(seen.shape[-1], dtype=np.float32)
    slope = np.linalg.solve(spread, weighed.T @ wanted)
    parts = np.split(slope, np.cumsum([len(scale) for scale in scales])[:-1])
    return LinearClassifier(tuple(p / scale for p, scale in zip(parts, scales, strict=True)), float(middle @ slope))


def alike(looks: Features, ours: np.ndarray, others: np.ndarray) -> np.ndarray | None:
    """Whose looks each pixel has, see `line_of`: float32 (h, w), -1…1; None if either area is too small to tell."""
    line = line_of(looks, ours, others)
    return None if line is None else line.says(looks, ours.shape)


def _grown(layer: np.ndarray) -> np.ndarray:
    """A layer (h, w) or (h, w, n) at (SIDE, SIDE) or (SIDE, SIDE, n)."""
    if layer.ndim == 2:
        return cv2.resize(layer, (SIDE, SIDE), interpolation=cv2.INTER_LINEAR)
    return np.dstack(
        [
            cv2.resize(np.ascontiguousarray(layer[..., at : at + 4]), (SIDE, SIDE), interpolation=cv2.INTER_LINEAR)
            for at in range(0, layer.shape[2], 4)  # the most that is resized at once
        ]
    )


def _shrunk(area: np.ndarray) -> np.ndarray:
    return cv2.resize(area.astype(np.float32), (SIDE, SIDE), interpolation=cv2.INTER_AREA) > COVERED
