"""Soft blur: the ground out of the way, without a hint of lens."""

from dataclasses import replace
from typing import Annotated, ClassVar, Literal

import cv2
import numpy as np
from pydantic import Field

from ..model.finish import FinishKind, Target


class SoftBlur(FinishKind):
    """A Gaussian blur; wide ones are done on a smaller picture, where they cost as little as narrow ones.

    The radius is how far a point spreads (two standard deviations).
    """

    kind: Literal["soft-blur"] = "soft-blur"
    title: ClassVar[str] = "Soft blur"
    on: ClassVar[tuple[Target, ...]] = ("ground",)

    radius: Annotated[float, Field(ge=0, le=200, title="Radius", json_schema_extra={"unit": "px", "step": 1})] = 14.0

    def ground(self, planes, scale: float):
        sigma = self.radius * scale / 2
        if sigma < 0.15:
            return planes
        return replace(planes, y=_blur(planes.y, sigma), u=_blur(planes.u, sigma / 2), v=_blur(planes.v, sigma / 2))


def _blur(plane: np.ndarray, sigma: float) -> np.ndarray:
    h, w = plane.shape
    by = 1
    while sigma / by > 6 and min(h, w) // (by * 2) > 8:
        by *= 2
    if by == 1:
        return cv2.GaussianBlur(plane, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE)
    small = cv2.resize(plane, (-(-w // by), -(-h // by)), interpolation=cv2.INTER_AREA)
    small = cv2.GaussianBlur(small, (0, 0), sigma / by, borderType=cv2.BORDER_REPLICATE)
    return cv2.resize(small, (w, h), interpolation=cv2.INTER_CUBIC)
