"""What the page asks for, and what it is told when that cannot be done."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from ..core.edits import ClientEdit
from ..core.model import Found
from ..core.model.base import Name, Number
from ..core.model.blend import BlendMode


class NewProject(BaseModel):
    """A name for a project."""

    name: Name = "New piece"


class EditRequest(BaseModel):
    """An edit, and the revision it was made on."""

    revision: int
    edit: ClientEdit


class StepRequest(BaseModel):
    """The revision an undo or redo was asked for on."""

    revision: int


class SoundView(BaseModel):
    """What the sound of a piece is made of: `blocks` are the keys of its seconds in order, `key` is that of all of it.

    A block is 3 × 25 float32, the peaks of footage, bed and hits in each 25th of a second, then float32 (2, n) at 48
    kHz, left before right, all little-endian.
    """

    key: str
    samples: int
    silent: bool
    blocks: list[str]


class TrackRequest(BaseModel):
    """What is to be pinned, and how; `at` is the project frame at which what was not held lies as it does."""

    layers: Annotated[list[str], Field(min_length=1, max_length=500)]
    how: Literal["place", "turn", "full"] = "full"
    at: Annotated[int, Field(ge=0)] | None = None


class LoudnessView(BaseModel):
    """How loud a piece is, in LUFS, and its true peak, in dBTP: None if nothing is heard; `gain` is by how many
    decibels its mix was made louder for that."""

    key: str
    gain: float
    loudness: float | None
    peak: float | None


class RescueRequest(BaseModel):
    """The step that is taken back, with all after it."""

    step: Annotated[int, Field(ge=1, le=1_000_000_000)]


class ExportRequest(BaseModel):
    """What to export: the format with its settings, and a half-open range of frames (None: all)."""

    writer: dict[str, Any] = {"kind": "mp4"}
    range: tuple[int, int] | None = None


class KindView(BaseModel):
    """Something that can be chosen: its settings as JSON Schema, from which the page builds the controls.

    `on` says what it goes with: for finishes *cutout* and *ground*, for sources *sky* and *ground*, for arrangements
    *still* and *moving*, for moves *in* and *out*, for behaviours *sky*, *ground* and *piece*. `looks` is the family
    that a finish or a source belongs to.
    """

    kind: str
    title: str
    hint: str
    on: list[str]
    settings: dict[str, Any]
    looks: str = ""


class ChannelView(BaseModel):
    """A number of a layer's pose that can have keys."""

    name: str
    title: str
    count: int
    low: float
    high: float


class AxisView(BaseModel):
    """Something about a face that can be varied, from low to high."""

    tag: str
    title: str
    low: float
    usual: float
    high: float


class FaceView(BaseModel):
    """A face that words can be set in, and of what sort it is."""

    id: str
    title: str
    sort: str
    axes: list[AxisView]


class RoomView(BaseModel):
    """Where there is room for a card: its middle and its width, in project pixels, and where a subject's head lies from
    there, in degrees clockwise from the right; `shared` is how much of that room a subject fills, 0…1."""

    x: float
    y: float
    wide: float
    tail: float
    shared: float


class Catalog(BaseModel):
    """What the core knows."""

    finishes: list[KindView]
    sources: list[KindView]
    cards: list[KindView]
    sounds: list[KindView]
    faces: list[FaceView]
    arrangements: list[KindView]
    formats: list[KindView]
    channels: list[ChannelView]
    moves: list[KindView]
    behaviours: list[KindView]
    easings: dict[str, tuple[float, float, float, float]]
    blends: dict[str, list[BlendMode]]


class FrameKeysView(BaseModel):
    """The keys of frames from `first` on, at a revision: what the page knows kept frames by."""

    revision: int
    first: int
    keys: list[str]


class OutlineRequest(BaseModel):
    """A found piece to be drawn as paths that lie within `tolerance` pixels of its outline."""

    piece: Found
    tolerance: Annotated[float, Field(ge=0.2, le=20)] = 0.8


class PathRequest(BaseModel):
    """Points of a closed line, in source pixels."""

    points: Annotated[list[tuple[Number, Number]], Field(min_length=3, max_length=40_000)]
    tolerance: Annotated[float, Field(ge=0.2, le=20)] = 1.0


class SaveMatte(BaseModel):
    """A hold's matte for the shelf; `pieces` are the ids of those to save (None: all)."""

    project: str
    hold: str
    name: Name
    pieces: list[str] | None = None


class Trouble(BaseModel):
    """An error: a sentence; the newer revision if the edit was stale; whether taking steps back would help."""

    message: str
    revision: int | None = None
    rescue: bool = False
