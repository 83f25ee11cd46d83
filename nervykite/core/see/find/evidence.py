"""The pairwise and unary evidence of a picture: its edges, and whose colours its pixels have."""

from collections.abc import Callable

import cv2
import numpy as np

from ..matte.colours import Mixture

PARTS = 8
"""Of how many colours an area is taken to be."""

Later = Callable[[], np.ndarray | None]
"""What a person finder says, float32 (h, w), 0…1, or None; asked for when it is needed, not before."""

NOTHING_KNOWN = {3: -14.3, 4: -16.6, 5: -19.0, 6: -21.3}
"""Log likelihoods below which a colour, with texture and place or without, is unknown; by how many values it has."""


def edges_of(colours: np.ndarray) -> np.ndarray:
    """The edge strength of colours (h, w, 3) at each pixel, in colour units: float32 (h, w)."""
    soft = cv2.GaussianBlur(colours, (0, 0), 0.7)
    dx = cv2.Sobel(soft, cv2.CV_32F, 1, 0, ksize=3, scale=1 / 8)
    dy = cv2.Sobel(soft, cv2.CV_32F, 0, 1, ksize=3, scale=1 / 8)
    return cv2.sqrt(cv2.transform(dx * dx + dy * dy, np.ones((1, 3), np.float32)))


def pairwise_of(edges: np.ndarray, strength: float) -> np.ndarray:
    """The cost of an outline at each pixel: little on edges, `strength` where the picture is even."""
    usual = float(np.mean(edges)) + 1e-3
    return (strength * (0.06 + 0.94 * np.exp(-((edges / (1.6 * usual)) ** 1.0)))).astype(np.float32)


def known_to(mixture: Mixture, samples: np.ndarray) -> np.ndarray:
    """The likelihood of samples (…, 3 to 6) under a mixture, see `placed` and `roughness`: float32 (…), ≥ 0, 0 if
    unknown.

    A log likelihood, counted from that at which something is unknown.
    """
    floor = np.float32(NOTHING_KNOWN[samples.shape[-1]])
    return np.maximum(mixture.log_likelihood(samples) - floor, np.float32(0))


def known_to_each(
    colours: np.ndarray, ours: np.ndarray, others: np.ndarray, box: tuple[slice, slice]
) -> tuple[np.ndarray, np.ndarray]:
    """Likelihoods of colours (h, w, 3) under two areas of them, bool (h, w): float32 (h, w) both, 0 outside a box."""
    known = np.zeros((2, *ours.shape), np.float32)
    for one, area in zip(known, (ours, others), strict=True):
        one[box] = known_to(Mixture.of(colours[area], PARTS), colours[box])
    return known[0], known[1]


def leaning_of(
    samples: np.ndarray, keep_mixture: Mixture, drop_mixture: Mixture, where: np.ndarray | None = None
) -> np.ndarray:
    """The say of each pixel's colour, or colour and place, for the subject: float32 (h, w), about -1…1.

    samples (h, w, 3 to 6), see `known_to`; where: bool (h, w), the pixels asked about, the others get 0. What neither
    knows says nothing.
    """
    asked = samples if where is None else samples[where]
    says = leaning(known_to(keep_mixture, asked), known_to(drop_mixture, asked))
    if where is None:
        return says
    result = np.zeros(where.shape, np.float32)
    result[where] = says
    return result


def leaning(keep: np.ndarray, drop: np.ndarray) -> np.ndarray:
    """The say for the subject, float32 -1…1, by how well something is known to it and to the rest."""
    return np.tanh((keep - drop) / 4).astype(np.float32)
