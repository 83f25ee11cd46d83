"""The camera of a shot, or a patch of it, followed as a job; what is pinned to that, and what is steadied by it."""

import json

from fastapi import APIRouter, Response

from ...core.change.edits import AddTrack, Edit, PinLayers, Several, SteadyGround
from ...core.change.edits.base import item_of
from ...core.change.edits.pinning import track_of
from ...core.common.errors import Refusal
from ...core.draw.picture.matte_cache import MatteCache
from ...core.piece.model import Document, Layer, Shot, Steady, Track
from ...core.piece.timeline.timeline import Timeline
from ...store.projects import Missing
from ...studio.following import TrackJob, follow_shot
from ...studio.track_files import read_track, track_as_json
from ..answers import bounded_router, download
from ..desk import Desk
from ..messages import JobView
from ..requests import TrackFile, TrackRequest


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio = bounded_router(), desk.studio

    @router.post("/api/projects/{project}/track")
    def start_track(project: str, body: TrackRequest) -> JobView:
        """Follows the camera, or a patch, over a take, and pins layers to it, or steadies the ground by it."""
        document = studio.state(project).document
        shot, frame = _moment(document, body)
        _shown_on(shot, body)
        held = next((h for h in document.holds.values() if (h.shot, h.frame) == (shot.id, frame)), None)
        wanted = TrackJob(body.model, body.touched, body.patch)

        def task(progress) -> dict:
            subject = None
            if held is not None and held.matte.carved:
                subject = MatteCache(studio.library).alpha(shot, frame, held.matte)
            track = follow_shot(studio.film(shot), shot, frame, subject, wanted, progress)
            kept = AddTrack(track=track, replaces=body.replaces)
            goes_by = _goes_by(studio.state(project).document, body, body.replaces or track.id)
            state = studio.edit(project, Several(edits=[kept, *goes_by]), None)
            desk.tell(project, state.revision)
            return {"track": body.replaces or track.id, "doubtful": len(track.doubtful)}

        return desk.work.start("track", project, f"{'Patch' if body.patch else 'Camera'} of {shot.name}", task)

    @router.post("/api/projects/{project}/tracks")
    def read(project: str, body: TrackFile) -> Track:
        """The track that a file has for the shot that is seen at a frame; nothing is kept of it yet."""
        document = studio.state(project).document
        shot, _ = _seen(document, body.at, "Go to a frame of the shot that the track is of.")
        return read_track(body.text, body.name, shot)

    @router.get("/api/projects/{project}/tracks/{track}.json")
    def written(project: str, track: str) -> Response:
        """A track as a file."""
        found = track_of(studio.state(project).document, track)
        return download(json.dumps(track_as_json(found)).encode(), "application/json", f"{found.name}.json")

    return router


def _shown_on(shot: Shot, body: TrackRequest) -> None:
    """Raises Refusal if what was shown does not lie on the footage."""
    places = [*([body.touched] if body.touched else []), *([body.patch[:2], body.patch[2:]] if body.patch else [])]
    if any(not (0 <= x <= shot.width and 0 <= y <= shot.height) for x, y in places):
        raise Refusal("That lies beside the footage. Show it something that was filmed.")


def _goes_by(document: Document, body: TrackRequest, track: str) -> list[Edit]:
    """The edits by which things go by a track; what went by the one that it replaces does so already."""
    if body.replaces is not None:
        return []
    if body.item is None:
        return [PinLayers(layers=body.layers, track=track, how=body.how, at=body.at)]
    known = item_of(document, body.item).steady or Steady(track=track)
    return [SteadyGround(item=body.item, steady=known.model_copy(update={"track": track}))]


def _moment(document: Document, body: TrackRequest) -> tuple[Shot, int]:
    """The shot and the frame that a track is seen from: where something was shown on it, else where a layer is held."""
    known = document.tracks.get(body.replaces or "")
    if body.touched is not None or body.patch is not None:
        return _seen(document, body.at, "Go to a frame of the footage that is to be stuck to.")
    if known is not None:
        return document.shots[known.shot], known.ref
    if body.item is not None:
        return _of_item(document, body.item, body.at)
    layer = document.layer(body.layers[0])
    if layer is None:
        raise Missing("That layer is no longer there. Choose another.")
    return _of_layer(document, layer, body.at)


def _of_layer(document: Document, layer: Layer, at: int | None) -> tuple[Shot, int]:
    """The shot and the frame at which a layer lies on the scene as it does."""
    moment = layer.source.moment(document)
    if moment is not None:
        return document.shots[moment[0]], moment[1]
    span = Timeline(document).span(layer)
    return _seen(document, at if at is not None else span.landing if span else 0,
                 f"Go to footage that {layer.name} is to stick to.")  # fmt: skip


def _of_item(document: Document, id_: str, at: int | None) -> tuple[Shot, int]:
    """The shot that an item shows, and the frame that is seen at a time, or its first one."""
    item, timeline = item_of(document, id_), Timeline(document)
    shot = item.source.footage(document)
    if shot is None:
        raise Refusal("Only footage can be steadied. Choose a piece of the ground that was filmed.")
    table, start = timeline.tables[item.id], timeline.starts[item.id]
    inside = at is not None and start <= at < start + len(table)
    return document.shots[shot], int(table[at - start if inside and at is not None else 0])


def _seen(document: Document, at: int | None, otherwise: str) -> tuple[Shot, int]:
    """The shot and its frame that are seen at a project frame."""
    shown = Timeline(document).item_at(at or 0)
    shot = shown.item.source.footage(document) if shown else None
    if shown is None or shot is None:
        raise Refusal(f"Nothing that was filmed is seen there. {otherwise}")
    return document.shots[shot], shown.frame
