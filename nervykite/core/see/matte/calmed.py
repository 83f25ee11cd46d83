"""A picture whose colours are calmed, if a camera's noise is stronger in them than things are."""

from dataclasses import dataclass

import cv2
import numpy as np


@dataclass(frozen=True)
class CalmSettings:
    """From when on colours are calmed, and how much."""

    strong: float = 6.0
    """The noise of Cr or Cb, its standard deviation in levels of 8 bits, from which on they are calmed."""
    wide: float = 2.0
    """Over how many pixels, as the standard deviation of a Gaussian."""
    every: int = 4
    """Every which row and column is looked at to tell."""
    apart: int = 2
    """How many pixels apart, to the right and down, two colours are compared: no less than codecs halve colours by."""


def calmed(picture: np.ndarray, settings: CalmSettings = CalmSettings()) -> np.ndarray:
    """A picture, uint8 RGB (h, w, 3), with its colours blurred if they are noisy all over; its light stays as it is.

    Small sensors and strong compression shift single pixels between red and green: light is little touched by that, and
    carries the edges (Y'CbCr of Rec. ITU-R BT.601). How strong the noise is tell the differences of near pixels by
    their median absolute value, which edges do not move (Rousseeuw and Croux 1993). Returns the picture itself if its
    colours are calm.
    """
    if noise_of_colours(picture, settings) < settings.strong:
        return picture
    parts = cv2.cvtColor(picture, cv2.COLOR_RGB2YCrCb)
    parts[..., 1:] = cv2.GaussianBlur(parts[..., 1:], (0, 0), settings.wide)
    return cv2.cvtColor(parts, cv2.COLOR_YCrCb2RGB)


def noise_of_colours(picture: np.ndarray, settings: CalmSettings = CalmSettings()) -> float:
    """The noise of the noisier of Cr and Cb in a picture, uint8 RGB (h, w, 3): a standard deviation, in levels."""
    every, apart = settings.every, settings.apart
    here, beside = picture[:-apart:every, :-apart:every], picture[apart::every, apart::every]
    if not here.size:
        return 0.0
    ours, theirs = (cv2.cvtColor(p, cv2.COLOR_RGB2YCrCb)[..., 1:] for p in (here, beside[: len(here), : here.shape[1]]))
    differs = cv2.absdiff(ours, theirs)
    return float(1.48 / np.sqrt(2) * np.median(differs.reshape(-1, 2), axis=0).max())
