"""Soft blur: the ground out of the way, without a hint of lens."""

from typing import Annotated, ClassVar

import cv2
from pydantic import BaseModel, ConfigDict, Field

from ..footage.planes import Planes
from .registry import GROUND


class SoftBlurSettings(BaseModel):
    """Radius in project pixels: how far a point spreads (two standard deviations)."""

    model_config = ConfigDict(extra="forbid")

    radius: Annotated[float, Field(ge=0, le=200, title="Radius", json_schema_extra={"unit": "px", "step": 1})] = 14.0


class SoftBlur:
    """A Gaussian blur; wide ones are done on a smaller picture, where they cost as little as narrow ones."""

    kind: ClassVar[str] = "soft-blur"
    title: ClassVar[str] = "Soft blur"
    settings: ClassVar[type[BaseModel]] = SoftBlurSettings

    def apply(self, planes: Planes, settings: SoftBlurSettings, scale: float) -> Planes:
        """The blurred picture, same size."""
        sigma = settings.radius * scale / 2
        if sigma < 0.15:
            return planes
        return Planes(_blur(planes.y, sigma), _blur(planes.u, sigma / 2), _blur(planes.v, sigma / 2))


def _blur(plane, sigma: float):
    h, w = plane.shape
    by = 1
    while sigma / by > 6 and min(h, w) // (by * 2) > 8:
        by *= 2
    if by == 1:
        return cv2.GaussianBlur(plane, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE)
    small = cv2.resize(plane, (-(-w // by), -(-h // by)), interpolation=cv2.INTER_AREA)
    small = cv2.GaussianBlur(small, (0, 0), sigma / by, borderType=cv2.BORDER_REPLICATE)
    return cv2.resize(small, (w, h), interpolation=cv2.INTER_CUBIC)


GROUND[SoftBlur.kind] = SoftBlur()
