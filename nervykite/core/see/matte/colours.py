"""Colour models: which colours belong to the subject, here or there, and which to what is behind it."""

from dataclasses import dataclass

import cv2
import numpy as np
from numba import njit, prange

SPACES = ((1.0, 1.0), (0.45, 1.6))
"""Weights of lightness and of hue in the colour spaces that are tried; no one wins on every picture."""

SAMPLES = 4000
"""Samples that a mixture is fitted to at most."""


def lab(picture: np.ndarray, space: tuple[float, float] = (1.0, 1.0)) -> np.ndarray:
    """CIE L*a*b* of an sRGB picture uint8 (h, w, 3): float32 (h, w, 3), L 0…100, weighted as a space says."""
    light, hue = space
    plain = cv2.cvtColor(picture.astype(np.float32) / 255, cv2.COLOR_RGB2Lab)
    return plain * np.array([light, hue, hue], np.float32)


@dataclass(frozen=True)
class Mixture:
    """A mixture of Gaussians over colours, or over colours and places: d values a sample.

    means (k, d); whitening (k, d, d), the Cholesky factor of each inverse covariance; offsets (k,), the log of
    weight over volume.
    """

    means: np.ndarray
    whitening: np.ndarray
    offsets: np.ndarray

    @classmethod
    def of(cls, samples: np.ndarray, parts: int = 6, spread: float = 3.0) -> "Mixture":
        """Fits samples (n, d); `spread`, in their units, keeps a part from being narrower than noise.

        Clusters by k-means (Lloyd 1982), then takes each cluster's own mean and covariance, as grabCut
        (Rother, Kolmogorov and Blake 2004) does. Nothing to fit gives a mixture without parts.
        """
        rng = np.random.default_rng(1)
        if len(samples) > SAMPLES:
            samples = samples[rng.choice(len(samples), SAMPLES)]
        parts = max(1, min(parts, len(samples) // 8))
        data = np.ascontiguousarray(samples, np.float32)
        dimensions = data.shape[1]
        if parts == 1:
            labels = np.zeros(len(data), int)
        else:
            cv2.setRNGSeed(1)
            stop = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 12, 0.5)
            blank = np.zeros((len(data), 1), np.int32)
            labels = cv2.kmeans(data, parts, blank, stop, 1, cv2.KMEANS_PP_CENTERS)[1].ravel()
        means, whitening, offsets = [], [], []
        for part in range(parts):
            own = data[labels == part].astype(float)
            if len(own) == 0:
                continue
            covariance = np.cov(own.T) if len(own) > dimensions else np.zeros((dimensions, dimensions))
            covariance = covariance + np.eye(dimensions) * spread**2
            means.append(own.mean(0))
            inverse = np.linalg.inv(covariance)
            whitening.append(np.linalg.cholesky(inverse).T)
            offsets.append(np.log(len(own) / len(data)) + 0.5 * np.linalg.slogdet(inverse)[1])
        shape = len(means), dimensions
        return cls(np.reshape(means, shape), np.reshape(whitening, (*shape, dimensions)), np.array(offsets))

    def log_likelihood(self, samples: np.ndarray) -> np.ndarray:
        """Log density, but for (2π) to the power of -d/2: samples (…, d) to float32 (…); -1e9 without parts."""
        if not len(self.means):
            return np.full(samples.shape[:-1], -1e9, np.float32)
        flat = np.ascontiguousarray(samples.reshape(-1, samples.shape[-1]).T, np.float32)
        parts = (v.astype(np.float32) for v in (self.means, self.whitening, self.offsets))
        return _log_likelihood(flat, *parts).reshape(samples.shape[:-1])


BLOCK = 256
"""Samples that are judged together: their values lie beside each other, so that one instruction takes several."""
DOUBLINGS = 10
"""The squarings by which exp(x) is taken as (1 + x/1024)^1024: to a thousandth where it counts, many at once."""


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _log_likelihood(samples, means, whitening, offsets):
    """Samples (d, n), means (k, d), whitening (k, d, d), offsets (k,) to (n,)."""
    dimensions, count = samples.shape
    parts = len(means)
    out = np.empty(count, np.float32)
    shift = np.zeros((parts, dimensions), np.float32)  # whitening · mean
    for k in range(parts):
        for row in range(dimensions):
            for column in range(row, dimensions):
                shift[k, row] += whitening[k, row, column] * means[k, column]
    for block in prange((count + BLOCK - 1) // BLOCK):
        first = block * BLOCK
        size = min(BLOCK, count - first)
        own = np.zeros((dimensions, BLOCK), np.float32)
        own[:, :size] = samples[:, first : first + size]
        each = np.empty((parts, BLOCK), np.float32)
        best = np.full(BLOCK, np.float32(-1e30))
        value = np.empty(BLOCK, np.float32)
        for k in range(parts):
            density = each[k]
            density[:] = offsets[k]
            for row in range(dimensions):
                value[:] = -shift[k, row]
                for column in range(row, dimensions):
                    by, along = whitening[k, row, column], own[column]
                    for i in range(BLOCK):
                        value[i] += by * along[i]
                for i in range(BLOCK):
                    density[i] -= np.float32(0.5) * value[i] * value[i]
            for i in range(BLOCK):
                best[i] = max(best[i], density[i])
        total = np.zeros(BLOCK, np.float32)
        for k in range(parts):
            density = each[k]
            for i in range(BLOCK):
                value[i] = max(np.float32(0), np.float32(1) + (density[i] - best[i]) / np.float32(2**DOUBLINGS))
            for _ in range(DOUBLINGS):
                for i in range(BLOCK):
                    value[i] *= value[i]
            for i in range(BLOCK):
                total[i] += value[i]
        for i in range(size):
            out[first + i] = best[i] + np.log(total[i])
    return out


def placed(colours: np.ndarray, long: float, weight: float) -> np.ndarray:
    """Colours (h, w, d) with the place of each pixel beside them: float32 (h, w, d + 2).

    `long` pixels count as much as `weight` units of colour: a model of these knows what colours are where.
    """
    h, w = colours.shape[:2]
    y, x = np.mgrid[0:h, 0:w].astype(np.float32) * np.float32(weight / long)
    return np.dstack([colours, x, y])


def roughness(picture: np.ndarray) -> np.ndarray:
    """The texture around each pixel of a picture uint8 RGB (h, w, 3): float32 (h, w), in octaves.

    The mean size of what differs from its own blur, levels, as a logarithm: -1 where all is even, about 4 in leaves.
    """
    light = cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY).astype(np.float32)
    detail = cv2.absdiff(light, cv2.GaussianBlur(light, (0, 0), 1.2))
    return np.log2(cv2.GaussianBlur(detail, (0, 0), 3) + np.float32(0.5))


def separation(keep: np.ndarray, drop: np.ndarray) -> float:
    """The separation of two sets of colours (n, 3): the share that their halves judge right, 0.5…1."""
    if min(len(keep), len(drop)) < 40:
        return 0.5
    right = []
    for half in (0, 1):
        first, second = Mixture.of(keep[half::2]), Mixture.of(drop[half::2])
        for colours, sign in ((keep[1 - half :: 2], 1), (drop[1 - half :: 2], -1)):
            right.append((sign * (first.log_likelihood(colours) - second.log_likelihood(colours)) > 0).mean())
    return float(np.mean(right))
