"""The views given to the page: the document, and all that the core worked out about it, or what has changed of both."""

from fractions import Fraction
from typing import Any, Literal

import numpy as np
from pydantic import BaseModel

from ..core.change.edits.base import hold_shown
from ..core.change.edits.waiting import waits_for
from ..core.common.errors import Refusal
from ..core.craft.synthesis.sample_rate import RATE
from ..core.draw.picture.affected import FrameKeys, Range, affected
from ..core.draw.sound.mix import long_of, seconds_of
from ..core.draw.sound.plan import placed, plan_of
from ..core.kinds.sources.steadied import steadied_of
from ..core.piece.model import (
    Arrangement,
    Asset,
    Behaviour,
    Blur,
    Cue,
    Document,
    GroundItem,
    Hold,
    Layer,
    Made,
    Mix,
    Piece,
    Shot,
    Stop,
    Track,
)
from ..core.piece.model.base import Rate
from ..core.piece.model.project import FinishSet
from ..core.piece.model.shot import Moment
from ..core.piece.timeline.beats import accents_of_cue, beats_of_cue, counted_of
from ..core.piece.timeline.timeline import Timeline
from ..core.see.footage.framing_matrix import corners
from ..core.see.scene.fixes import maps_of
from ..core.see.scene.patch import PatchFollowing
from ..store.projects import State

StopState = Literal["locked", "fixed", "stale", "doubtful", "carried"]


class Head(BaseModel):
    """A project without its ground and layers, with its cues and its mix."""

    id: str
    name: str
    width: int
    height: int
    rate: Rate
    background: str
    loop: tuple[int, int] | None
    cues: list[Cue]
    mix: Mix
    behaviours: list[Behaviour]
    blur: Blur
    palette: list[str]
    sets: list[FinishSet]
    made: list[Made]


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


class HoldView(BaseModel):
    """A hold without the frames that its matte travelled to. `take`: so far it can be carried, half-open."""

    hold: Hold
    take: tuple[int, int]


class StopView(BaseModel):
    """A travelling matte at a frame, and what a person should know about it, in a word."""

    frame: int
    state: StopState
    pieces: list[Piece]


class SteadiedView(BaseModel):
    """The number of times as large steadied footage is made, and at how many of its frames its edge is seen all the
    same.
    """

    larger: float
    edges: int


class ItemView(BaseModel):
    """Where a ground item lies in the piece, the source frame of each of its frames, and what it is called.

    `shot` is the shot whose frames are shown, or that a still was taken from; `footage` says that cutouts can be held;
    `range` are the frames that it plays, half-open, if it can be trimmed. `can` is what can be done with its source.
    `tag` is what is written on its strip, `shade` the one colour that it is, `stored` the hash of the stored picture
    that it shows. `steadied` says what steadying it costs.
    """

    start: int
    length: int
    frames: list[int]
    name: str
    shot: str | None
    footage: bool
    range: tuple[int, int] | None
    can: list[str]
    tag: str
    shade: str | None
    stored: str | None
    steadied: SteadiedView | None


class LayerView(BaseModel):
    """A layer's span and keys in project frames; `shares` are the other layers with the same hold.

    `free` are the ends of its span that can be dragged; `waits` says why it has no span. `moves` says whether it can
    run along with its footage, `carved` whether there is anything to see of it, `suits` which arrangements it can have,
    `gathers` that other layers belong to it, `can` what can be done with its source (`Source.can`), `size` how large
    its picture is in its own pixels, `missing` which of the characters of its words nothing can draw, `freezes` at
    which project frame its footage stands still.
    """

    start: int | None
    end: int | None
    landing: int | None
    free: list[Literal["start", "end"]]
    waits: str | None
    keys: dict[str, int]
    hold: str | None
    shares: list[str]
    moves: bool
    carved: bool
    suits: list[str]
    gathers: bool
    can: list[str]
    size: tuple[int, int]
    missing: list[str]
    freezes: int | None


class BeatView(BaseModel):
    """A beat of a cue's sound: the project frame, in parts, at which it is heard, its number, and whether it begins a
    bar.
    """

    frame: float
    number: int
    bar: bool


class TrackView(BaseModel):
    """The track of a shot's camera, without its maps: for each frame from `first` on how much it is to be trusted.

    `doubtful` are the frames that are to be looked at, `fixed` those that were put right. `seen` is where a patch is at
    each frame, in pixels of the shot, corner by corner, and `search` how far around it is looked for; none of a camera.
    """

    id: str
    name: str
    shot: str
    ref: int
    first: int
    model: str
    confidence: list[float]
    doubtful: list[int]
    touched: tuple[float, float] | None
    patch: tuple[float, float, float, float] | None
    fixed: list[int]
    seen: list[list[float]]
    search: float

    @classmethod
    def of(cls, track: Track) -> "TrackView":
        """The view of a track."""
        seen: list[list[float]] = []
        search = 0.0
        if track.patch is not None:
            search = PatchFollowing().search * max(track.patch[2] - track.patch[0], track.patch[3] - track.patch[1])
            there = np.linalg.inv(maps_of(track)) @ corners(track.patch)
            places = (there[:, :2] / there[:, 2:])[:, :, [0, 1, 3, 2]] + 0.5
            seen = places.transpose(0, 2, 1).reshape(len(places), 8).round(2).tolist()
        fixed = [f.frame for f in track.fixes]
        known = track.model_dump(include=set(cls.model_fields))
        return cls(**known, doubtful=track.doubtful, fixed=fixed, seen=seen, search=search)


class CueView(BaseModel):
    """Where a cue is: the project frame that it is put on (None: what it is tied to has no place), and from where to
    where it is heard, in project frames and parts of them. `beats` and `accents` (frames, in parts) are those that are
    heard in the piece; `bpm` is 0 if it has none.
    """

    frame: int | None
    start: float
    end: float
    seconds: float
    bpm: float
    beats: list[BeatView]
    accents: list[float]


class ProjectView(BaseModel):
    """A project at a revision, whole, or (with `base`) only what has changed since that revision.

    What has ids is keyed by them; `gone` lists what is there no more, by the name of its field. `stops` are keyed by
    "hold:frame". `stale` are the frames, half-open ranges, whose keys may have changed; `sound` is a hash of all that
    is heard. An order is None if it has not changed. `near` are the keys of the frames from the first one on that were
    asked for along with a change.
    """

    base: int | None
    revision: int
    near: tuple[int, list[str]] | None = None
    undo: str | None
    redo: str | None
    project: Head
    length: int
    sound: str
    stale: list[Range]
    ground_order: list[str] | None
    layer_order: list[str] | None
    ground: dict[str, GroundItem]
    layers: dict[str, Layer]
    shots: dict[str, ShotView]
    holds: dict[str, HoldView]
    stops: dict[str, StopView]
    assets: dict[str, Asset]
    tracks: dict[str, TrackView]
    items: dict[str, ItemView]
    places: dict[str, LayerView]
    item_keys: dict[str, dict[str, int]]
    cue_places: dict[str, CueView]
    gone: dict[str, list[str]]


PARTS: dict[str, Any] = {
    "ground": lambda thing: thing,
    "layers": lambda thing: thing,
    "shots": ShotView.of,
    "holds": lambda held: HoldView(hold=_without_stops(held[0]), take=_take(*held)),
    "stops": lambda stop: StopView(frame=stop.frame, state=stop.state, pieces=stop.pieces),
    "assets": lambda thing: thing,
    "tracks": TrackView.of,
    "items": lambda thing: thing,
    "places": lambda thing: thing,
    "item_keys": lambda thing: thing,
}
"""The fields of a view that are keyed by ids, and how their values are made from what is compared."""


class ViewState:
    """A state, laid out as a view has it, to be told whole or as what differs from another one."""

    def __init__(self, state: State, keys: FrameKeys, before: "ViewState | None" = None) -> None:
        self.state, self.keys = state, keys
        document, timeline = state.document, keys.evaluation.timeline
        names = document.ground_names()
        self.parts: dict[str, dict[str, Any]] = {
            "ground": {g.id: g for g in document.project.ground},
            "layers": {x.id: x for x in document.project.layers},
            "shots": document.shots,
            "holds": {k: (h, document.shots[h.shot]) for k, h in document.holds.items()},
            "stops": {f"{h.id}:{s.frame}": s for h in document.holds.values() for s in _stops(h)},
            "assets": document.assets,
            "tracks": document.tracks,
            "items": {g.id: _item(g, names[g.id], timeline, before) for g in document.project.ground},
            "places": _places(timeline, before),
            "item_keys": {g.id: _frames(g, timeline) for g in document.project.ground if g.keys},
        }

    def view(self, before: "ViewState | None" = None) -> ProjectView:
        """The whole state, or what has changed since another one."""
        state, project, timeline = self.state, self.state.document.project, self.keys.evaluation.timeline
        old = before.parts if before else {}
        changed: dict[str, dict[str, Any]] = {}
        gone = {}
        for name, things in self.parts.items():
            known = old.get(name, {})
            new = {k: t for k, t in things.items() if not _same(known.get(k), t)}
            changed[name] = {k: PARTS[name](t) for k, t in new.items()}
            if left := [k for k in known if k not in things]:
                gone[name] = left
        orders = {}
        for name in ("ground", "layers"):
            order = list(self.parts[name])
            orders[name] = None if before and list(old[name]) == order else order
        return ProjectView.model_construct(
            base=before.state.revision if before else None,
            revision=state.revision,
            undo=state.undo,
            redo=state.redo,
            project=Head(**{n: getattr(project, n) for n in Head.model_fields}),
            length=self.keys.evaluation.length,
            sound=plan_of(self.keys.evaluation.timeline).key,
            stale=self._stale(before),
            ground_order=orders["ground"],
            layer_order=orders["layers"],
            gone=gone,
            cue_places={c.id: _cue(c, timeline) for c in project.cues},
            **changed,  # type: ignore[arg-type]
        )

    def _stale(self, before: "ViewState | None") -> list[Range]:
        """The frames whose keys may not be those of another state."""
        if before is None:
            return [(0, self.keys.evaluation.length)]
        if self.keys.since is before.keys.evaluation:
            return self.keys.stale
        return affected(before.keys.evaluation, self.keys.evaluation)


def _cue(cue: Cue, timeline: Timeline) -> CueView:
    rate, document = float(timeline.document.project.rate), timeline.document
    frame, at = timeline.cue(cue), placed(cue, timeline)
    counted = counted_of(cue, timeline)
    beats = [BeatView(frame=round(b.frame, 3), number=b.number, bar=b.bar) for b in beats_of_cue(cue, timeline)]
    first, lasts = (
        (0.0, 0.0) if frame is None or at is None else (at.first / RATE * rate, long_of(cue, timeline) * rate)
    )
    return CueView(
        frame=frame if at is not None else None, start=round(first, 3), end=round(first + lasts, 3),
        seconds=seconds_of(cue, document), bpm=round(counted.bpm, 2) if counted else 0.0, beats=beats,
        accents=[round(f, 3) for f in accents_of_cue(cue, timeline)],
    )  # fmt: skip


def _same(known: Any, thing: Any) -> bool:
    if isinstance(thing, tuple):
        return isinstance(known, tuple) and all(a is b for a, b in zip(known, thing, strict=True))
    return known is thing or (known is not None and not isinstance(thing, Shot | Stop | Track) and known == thing)


def _without_stops(hold: Hold) -> Hold:
    return (
        hold
        if hold.travel is None
        else hold.model_copy(update={"travel": hold.travel.model_copy(update={"stops": []})})
    )


def _stops(hold: Hold) -> list[Stop]:
    return hold.travel.stops if hold.travel else []


def _take(hold: Hold, shot: Shot) -> tuple[int, int]:
    take = shot.take(hold.frame)
    return take.start, take.stop


def _item(item: GroundItem, name: str, timeline: Timeline, before: ViewState | None) -> ItemView:
    source, document = item.source, timeline.document
    if before and before.parts["ground"].get(item.id) is item:
        known = before.keys.evaluation.timeline
        same = before.state.document.project.rate == document.project.rate
        if same and known.starts[item.id] == timeline.starts[item.id] and _steadied_alike(item, known, timeline):
            view = before.parts["items"][item.id]
            return view if view.name == name else view.model_copy(update={"name": name})
    table = timeline.tables[item.id]
    sound = source.sound(document)
    shot = source.footage(document) or (sound.shot if sound else None)
    steadied = steadied_of(timeline, item)
    costs = None if steadied is None else SteadiedView(larger=steadied.larger, edges=steadied.edges)
    return ItemView.model_construct(
        start=timeline.starts[item.id], length=len(table), frames=table.tolist(), name=name,
        shot=shot, footage=source.footage(document) is not None, range=source.range, can=source.can(), steadied=costs,
        tag=source.tag(), shade=source.shade, stored=next(iter(source.stored), None),
    )  # fmt: skip


def _steadied_alike(item: GroundItem, before: Timeline, now: Timeline) -> bool:
    tracks = [t.document.tracks.get(item.steady.track) if item.steady else None for t in (before, now)]
    return tracks[0] is tracks[1]


def _frames(owner: Layer | GroundItem, timeline: Timeline) -> dict[str, int]:
    ties = timeline.ties_of(owner)
    return {k.id: ties.frame(k) for k in owner.keys}


def _moves(layer: Layer, document: Document) -> bool:
    try:
        return not layer.source.moving(document).still
    except Refusal:
        return False


def _lies_as(layer: Layer, before: Timeline, now: Timeline) -> bool:
    """True if all that decides which arrangements suit a layer is as it was: its item, and what lies beside that."""
    was, place = before.place(layer), now.place(layer)
    if was is None or place is None:
        return was is place
    if was.item is None or place.item is None:
        return was.item is place.item
    sides = [(p.start > 0, p.end < p.piece) for p in (was, place)]
    return was.item is place.item and sides[0] == sides[1]


def _freezes(layer: Layer, document: Document, start: int) -> int | None:
    after = layer.source.stops_after(document)
    return None if after is None else start + after


def _suits(layer: Layer, timeline: Timeline) -> list[str]:
    place = timeline.place(layer)
    kinds = Arrangement.family.all()
    return [name for name, kind in kinds.items() if place is not None and kind().unsuited(place) is None]


def _places(timeline: Timeline, before: ViewState | None) -> dict[str, LayerView]:
    document = timeline.document
    sharing: dict[str, list[str]] = {}
    for layer in document.project.layers:
        if (hold := hold_shown(layer)) is not None:
            sharing.setdefault(hold, []).append(layer.id)
    old = before.state.document if before else None
    spans = before.keys.evaluation.timeline.spans if before else {}
    views = {}
    for layer in document.project.layers:
        span = timeline.span(layer)
        hold = hold_shown(layer)
        shares = [x for x in sharing.get(hold, ()) if x != layer.id] if hold else []
        suits: list[str] | None = None
        if before and old and before.parts["layers"].get(layer.id) is layer and layer.source.unchanged(old, document):
            known: LayerView = before.parts["places"][layer.id]
            if _lies_as(layer, before.keys.evaluation.timeline, timeline):
                suits = known.suits
            if suits is not None and spans.get(layer.id) == span and known.shares == shares:
                views[layer.id] = known
                continue
        views[layer.id] = LayerView.model_construct(
            start=span.start if span else None,
            end=span.end if span else None,
            landing=span.landing if span else None,
            free=list(layer.arrangement.free),
            waits=None if span else waits_for(timeline, layer),
            keys=_frames(layer, timeline) if span else {},
            hold=hold,
            shares=shares,
            moves=_moves(layer, document),
            carved=not layer.source.empty(document),
            suits=_suits(layer, timeline) if suits is None else suits,
            gathers=layer.source.gathers,
            can=layer.source.can(),
            size=layer.source.size(document),
            missing=list(layer.source.missing(document)),
            freezes=_freezes(layer, document, span.start) if span else None,
        )
    return views
