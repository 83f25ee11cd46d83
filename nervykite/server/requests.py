"""The requests of the page, and what it is told when one cannot be done."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field, model_validator

from ..core.change.edits import ClientEdit
from ..core.draw.send.sending import Sending
from ..core.piece.model import Found
from ..core.piece.model.base import Name, Number
from ..core.piece.model.blend import BlendMode
from ..core.piece.model.framing import Box
from ..core.piece.model.track import Place


class NewProject(BaseModel):
    """A name for a project."""

    name: Name = "New piece"


class StepRequest(BaseModel):
    """The revision an undo or redo was asked for on, and the frame that is looked at: keys near it come along."""

    revision: int
    at: Annotated[int, Field(ge=0)] | None = None


class EditRequest(StepRequest):
    """An edit, with the same."""

    edit: ClientEdit


class SoundView(BaseModel):
    """The blocks of a piece's sound: `blocks` are the keys of its seconds in order, `key` is that of all of it.

    A block is 3 × 25 float32, the peaks of footage, bed and hits in each 25th of a second, then float32 (2, n) at 48
    kHz, left before right, all little-endian.
    """

    key: str
    samples: int
    silent: bool
    blocks: list[str]


class TrackRequest(BaseModel):
    """The order to follow something, and what goes by that: layers that are pinned, or an item of the ground that is
    steadied.

    `at` is the project frame at which what was not held lies as it does, and in which a place is `touched`, or a
    `patch` drawn, in pixels of the shot that is seen there. `model` is what maps are made of (None: the data says);
    `replaces` the track in whose place this one is put.
    """

    layers: Annotated[list[str], Field(max_length=500)] = []
    item: str | None = None
    how: Literal["place", "turn", "full", "shake"] = "full"
    at: Annotated[int, Field(ge=0)] | None = None
    touched: Place | None = None
    patch: Box | None = None
    model: Literal["similarity", "turn", "affine", "homography"] | None = None
    replaces: str | None = None

    @model_validator(mode="after")
    def _is_for_something(self) -> "TrackRequest":
        if bool(self.layers) == (self.item is not None):
            raise ValueError("what is followed is for layers, or for an item of the ground")
        return self


class TrackFile(BaseModel):
    """The text of a track's file, and the file's name; it is of the shot that is seen at a project frame."""

    at: Annotated[int, Field(ge=0)]
    name: Annotated[str, Field(max_length=300)]
    text: Annotated[str, Field(max_length=40_000_000)]


class LoudnessView(BaseModel):
    """The loudness of a piece, in LUFS, and its true peak, in dBTP: None if nothing is heard; `gain` is by how many
    decibels its mix was made louder for that.
    """

    key: str
    gain: float
    loudness: float | None
    peak: float | None


class RescueRequest(BaseModel):
    """The step that is taken back, with all after it."""

    step: Annotated[int, Field(ge=1, le=1_000_000_000)]


class TimelineFile(BaseModel):
    """An OpenTimelineIO file, and its name."""

    name: Annotated[str, Field(max_length=300)]
    text: Annotated[str, Field(max_length=40_000_000)]


class OpenedView(BaseModel):
    """The project that was made of a file, by its id, and what of the file was not taken over, in sentences."""

    project: str
    left: list[str]


class TimelineView(BaseModel):
    """The part of a timeline that can be taken over, as edits, and what cannot, in sentences."""

    edits: list[dict[str, Any]]
    left: list[str]


class StillsRequest(BaseModel):
    """True if all flagged frames are written, or all that was cut out."""

    which: Literal["moments", "cutouts"]


class HoldRequest(BaseModel):
    """True if what is sent is held up."""

    held: bool


class BundleRequest(BaseModel):
    """True if a bundle has takes and things of the shelf that the piece does not use."""

    unused: bool = True


class TimelineRequest(BaseModel):
    """A timeline with its footage beside it in one file."""


class OutputRequest(BaseModel):
    """The order of a file, as which format with its settings."""

    writer: dict[str, Any] = {"kind": "mp4"}
    sending: Sending = Sending()


class ExportRequest(OutputRequest):
    """A file that is to be sent, and those that are to be sent together with it."""

    also: Annotated[list[OutputRequest], Field(max_length=11)] = []


class ForetoldView(BaseModel):
    """Bytes that a file is likely to have, and seconds that it will take."""

    size: int
    seconds: float


class KindView(BaseModel):
    """Something that can be chosen: its settings as JSON Schema, from which the page builds the controls.

    `on` says what it goes with: for finishes *cutout* and *ground*, for sources *sky* and *ground*, for arrangements
    *still* and *moving*, for moves *in* and *out*, for behaviours *sky*, *ground* and *piece*, for formats *clear*
    if it keeps alpha, and *single*. `looks` is the family that a finish or a source belongs to.
    """

    kind: str
    title: str
    hint: str
    on: list[str]
    settings: dict[str, Any]
    looks: str = ""


class RecipeView(KindView):
    """A recipe: what it is for, how to film for it, usual mistakes; how many takes it needs, whether it shows words."""

    when: str
    film: str
    missed: str
    takes: int
    words: bool
    listed: bool


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
    there, in degrees clockwise from the right; `shared` is how much of that room a subject fills, 0…1.
    """

    x: float
    y: float
    wide: float
    tail: float
    shared: float


class Catalog(BaseModel):
    """The catalog of what the core knows."""

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
    recipes: list[RecipeView]
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
