"""Copying layers, within a project or into another one: what they are made of comes along."""

from collections.abc import Sequence
from typing import Literal

from ...common.errors import Refusal
from ...kinds.arrangements.free import Free
from ...piece.model import Asset, Document, Hold, Layer, Shot, Tied
from ...piece.model.base import FrameNumber, Id, Model, new_id
from ...piece.model.naming import free_name
from ...piece.timeline.ripple import free_ties
from ...piece.timeline.timeline import LayerPlace, Timeline
from .base import Edit, layer_of, shows_frame, with_members, with_project
from .copying import hold_again, renewed, with_ids


class Clip(Model):
    """Layers as they were copied, from the farthest to the nearest, with all that they are made of.

    `spans` are where they lay in the piece, by their ids, from the first frame of any of them on.
    """

    project: Id
    layers: list[Layer]
    holds: dict[str, Hold] = {}
    shots: dict[str, Shot] = {}
    assets: dict[str, Asset] = {}
    spans: dict[str, tuple[int, int]] = {}


def clip_of(document: Document, ids: Sequence[str]) -> Clip:
    """Some layers, and what belongs to them, to be put down elsewhere. Raises Refusal if one is gone."""
    members = with_members(document, [layer_of(document, x).id for x in ids])
    layers = [x for x in document.project.layers if x.id in members]
    holds = {h: document.holds[h] for x in layers for h in x.source.needs if h in document.holds}
    settings = [str(v) for x in layers for v in x.source.model_dump().values()]
    worn = {file for x in layers for f in x.finishes for file in f.look.files}
    worn |= {file for x in layers for file in (*x.source.files, *x.source.drawn)}
    shots = {k: s for k, s in document.shots.items() if k in settings or any(h.shot == k for h in holds.values())}
    timeline = Timeline(document)
    spans = {x.id: (s.start, s.end) for x in layers if (s := timeline.span(x)) is not None}
    first = min((s[0] for s in spans.values()), default=0)
    return Clip(
        project=document.project.id,
        layers=layers,
        holds=holds,
        shots={k: s.model_copy(update={"moments": []}) for k, s in shots.items()},
        assets={k: a for k, a in document.assets.items() if k in settings or a.file in worn},
        spans={k: (a - first, b - first) for k, (a, b) in spans.items()},
    )


class PasteLayers(Edit):
    """Puts copied layers down from a project frame on, above all others.

    What was held goes over the take that shows its frame, if there is one, and else lies free.
    """

    kind: Literal["paste layers"] = "paste layers"
    clip: Clip
    at: FrameNumber

    def title(self, document: Document) -> str:
        first = self.clip.layers[0].name
        more = len(self.clip.layers) - 1
        return f"paste {first}" + (f" and {more} more" if more else "")

    def apply(self, document: Document) -> Document:
        clip, own = self.clip, self.clip.project == document.project.id
        if Timeline(document).length == 0:
            raise Refusal("There is no ground yet to fly over. Put footage into it first.")
        fresh = {x.id: new_id() for x in clip.layers}
        shots = {**clip.shots, **document.shots}
        holds, assets = dict(document.holds), dict(document.assets)
        for hold in clip.holds.values():
            if not own or hold.id not in document.holds:
                again = hold_again(hold)
                fresh[hold.id], holds[again.id] = again.id, again
        by_file = {(a.kind, a.file): a.id for a in assets.values()}
        for asset in clip.assets.values():
            known = by_file.get((asset.kind, asset.file))
            if known is None:
                known = new_id()
                name = free_name(asset.name, {a.name for a in assets.values()})
                assets[known] = asset.model_copy(update={"id": known, "name": name})
            fresh[asset.id] = known
        document = document.model_copy(update={"shots": shots, "holds": holds, "assets": assets})
        timeline = Timeline(document)
        taken = {x.name for x in document.project.layers}
        layers: list[Layer] = []
        for layer in clip.layers:
            name = free_name(layer.name, taken)
            taken.add(name)
            source = with_ids(layer.source, fresh)
            group = fresh.get(layer.group or "")
            changes = {"id": fresh[layer.id], "name": name, "source": source, "group": group, "locked": False}
            if layer.pin is not None and layer.pin.track not in document.tracks:
                changes["pin"] = None  # elsewhere there is no such scene
            put = renewed(layer).model_copy(update=changes)
            layers.append(put.model_copy(update=self._lying(timeline, layer, put)))
        return with_project(document, layers=[*document.project.layers, *layers])

    def _lying(self, timeline: Timeline, layer: Layer, put: Layer) -> dict[str, object]:
        """Where in time a copy comes to lie: what changes of it."""
        document, clip = timeline.document, self.clip
        moment = put.source.moment(document)
        if moment is not None:
            over = document.item(put.over or "")
            if over is None or not shows_frame(document, over, *moment):
                over = next((g for g in document.project.ground if shows_frame(document, g, *moment)), None)
            if over is not None:
                loose = {n: _kept(getattr(put, n), document) for n in ("starts", "ends")}
                placed = put.model_copy(update={"over": over.id, **loose})
                if placed.arrangement.unsuited(LayerPlace(timeline, placed, over)) is None:
                    return {"over": over.id, **loose}
        span = clip.spans.get(layer.id)
        if put.source.gathers and layer.starts is None and layer.ends is None:
            return {"over": None, "starts": None, "ends": None}
        start = min(self.at + (span[0] if span else 0), timeline.length - 1)
        lasts = span[1] - span[0] if span else timeline.length
        free = put.model_copy(update={"over": None, "arrangement": Free()})
        ties = free_ties(LayerPlace(timeline, free, None), start, min(start + lasts, timeline.length))
        standing = put.source if put.source.still else put.source.standing(document)
        return {"over": None, "arrangement": Free(), "source": standing, **ties}


def _kept(tied: Tied | None, document: Document) -> Tied | None:
    """A tie, if what it is tied to is there."""
    return tied if tied is None or tied.item is None or document.item(tied.item) is not None else None
