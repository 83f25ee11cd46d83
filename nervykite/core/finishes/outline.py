"""Outline: a line of even width around the cutout."""

from typing import Annotated, ClassVar

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from ..matte.distance import distance_outside
from ..model.base import Colour
from .registry import CUTOUT


class OutlineSettings(BaseModel):
    """Width in project pixels, colour, opacity 0…1."""

    model_config = ConfigDict(extra="forbid")

    width: Annotated[float, Field(ge=0, le=80, title="Width", json_schema_extra={"unit": "px", "step": 0.5})] = 6.0
    colour: Annotated[Colour, Field(title="Colour")] = "#FFFFFF"
    opacity: Annotated[float, Field(ge=0, le=1, title="Opacity", json_schema_extra={"unit": "%"})] = 1.0


class Outline:
    """Drawn under the cutout, from its edge outwards."""

    kind: ClassVar[str] = "outline"
    title: ClassVar[str] = "Outline"
    settings: ClassVar[type[BaseModel]] = OutlineSettings

    def reach(self, settings: OutlineSettings) -> float:
        """The width of the line, and a pixel for its soft edge."""
        return settings.width + 1

    def apply(self, rgba: np.ndarray, settings: OutlineSettings, scale: float) -> np.ndarray:
        """The cutout over its line: premultiplied float32 (h, w, 4) in and out."""
        width = settings.width * scale
        line = np.clip(width + 0.5 - distance_outside(rgba[..., 3]), 0, 1) * min(1.0, width) * settings.opacity
        red, green, blue = (int(settings.colour[i : i + 2], 16) / 255 for i in (1, 3, 5))
        under = np.dstack([line * red, line * green, line * blue, line]).astype(np.float32)
        return rgba + under * (1 - rgba[..., 3:])


CUTOUT[Outline.kind] = Outline()
