"""The base of all documents: strict, frozen models, exact rates, colours, names, ids."""

import uuid
from fractions import Fraction
from typing import Annotated

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field, PlainSerializer, WithJsonSchema


class Model(BaseModel):
    """A document part. Frozen: an edit makes a new one, so that old ones can be kept and compared."""

    model_config = ConfigDict(
        frozen=True, extra="forbid", allow_inf_nan=False, json_schema_serialization_defaults_required=True
    )


def new_id() -> str:
    """A fresh id: 16 hexadecimal digits."""
    return uuid.uuid4().hex[:16]


def _to_rate(value: object) -> Fraction:
    try:
        rate = Fraction(value) if isinstance(value, str | int | Fraction) else None
    except (ValueError, ZeroDivisionError):
        rate = None
    if rate is None or not Fraction(1) <= rate <= 240:
        raise ValueError("a frame rate is written like 30 or 30000/1001 and lies between 1 and 240")
    return rate


Rate = Annotated[
    Fraction,
    BeforeValidator(_to_rate),
    PlainSerializer(str, return_type=str),
    WithJsonSchema({"type": "string", "pattern": r"^\d+(/\d+)?$"}),
]
"""Frames a second, exact; written like "30" or "30000/1001"."""

Id = Annotated[str, Field(pattern=r"^[0-9a-f]{16}$")]
Colour = Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")]
"""An sRGB colour, "#rrggbb"."""


def _to_name(name: str) -> str:
    name = " ".join("".join(c if c.isprintable() else " " for c in name).split())
    if not name:
        raise ValueError("a name needs at least one letter")
    return name


Name = Annotated[str, Field(max_length=120), AfterValidator(_to_name)]
Number = Annotated[float, Field(ge=-1e6, le=1e6)]
MOST_FRAMES = 10_000_000
"""More than any shot or piece has: six hours at 240 frames a second are half of that."""
FrameNumber = Annotated[int, Field(ge=0, le=MOST_FRAMES)]
"""A frame, counted from 0."""
FramePast = Annotated[int, Field(ge=1, le=MOST_FRAMES)]
"""The first frame after a range."""
