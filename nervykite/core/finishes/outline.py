"""Outline: a line of even width around the cutout."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ..matte.distance import distance_outside
from ..model.base import Colour
from ..model.finish import FinishKind, Target


class Outline(FinishKind):
    """Drawn under the cutout, from its edge outwards."""

    kind: Literal["outline"] = "outline"
    title: ClassVar[str] = "Outline"
    on: ClassVar[tuple[Target, ...]] = ("cutout",)

    width: Annotated[float, Field(ge=0, le=80, title="Width", json_schema_extra={"unit": "px", "step": 0.5})] = 6.0
    colour: Annotated[Colour, Field(title="Colour", json_schema_extra={"format": "colour"})] = "#FFFFFF"
    opacity: Annotated[float, Field(ge=0, le=1, title="Opacity", json_schema_extra={"unit": "%"})] = 1.0

    def reach(self) -> float:
        return self.width + 1

    def cutout(self, rgba: np.ndarray, scale: float) -> np.ndarray:
        width = self.width * scale
        line = np.clip(width + 0.5 - distance_outside(rgba[..., 3]), 0, 1) * min(1.0, width) * self.opacity
        red, green, blue = (int(self.colour[i : i + 2], 16) / 255 for i in (1, 3, 5))
        under = np.dstack([line * red, line * green, line * blue, line]).astype(np.float32)
        return rgba + under * (1 - rgba[..., 3:])
