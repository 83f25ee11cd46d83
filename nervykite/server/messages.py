"""The messages of a page and the server over the preview stream; the page's types are made from these models.

The page asks in JSON. An answer is binary: its header's length (unsigned 32-bit, little endian), the header in JSON,
then the picture. News come as JSON text.
"""

import struct
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from ..core.change.edits import ClientEdit
from ..core.piece.model.base import FrameNumber, Number
from ..studio.carving import RoughRequest

Pixels = Annotated[int, Field(ge=2, le=4096)]
"""A side of a picture that is asked for."""
Stretch = tuple[int, int]
"""Frames, half-open."""
Point = tuple[float, float]
Box = tuple[float, float, float, float]
Matrix = tuple[float, float, float, float]
"""2×2, row by row."""


class FrameRequest(BaseModel):
    """A preview frame, at a size that is rounded to even numbers."""

    type: Literal["frame"]
    seq: int
    frame: FrameNumber
    width: Pixels
    height: Pixels
    exact: bool = False
    """Whether it is made of the footage itself, as it is sent, and not of its proxy."""
    draft: ClientEdit | None = None
    """An edit that is drawn but not made. Of drafts that wait, only the newest is drawn."""


class MatteRequest(BaseModel):
    """A hold's matte at a size."""

    type: Literal["matte"]
    seq: int
    hold: str
    frame: FrameNumber | None = None
    """The source frame that it travels to; None is the held one."""
    width: Pixels
    height: Pixels
    cut: bool = False
    """Whether it is the cutout itself, with the colours that its edge has where it flies."""
    draft: ClientEdit | None = None


class ClingRequest(BaseModel):
    """A line along the edges of a source frame, from one point to another, in source pixels."""

    type: Literal["cling"]
    seq: int
    shot: str
    frame: FrameNumber
    start: tuple[Number, Number]
    to: tuple[Number, Number]
    draft: None = None


class RoughMatteRequest(RoughRequest):
    """About what a hold's matte will be once strokes are worked out; small."""

    type: Literal["rough"]
    seq: int
    hold: str
    draft: None = None


class AtWorkRequest(BaseModel):
    """Somebody has a hand on the page, or plays: what can wait waits for a while. It is not answered."""

    type: Literal["at work"]


AnyRequest = FrameRequest | MatteRequest | ClingRequest | RoughMatteRequest
request_of: TypeAdapter[AnyRequest | AtWorkRequest] = TypeAdapter(
    Annotated[AnyRequest | AtWorkRequest, Field(discriminator="type")]
)


class PlacedLayer(BaseModel):
    """Where a layer is in a frame."""

    id: str
    box: Box
    """The left, top, right and bottom of what there is to see, in its source's pixels."""
    corners: list[Point]
    """The corners of that box in canvas pixels, from the top left one on, clockwise."""
    anchor: Point
    """The anchor in canvas pixels."""
    values: dict[str, list[float]]
    """The values of its channels and of its finishes' settings at this frame."""
    shows: int
    """The number of its source's own frame that is seen, from 0 on."""
    within: Matrix
    """The matrix by which its groups and its pin turn and scale it; the inverse takes movements into it."""


class ShownItem(BaseModel):
    """The item of the ground that a frame shows."""

    item: str
    frame: int
    """The number of its source's own frame that is seen, from 0 on."""
    values: dict[str, list[float]]
    corners: list[Point]
    """The corners of its picture in canvas pixels, from the top left one on, clockwise."""


class Message(BaseModel):
    """A message of the server: every field of it, always."""

    model_config = ConfigDict(json_schema_serialization_defaults_required=True)


class Header(Message):
    """The part of a header that every answer has."""

    seq: int
    skipped: bool = False
    """Whether nothing was drawn, as a newer draft was waiting."""
    trouble: str | None = None
    """Why nothing could be drawn."""


class FrameHeader(Header):
    """The header of a frame, which follows as a JPEG."""

    type: Literal["frame"] = "frame"
    revision: int = 0
    frame: int = 0
    key: str = ""
    """The key of all that it shows: frames with the same key look the same."""
    layers: list[PlacedLayer] = []
    source: ShownItem | None = None
    spans: dict[str, Stretch] = {}
    """The spans of those layers that the draft lays elsewhere in time, in project frames."""
    ground: dict[str, Stretch] = {}
    """The places of those items of the ground that it lays elsewhere in time, in project frames."""
    keys: dict[str, int] = {}
    """The project frames of those keys of layers that it lays elsewhere in time."""


class MatteHeader(Header):
    """The header of a matte, of which a part follows as a PNG; beyond that part there is nothing."""

    type: Literal["matte", "rough"] = "matte"
    box: tuple[int, int, int, int] = (0, 0, 0, 0)
    """The left, top, width and height of the part, in pixels of the whole."""
    size: tuple[int, int] = (0, 0)
    """The width and height of the whole, in pixels."""


class ClingHeader(Header):
    """The header of a line, which no picture follows."""

    type: Literal["cling"] = "cling"
    points: list[Point] = []
    """The points of the line, in source pixels."""


class JobView(BaseModel):
    """A job as the page sees it."""

    id: str
    kind: str
    project: str
    title: str
    state: str
    progress: float
    message: str | None
    result: dict[str, Any] | None
    made: str
    remaining: float | None = None
    """How many seconds it will still take, about."""
    edits: bool = False
    """Whether it may change the document while it runs."""
    quiet: bool = False
    """Whether the place it was started from tells how it ended."""
    held: bool = False
    """Whether its line is held up."""


class ChangedNews(Message):
    """The project was changed."""

    type: Literal["changed"] = "changed"
    revision: int


class JobNews(Message):
    """A job went on."""

    type: Literal["job"] = "job"
    job: JobView


class WatchedNews(Message):
    """A shot was looked through, up to a frame."""

    type: Literal["watched"] = "watched"
    shot: str
    past: int


class TroubleNews(Message):
    """Something that was asked for cannot be understood."""

    type: Literal["trouble"] = "trouble"
    message: str


News = Annotated[ChangedNews | JobNews | WatchedNews | TroubleNews, Field(discriminator="type")]
MESSAGES = (
    FrameRequest, MatteRequest, ClingRequest, RoughMatteRequest, AtWorkRequest, FrameHeader, MatteHeader, ClingHeader,
    ChangedNews, JobNews, WatchedNews, TroubleNews,
)  # fmt: skip
"""All that goes either way, for the description of the API."""


def packed(header: Header, data: bytes = b"") -> bytes:
    """An answer as it is sent."""
    head = header.model_dump_json().encode()
    return struct.pack("<I", len(head)) + head + data
