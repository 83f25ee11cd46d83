"""The camera of a shot, followed as a job, and what is pinned to that."""

from fastapi import APIRouter

from ...core.edits import AddTrack, PinLayers, Several
from ...core.errors import Refusal
from ...core.model import Document, Layer, Shot
from ...core.picture.mattes import Mattes
from ...core.timeline.timeline import Timeline
from ...store.projects import Missing
from ...studio.following import follow_shot
from ..answers import bounded_router
from ..desk import Desk
from ..requests import TrackRequest
from ..work import JobView


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio = bounded_router(), desk.studio

    @router.post("/api/projects/{project}/track")
    def start_track(project: str, body: TrackRequest) -> JobView:
        """Follows the camera over the take that layers are held from, and pins them to it."""
        document = studio.state(project).document
        layer = document.layer(body.layers[0])
        if layer is None:
            raise Missing("That layer is no longer there. Choose another.")
        shot, frame = _moment(document, layer, body.at)
        held = next((h for h in document.holds.values() if (h.shot, h.frame) == (shot.id, frame)), None)

        def task(progress) -> dict:
            subject = None
            if held is not None and held.matte.carved:
                subject = Mattes(studio.library).alpha(shot, frame, held.matte)
            track = follow_shot(studio.film(shot), shot, frame, subject, progress)
            pin = PinLayers(layers=body.layers, track=track.id, how=body.how, at=body.at)
            state = studio.edit(project, Several(edits=[AddTrack(track=track), pin]), None)
            desk.tell(project, state.revision)
            return {"track": track.id, "doubtful": len(track.doubtful)}

        return desk.work.start("track", project, f"Camera of {shot.name}", task)

    return router


def _moment(document: Document, layer: Layer, at: int | None) -> tuple[Shot, int]:
    """The shot and the frame at which a layer lies on the scene as it does."""
    moment = layer.source.moment(document)
    if moment is not None:
        return document.shots[moment[0]], moment[1]
    timeline = Timeline(document)
    span = timeline.span(layer)
    shown = timeline.item_at(at if at is not None else span.landing if span else 0)
    shot = shown.item.source.footage(document) if shown else None
    if shown is None or shot is None:
        raise Refusal(f"Nothing that was filmed is seen there. Go to footage that {layer.name} is to stick to.")
    return document.shots[shot], shown.frame
