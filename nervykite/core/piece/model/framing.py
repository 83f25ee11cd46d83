"""Where things lie: boxes, and how a source lies on the canvas at rest."""

from typing import Annotated, Literal

from pydantic import Field

from .base import Model

Box = tuple[float, float, float, float]
"""Left, top, right, bottom."""


class Framing(Model):
    """The framing of a source on the canvas at rest: it *fills* it and is cut off, it *fits* in whole, or as by *hand*.

    By hand its middle lies `across` and `down` from the canvas's, in canvas widths and heights; it is `scale` times as
    large as where it fills, and turned by so many degrees clockwise. However it lies, it can be `mirrored`, left to
    right.
    """

    mode: Literal["fill", "fit", "hand"] = "fill"
    across: Annotated[float, Field(ge=-10, le=10)] = 0.0
    down: Annotated[float, Field(ge=-10, le=10)] = 0.0
    scale: Annotated[float, Field(ge=0.01, le=50)] = 1.0
    turn: Annotated[float, Field(ge=-3600, le=3600)] = 0.0
    mirrored: bool = False
