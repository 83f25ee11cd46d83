"""Motion: the curves and paths of what is chosen, and moves as they would be."""

from typing import Annotated, Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from ...core.change.edits import ClientEdit
from ...core.draw.picture.evaluate import Evaluation
from ...core.piece.model import Document, PutOn
from ...core.piece.timeline.timeline import Timeline
from ...core.tell.curves import Motion, motion_of
from ...core.tell.rehearsal import Rehearsal, rehearsal, shaken
from ...store.projects import Missing
from ..answers import bounded_router
from ..desk import Desk


class MotionRequest(BaseModel):
    """The motion to draw: of layers or ground items by their ids, with a draft as it would be after that."""

    owners: Annotated[list[str], Field(max_length=60)]
    draft: ClientEdit | None = None


class RehearsalRequest(BaseModel):
    """The rehearsal to show: which moves or behaviours, and one of them with settings of its own."""

    side: Literal["in", "out", "always"]
    put: PutOn | None = None


class ShakingRequest(BaseModel):
    """An item of the ground; None for all of the piece."""

    item: str | None = None


class MarkView(BaseModel):
    """A moment or a cut that keys can be tied to, and its project frame."""

    tie: Literal["moment", "cut"]
    to: str
    name: str
    frame: int


class OwnerMotion(BaseModel):
    """The motion of one of them, its span and the frames of its keys."""

    id: str
    start: int
    landing: int
    end: int
    motion: Motion
    keys: dict[str, int]
    marks: list[MarkView]


class MotionView(BaseModel):
    """All of them; `larger` is how many times as large the piece's own behaviours make all that is seen."""

    owners: list[OwnerMotion]
    larger: float


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio = bounded_router(), desk.studio

    @router.post("/api/projects/{project}/motion")
    def motion(project: str, body: MotionRequest) -> MotionView:
        """Curves, paths and keys of layers and ground items; those that are not there are left out."""
        state = studio.state(project)
        evaluation = studio.evaluation(state)
        if body.draft is not None:
            document = body.draft.apply(state.document)
            evaluation = Evaluation(document, Timeline(document, evaluation.timeline))
        document = evaluation.document
        owners = [o for id_ in body.owners if (o := document.layer(id_) or document.item(id_)) is not None]
        return MotionView(owners=[_owner(evaluation, owner) for owner in owners], larger=evaluation.shaking.larger)

    @router.post("/api/projects/{project}/layers/{layer}/rehearsal")
    def rehearse(project: str, layer: str, body: RehearsalRequest) -> Rehearsal:
        """Each move on a side, or each behaviour, as it would be on a layer; one of them with settings of its own."""
        document: Document = studio.state(project).document
        found = document.layer(layer)
        if found is None:
            raise Missing("That layer is no longer there. Choose another.")
        return rehearsal(document, found, body.side, body.put)

    @router.post("/api/projects/{project}/shaking")
    def shaking(project: str, body: ShakingRequest) -> Rehearsal:
        """Each behaviour as it would be on an item of the ground, or on all of the piece."""
        document: Document = studio.state(project).document
        item = None if body.item is None else document.item(body.item)
        if body.item is not None and item is None:
            raise Missing("That piece of footage is no longer in the ground. Choose another.")
        return shaken(document, item)

    return router


def _owner(evaluation: Evaluation, owner) -> OwnerMotion:
    timeline, document = evaluation.timeline, evaluation.document
    ties = timeline.ties_of(owner)
    names = document.ground_names()
    marks = [
        MarkView(tie="cut", to=g.id, name=names[g.id], frame=timeline.starts[g.id])
        for g in document.project.ground
        if ties.start < timeline.starts[g.id] < ties.end
    ]
    item = document.item(getattr(owner, "over", None) or owner.id)
    shot = document.shots.get(item.source.footage(document) or "") if item else None
    if item is not None and shot is not None:
        places = timeline.moments_of(item)
        marks += [
            MarkView(tie="moment", to=m.id, name=m.name, frame=places[m.id])
            for m in shot.moments
            if m.id in places and ties.start <= places[m.id] < ties.end
        ]
    return OwnerMotion(
        id=owner.id, start=ties.start, landing=ties.landing, end=ties.end, motion=motion_of(evaluation, owner),
        keys={k.id: ties.frame(k) for k in owner.keys}, marks=marks,
    )  # fmt: skip
