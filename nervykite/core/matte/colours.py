"""Colour models: which colours belong to the subject, and which to what is behind it."""

from dataclasses import dataclass

import cv2
import numpy as np
from numba import njit, prange

SPACES = ((1.0, 1.0), (0.45, 1.6))
"""Weights of lightness and of hue in the colour spaces that are tried; no one wins on every picture."""


def lab(picture: np.ndarray, space: tuple[float, float] = (1.0, 1.0)) -> np.ndarray:
    """CIE L*a*b* of an sRGB picture uint8 (h, w, 3): float32 (h, w, 3), L 0…100, weighted as a space says."""
    light, hue = space
    plain = cv2.cvtColor(picture.astype(np.float32) / 255, cv2.COLOR_RGB2Lab)
    return plain * np.array([light, hue, hue], np.float32)


@dataclass(frozen=True)
class Mixture:
    """A mixture of Gaussians over colours.

    means (k, 3); whitening (k, 3, 3), the Cholesky factor of each inverse covariance; offsets (k,), the log of
    weight over volume.
    """

    means: np.ndarray
    whitening: np.ndarray
    offsets: np.ndarray

    @classmethod
    def of(cls, colours: np.ndarray, parts: int = 6, spread: float = 3.0) -> "Mixture":
        """Fits colours (n, 3); `spread` (in units of colour) keeps a part from being narrower than noise.

        Clusters by k-means (Lloyd 1982), then takes each cluster's own mean and covariance, as grabCut
        (Rother, Kolmogorov and Blake 2004) does.
        """
        rng = np.random.default_rng(1)
        if len(colours) > 6000:
            colours = colours[rng.choice(len(colours), 6000)]
        parts = max(1, min(parts, len(colours) // 8))
        data = np.ascontiguousarray(colours, np.float32)
        if parts == 1:
            labels = np.zeros(len(data), int)
        else:
            cv2.setRNGSeed(1)
            stop = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 12, 0.5)
            blank = np.zeros((len(data), 1), np.int32)
            labels = cv2.kmeans(data, parts, blank, stop, 2, cv2.KMEANS_PP_CENTERS)[1].ravel()
        means, whitening, offsets = [], [], []
        for part in range(parts):
            own = data[labels == part].astype(float)
            if len(own) == 0:
                continue
            covariance = np.cov(own.T) if len(own) > 3 else np.zeros((3, 3))
            covariance = covariance + np.eye(3) * spread**2
            means.append(own.mean(0))
            inverse = np.linalg.inv(covariance)
            whitening.append(np.linalg.cholesky(inverse).T)
            offsets.append(np.log(len(own) / len(data)) + 0.5 * np.linalg.slogdet(inverse)[1])
        return cls(np.array(means), np.array(whitening), np.array(offsets))

    def log_likelihood(self, colours: np.ndarray) -> np.ndarray:
        """Log density, but for a constant: colours (…, 3) to float32 (…)."""
        flat = np.ascontiguousarray(colours.reshape(-1, 3), np.float32)
        return _log_likelihood(flat, self.means, self.whitening, self.offsets).reshape(colours.shape[:-1])


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _log_likelihood(flat, means, whitening, offsets):
    out = np.empty(len(flat), np.float32)
    for i in prange(len(flat)):
        best = -1e30
        total = 0.0
        for k in range(len(means)):
            a = flat[i, 0] - means[k, 0]
            b = flat[i, 1] - means[k, 1]
            c = flat[i, 2] - means[k, 2]
            u = whitening[k, 0, 0] * a + whitening[k, 0, 1] * b + whitening[k, 0, 2] * c
            v = whitening[k, 1, 1] * b + whitening[k, 1, 2] * c
            w = whitening[k, 2, 2] * c
            e = offsets[k] - 0.5 * (u * u + v * v + w * w)
            if e > best:
                total = total * np.exp(best - e) + 1.0
                best = e
            else:
                total += np.exp(e - best)
        out[i] = best + np.log(total)
    return out


def separation(keep: np.ndarray, drop: np.ndarray) -> float:
    """How well two sets of colours (n, 3) can be told apart: the share that their halves judge right, 0.5…1."""
    if min(len(keep), len(drop)) < 40:
        return 0.5
    right = []
    for half in (0, 1):
        first, second = Mixture.of(keep[half::2]), Mixture.of(drop[half::2])
        for colours, sign in ((keep[1 - half :: 2], 1), (drop[1 - half :: 2], -1)):
            right.append((sign * (first.log_likelihood(colours) - second.log_likelihood(colours)) > 0).mean())
    return float(np.mean(right))
