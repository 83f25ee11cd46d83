"""What a page and the server say to each other over the preview stream; the page's types are made from these models.

The page asks in JSON. An answer is binary: its header's length (unsigned 32-bit, little endian), the header in JSON,
then the picture. News come as JSON text.
"""

import struct
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from ..core.edits import ClientEdit
from ..core.model.base import Number
from ..studio.carving import RoughRequest

Side = Annotated[int, Field(ge=2, le=4096)]
FrameNumber = Annotated[int, Field(ge=0)]
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
    width: Side
    height: Side
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
    """A source frame that it travels to; None: the held one."""
    width: Side
    height: Side
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


class Outline(BaseModel):
    """Where a layer is in a frame."""

    id: str
    box: Box
    """In its source's pixels: left, top, right, bottom."""
    corners: list[Point]
    """In canvas pixels, from the top left one on, clockwise."""
    anchor: Point
    """In canvas pixels."""
    values: dict[str, list[float]]
    """Of its channels and the settings of its finishes, at this frame."""
    shows: int
    """Which of its source's own frames is seen."""
    within: Matrix
    """How its groups and its pin turn and scale it: a movement on the canvas is one in it by the inverse."""


class Lying(BaseModel):
    """The item of the ground that a frame shows."""

    item: str
    frame: int
    """Which of its source's own frames."""
    values: dict[str, list[float]]
    corners: list[Point]
    """Of its picture, in canvas pixels, from the top left one on, clockwise."""


class Said(BaseModel):
    """What the server says: all of it, always."""

    model_config = ConfigDict(json_schema_serialization_defaults_required=True)


class Header(Said):
    """What every answer says."""

    seq: int
    skipped: bool = False
    """Whether nothing was drawn, as a newer draft was waiting."""
    trouble: str | None = None
    """Why nothing could be drawn."""


class FrameHeader(Header):
    """Of a frame, a JPEG."""

    type: Literal["frame"] = "frame"
    revision: int = 0
    frame: int = 0
    key: str = ""
    """Of all that it shows: frames with the same key look the same."""
    layers: list[Outline] = []
    source: Lying | None = None
    spans: dict[str, Stretch] = {}
    """The layers that the draft lays elsewhere in time."""
    ground: dict[str, Stretch] = {}
    """The items of the ground that it lays elsewhere in time."""
    keys: dict[str, int] = {}
    """The keys of layers that it lays elsewhere in time, each with its frame."""


class MatteHeader(Header):
    """Of a matte, a PNG: a part of the whole, beyond which there is nothing."""

    type: Literal["matte", "rough"] = "matte"
    box: tuple[int, int, int, int] = (0, 0, 0, 0)
    """Left, top, width and height of the part."""
    size: tuple[int, int] = (0, 0)
    """Width and height of the whole."""


class ClingHeader(Header):
    """Of a line; no picture follows."""

    type: Literal["cling"] = "cling"
    points: list[Point] = []
    """In source pixels."""


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


class ChangedNews(Said):
    """The project was changed."""

    type: Literal["changed"] = "changed"
    revision: int


class JobNews(Said):
    """A job went on."""

    type: Literal["job"] = "job"
    job: JobView


class WatchedNews(Said):
    """A shot was looked through, up to a frame."""

    type: Literal["watched"] = "watched"
    shot: str
    past: int


class TroubleNews(Said):
    """Something that was asked for cannot be understood."""

    type: Literal["trouble"] = "trouble"
    message: str


News = Annotated[ChangedNews | JobNews | WatchedNews | TroubleNews, Field(discriminator="type")]
SAID = (
    FrameRequest, MatteRequest, ClingRequest, RoughMatteRequest, AtWorkRequest, FrameHeader, MatteHeader, ClingHeader,
    ChangedNews, JobNews, WatchedNews, TroubleNews,
)  # fmt: skip
"""All that is said, for the description of the API."""


def packed(header: Header, data: bytes = b"") -> bytes:
    """An answer as it is sent."""
    head = header.model_dump_json().encode()
    return struct.pack("<I", len(head)) + head + data
