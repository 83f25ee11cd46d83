"""What the page is given: the document, and all that the core worked out about it."""

from fractions import Fraction
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from ..core.edits import ClientEdit
from ..core.model import Found, Hold, Layer, Project, Shot
from ..core.model.base import Name, Number, Rate
from ..core.model.document import Moment
from ..core.motion.keys import frame_of
from ..core.picture.evaluate import Evaluation
from ..store.projects import State

StopState = Literal["locked", "fixed", "stale", "doubtful", "carried"]


class ShotView(BaseModel):
    """A shot without its frame index."""

    id: str
    name: str
    frames: int
    width: int
    height: int
    rate: Rate
    variable: bool
    colour: str
    depth: int
    rotation: int
    has_sound: bool
    seconds: float
    note: str | None
    cuts: list[int]
    moments: list[Moment]

    @classmethod
    def of(cls, shot: Shot) -> "ShotView":
        """The view of a shot."""
        seconds = float(shot.ticks[-1] * Fraction(shot.tick))
        same = shot.model_dump(include=set(cls.model_fields) - {"frames", "seconds", "moments"})
        return cls(**same, frames=shot.frames, seconds=seconds, moments=shot.moments)


class ItemView(BaseModel):
    """Where a ground item lies in the piece, and the source frame of each of its frames."""

    id: str
    start: int
    length: int
    frames: list[int]


class LayerView(BaseModel):
    """A layer's span and keys in project frames; `shares` are the other layers with the same hold."""

    id: str
    start: int | None
    end: int | None
    landing: int | None
    keys: dict[str, int]
    shares: list[str]
    carved: bool


class ProjectView(BaseModel):
    """A project at a revision."""

    project: Project
    shots: dict[str, ShotView]
    holds: dict[str, Hold]
    revision: int
    undo: str | None
    redo: str | None
    length: int
    items: list[ItemView]
    layers: dict[str, LayerView]
    strips: dict[str, dict[int, StopState]]
    """For holds whose matte travels: what the matte at each frame is."""
    takes: dict[str, tuple[int, int]]
    """For each hold the first frame of its take, and the first one after it: so far its matte can be carried."""

    @classmethod
    def of(cls, state: State, evaluation: Evaluation) -> "ProjectView":
        """The view of a state."""
        document = state.document
        items = [
            ItemView(id=i.id, start=evaluation.starts[i.id], length=len(t), frames=t.tolist())
            for i in document.project.ground
            for t in [evaluation.tables[i.id]]
        ]
        return cls(
            project=document.project,
            shots={k: ShotView.of(s) for k, s in document.shots.items()},
            holds=document.holds,
            revision=state.revision,
            undo=state.undo,
            redo=state.redo,
            length=evaluation.length,
            items=items,
            strips={
                h.id: {s.frame: s.state for s in h.travel.stops} | {h.frame: "fixed"}
                for h in document.holds.values()
                if h.travel
            },
            takes={h.id: _take(document.shots[h.shot], h.frame) for h in document.holds.values()},
            layers={x.id: _layer_view(x, state, evaluation) for x in document.project.layers},
        )


def _take(shot: Shot, frame: int) -> tuple[int, int]:
    take = shot.take(frame)
    return take.start, take.stop


def _layer_view(layer: Layer, state: State, evaluation: Evaluation) -> LayerView:
    span = evaluation.spans[layer.id]
    others = [x.id for x in state.document.project.layers if x.hold == layer.hold and x.id != layer.id]
    return LayerView(
        id=layer.id,
        start=span and span.start,
        end=span and span.end,
        landing=span and span.landing,
        keys={k.id: frame_of(k, span.ties) for k in layer.keys} if span else {},
        shares=others,
        carved=state.document.holds[layer.hold].matte.carved,
    )


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


class ExportRequest(BaseModel):
    """What to export: quality, and a half-open range of frames (None: all)."""

    quality: str = "good"
    range: tuple[int, int] | None = None


class FinishView(BaseModel):
    """A finish that can be put on: its settings as JSON Schema, from which the page builds the controls."""

    kind: str
    title: str
    target: str
    settings: dict[str, Any]


class Catalog(BaseModel):
    """What the core knows: finishes, easing presets, qualities."""

    finishes: list[FinishView]
    easings: dict[str, tuple[float, float, float, float]]
    qualities: list[str]


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
    """An error: a sentence; and the newer revision if the edit was stale."""

    message: str
    revision: int | None = None
