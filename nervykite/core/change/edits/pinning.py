"""Edits of tracks, and of what is pinned to them."""

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from ...common.errors import Refusal
from ...kinds.sources.pinned import pinned_of
from ...kinds.sources.rest import anchor_of, keyed_of
from ...piece.model import Bezier, Document, Fix, Key, Layer, Pin, Steady, Track
from ...piece.model.base import FrameNumber, Id, new_id
from ...piece.model.track import Place
from ...piece.motion.placing import Placement, flat_at
from ...piece.timeline.timeline import Timeline
from ...see.scene.fixes import maps_of
from .base import Edit, item_of, open_layer, shot_of, with_item, with_layer, with_project

Layers = Annotated[list[Id], Field(min_length=1, max_length=500)]


def track_of(document: Document, id_: str) -> Track:
    """A track by its id. Raises Refusal if it is gone."""
    if id_ not in document.tracks:
        raise Refusal("That track is no longer there. Follow the camera again.")
    return document.tracks[id_]


class AddTrack(Edit):
    """Keeps a track, in the place of another one if that is named: all that went by that goes by it."""

    kind: Literal["add track"] = "add track"
    track: Track
    replaces: Id | None = None

    def brings(self) -> set[str]:
        return {self.track.id}

    def title(self, document: Document) -> str:
        what = "a patch" if self.track.patch is not None else "the camera"
        return f"follow {what} of {shot_of(document, self.track.shot).name}"

    def apply(self, document: Document) -> Document:
        shot = shot_of(document, self.track.shot)
        if self.track.past > shot.frames:
            raise Refusal(f"That track goes on after the last frame of {shot.name}. Follow its camera again.")
        track = self.track
        if self.replaces in document.tracks and document.tracks[self.replaces].shot == shot.id:
            track = track.model_copy(update={"id": self.replaces})
        return document.model_copy(update={"tracks": {**document.tracks, track.id: track}})


class FixTrack(Edit):
    """Puts a frame of a track right: what is pinned there belongs so far from where it is, in the shot's pixels.

    `by` comes on top of what puts it right there already; None takes that away, and without a frame all of them.
    """

    kind: Literal["fix track"] = "fix track"
    track: Id
    frame: FrameNumber | None = None
    by: Place | None = None

    def title(self, document: Document) -> str:
        name = track_of(document, self.track).name
        return f"put {name} right" if self.by is not None else f"take back what put {name} right"

    def apply(self, document: Document) -> Document:
        track = track_of(document, self.track)
        if self.by is not None and (self.frame is None or not track.first <= self.frame < track.past):
            raise Refusal(f"{track.name} does not know that frame. Go to one of the take that was followed.")
        if self.by is not None and self.frame == track.ref:
            raise Refusal("That is the frame that all others are seen from: it is right as it is. Go to another one.")
        fixes = [f for f in track.fixes if self.frame is not None and f.frame != self.frame]
        if self.by is not None and self.frame is not None:
            x, y = _put_right(track, self.frame)
            fixes.append(Fix(frame=self.frame, by=(x + self.by[0], y + self.by[1])))
        fixed = track.model_copy(update={"fixes": sorted(fixes, key=lambda f: f.frame)})
        return document.model_copy(update={"tracks": {**document.tracks, track.id: fixed}})


def _put_right(track: Track, frame: int) -> tuple[float, float]:
    """By how much a frame of a track is put right as it is, by its own fix or by others."""
    was = np.asarray(track.matrices[frame - track.first], float).reshape(3, 3)
    x, y, _ = (np.linalg.inv(was) @ maps_of(track)[frame - track.first])[:, 2]
    return -float(x), -float(y)


class RemoveTrack(Edit):
    """Takes a track away; what was pinned to it stays where it lies at rest, what was steadied by it shakes again."""

    kind: Literal["remove track"] = "remove track"
    track: Id

    def title(self, document: Document) -> str:
        return f"remove {track_of(document, self.track).name}"

    def apply(self, document: Document) -> Document:
        gone = track_of(document, self.track).id
        layers = [x.model_copy(update={"pin": None}) if x.pin and x.pin.track == gone else x
                  for x in document.project.layers]  # fmt: skip
        ground = [g.model_copy(update={"steady": None}) if g.steady and g.steady.track == gone else g
                  for g in document.project.ground]  # fmt: skip
        tracks = {k: t for k, t in document.tracks.items() if k != gone}
        return with_project(document.model_copy(update={"tracks": tracks}), layers=layers, ground=ground)


class SteadyGround(Edit):
    """Steadies an item of the ground by a track of what it shows, or lets it shake as it was filmed (None)."""

    kind: Literal["steady ground"] = "steady ground"
    item: Id
    steady: Steady | None

    def title(self, document: Document) -> str:
        name = document.called(item_of(document, self.item))
        return f"steady {name}" if self.steady is not None else f"let {name} be as it was filmed"

    def apply(self, document: Document) -> Document:
        item = item_of(document, self.item)
        if self.steady is not None and track_of(document, self.steady.track).shot != item.source.footage(document):
            raise Refusal("That track is of another shot than the one that is to be steadied. Follow its own camera.")
        return with_item(document, item.id, steady=self.steady)


def frame_pinned(document: Document, layer: Layer, track: Track, at: int | None) -> int:
    """The frame of a track's shot at which a layer lies on the scene as it does: its own, or the one seen at a time."""
    moment = layer.source.moment(document)
    if moment is not None and moment[0] == track.shot:
        return moment[1]
    timeline = Timeline(document)
    span = timeline.span(layer)
    shown = timeline.item_at(at if at is not None else span.landing if span else 0)
    if shown is None or shown.item.source.footage(document) != track.shot:
        raise Refusal(f"{layer.name} is pinned where the shot is seen that was followed. Go to one of its frames.")
    return shown.frame


class PinLayers(Edit):
    """Fixes layers to a track, or lets them go (None), as they lie at their held frame, or at a project frame `at`."""

    kind: Literal["pin layers"] = "pin layers"
    layers: Layers
    track: Id | None
    how: Literal["place", "turn", "full", "shake"] = "full"
    at: FrameNumber | None = None

    def title(self, document: Document) -> str:
        name = open_layer(document, self.layers[0]).name
        more = f" and {len(self.layers) - 1} more" if len(self.layers) > 1 else ""
        return f"{'let go of' if self.track is None else 'pin'} {name}{more}"

    def apply(self, document: Document) -> Document:
        for id_ in self.layers:
            layer = open_layer(document, id_)
            pin = None
            if self.track is not None:
                track = track_of(document, self.track)
                known = layer.pin.frame if layer.pin is not None and layer.pin.track == track.id else None
                frame = frame_pinned(document, layer, track, self.at) if known is None or self.at is not None else known
                if not track.first <= frame < track.past:
                    raise Refusal(f"{layer.name} lies in another take than the one that was followed.")
                pin = Pin(track=track.id, frame=frame, how=self.how)
            document = with_layer(document, id_, pin=pin)
        return document


class Unpin(Edit):
    """Lets layers go, and gives them keys for what carried them: they stay where they are seen, frame by frame."""

    kind: Literal["unpin"] = "unpin"
    layers: Layers

    def title(self, document: Document) -> str:
        return f"turn the pin of {open_layer(document, self.layers[0]).name} into keys"

    def apply(self, document: Document) -> Document:
        for id_ in self.layers:
            document = self._keyed(document, open_layer(document, id_))
        return document

    def _keyed(self, document: Document, layer: Layer) -> Document:
        timeline = Timeline(document)
        pinned, span = pinned_of(timeline, layer), timeline.span(layer)
        if layer.pin is None or pinned is None or span is None:
            raise Refusal(f"{layer.name} is pinned to nothing. Pin it first.")
        if span.end - span.start > 2000:
            raise Refusal(f"{layer.name} is seen for too long to have a key on every frame. Make it shorter first.")
        keyed, anchor = keyed_of(document, layer, timeline), anchor_of(document, layer, timeline)
        keys = [k for k in layer.keys if k.channel not in ("position", "across", "down", "scale", "rotation")]
        for frame in range(span.start, span.end):
            placement = keyed.placement(frame)
            matrix = pinned.matrix(frame, placement.matrix(anchor), anchor)
            was = placement.matrix(anchor)
            found = Placement.of(flat_at(matrix, anchor), anchor)
            scale = keyed.number("scale", frame) * found.width / max(1e-9, Placement.of(was, anchor).width)
            values = {"position": list(found.position), "scale": [scale], "rotation": [found.turn]}
            keys += [Key(id=new_id(), channel=c, tie="landing", offset=frame - span.landing, value=v, easing=Bezier())
                     for c, v in values.items()]  # fmt: skip
        return with_layer(document, layer.id, keys=keys, pin=None, apart=False)
