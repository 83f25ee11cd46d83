"""Looks: what the pixels of a picture look like beyond their colour, and which of them look alike.

The first layers of the person network respond to grain, stripes, folds and soft or hard edges. A straight line through
what they say (ridge regression: Hoerl and Kennard, "Ridge regression: biased estimation for nonorthogonal problems",
1970) tells what looks like one part of the picture from what looks like another. It is learned on that picture alone,
so that it serves whatever the subject is.
"""

import cv2
import numpy as np

from ..errors import Refusal
from .networks import PEOPLE, network
from .solve import around

SIDE = 128
"""Rows and columns of looks, whatever the picture's own shape."""
ASKED = 256
"""Rows and columns of the picture that the network is shown."""
LAYERS = (4, 22, 28)
"""Which layers are listened to, by the numbers that they have in the network."""
COVERED = 0.3
"""From which share on a pixel of looks belongs to an area."""
STIFF = 0.03
"""How far the line is kept from following every single pixel."""
BESIDE = 24
"""How far beside an area it is said what looks alike, px."""
STEEP = 1.5
"""How fast it becomes sure of itself."""


def looks_of(picture: np.ndarray) -> np.ndarray | None:
    """What a picture, uint8 RGB (h, w, 3), looks like: float32 (SIDE, SIDE, n); None if no network can be run here."""
    try:
        layers = network(PEOPLE, LAYERS)
    except Refusal:
        return None
    shrinks = min(picture.shape[:2]) > ASKED
    shown = cv2.resize(picture, (ASKED, ASKED), interpolation=cv2.INTER_AREA if shrinks else cv2.INTER_LINEAR)
    return np.concatenate([_even(layer) for layer in layers(shown.astype(np.float32) / 255)], -1)


def load() -> None:
    """Loads the network and asks it once, as the first answer takes longest."""
    looks_of(np.zeros((ASKED, ASKED, 3), np.uint8))


def alike(looks: np.ndarray, ours: np.ndarray, others: np.ndarray) -> np.ndarray | None:
    """Whose looks each pixel has: float32 (h, w), -1…1; None if either area is too small to tell.

    looks: from `looks_of`; ours, others: what is known of the subject and of the rest, bool (h, w) of any one size.
    """
    own, rest = (_shrunk(area) for area in (ours, others & ~ours))
    if min(own.sum(), rest.sum()) < 3:
        return None
    known = own | rest
    seen, wanted = looks[known], np.where(own[known], 1, -1).astype(np.float32)
    share = np.where(own[known], 0.5 / own.sum(), 0.5 / rest.sum()).astype(np.float32)
    middle = share @ seen
    apart = seen - middle
    weighed = apart * share[:, None]
    spread = weighed.T @ apart + STIFF * np.eye(looks.shape[-1], dtype=np.float32)
    line = np.linalg.solve(spread, weighed.T @ wanted)
    says = np.tanh(STEEP * ((looks - middle) @ line)).astype(np.float32)
    return cv2.resize(says, ours.shape[::-1], interpolation=cv2.INTER_LINEAR)


def alike_around(picture: np.ndarray, where: np.ndarray, ours: np.ndarray, others: np.ndarray) -> np.ndarray:
    """`alike` in and beside an area, seen from as near as that allows: float32 (h, w), -1…1, 0 far from it.

    picture: uint8 RGB (h, w, 3); where, not empty, and ours, others: bool (h, w). Says 0 if it cannot tell.
    """
    says = np.zeros(where.shape, np.float32)
    box = around(where, BESIDE)
    looks = looks_of(picture[box])
    similar = None if looks is None else alike(looks, ours[box], others[box])
    if similar is not None:
        says[box] = similar
    return says


def _even(layer: np.ndarray) -> np.ndarray:
    """A layer (h, w, n) at (SIDE, SIDE, n), so that each layer counts the same, whatever its number of values."""
    count = layer.shape[2]
    grown = np.dstack(
        [
            cv2.resize(np.ascontiguousarray(layer[..., at : at + 4]), (SIDE, SIDE), interpolation=cv2.INTER_LINEAR)
            for at in range(0, count, 4)  # the most that is resized at once
        ]
    )
    return grown / ((grown.std((0, 1)) + 1e-3) * np.float32(np.sqrt(count)))


def _shrunk(area: np.ndarray) -> np.ndarray:
    return cv2.resize(area.astype(np.float32), (SIDE, SIDE), interpolation=cv2.INTER_AREA) > COVERED
