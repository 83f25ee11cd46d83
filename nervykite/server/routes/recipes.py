"""Recipes: how each would look with somebody's own footage, and made of it."""

import threading
from typing import Any

from fastapi import APIRouter, Response
from pydantic import BaseModel

from ...core.errors import Refusal
from ...core.kept import Kept
from ...core.model import Document, Recipe
from ...core.model.base import Id
from ...core.model.kinds import by_rank, name_of
from ...store.projects import Missing
from ...studio.cooking import cook, footage_for
from ...studio.tasting import as_filmed, tasted
from ..answers import ASK_AGAIN, bounded_router
from ..desk import Desk
from ..work import JobView


class RecipeRequest(BaseModel):
    """A recipe to be made, with its settings; of which pieces of the ground, in place of what an earlier one made."""

    recipe: dict[str, Any]
    items: list[Id] | None = None
    instead: Id | None = None


class ReadyView(BaseModel):
    """Whether a recipe can be made of a project's footage, and what is missing if it cannot, in a sentence."""

    kind: str
    missing: str | None


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio = bounded_router(), desk.studio
    loops: Kept[bytes] = Kept(80)
    drawing = threading.Lock()

    @router.get("/api/projects/{project}/recipes")
    def ready(project: str) -> list[ReadyView]:
        """Which recipes can be made, in the order in which they are offered."""
        document = studio.state(project).document
        kinds = by_rank(Recipe.family)
        return [ReadyView(kind=name_of(kind), missing=_missing(document, kind())) for kind in kinds]

    @router.get("/api/projects/{project}/recipes/{kind}.webp", response_class=Response)
    def loop(project: str, kind: str) -> Response:
        """A short loop of what a recipe would make of the footage; only once that was looked through."""
        document = studio.state(project).document
        made = Recipe.family.all().get(kind)
        if made is None:
            raise Missing("There is no such recipe.")
        recipe = made()
        ground = footage_for(as_filmed(document), recipe)
        for item in ground:
            shot = document.shots[item.source.footage(document) or ""]
            desk.watcher.want(project, shot)
            if sum(len(k) for k in desk.looks.known(shot)) < shot.frames:
                raise Missing("That footage is still being looked through. Ask again in a moment.")
        key = (kind, *(f"{g.model_dump_json()}" for g in ground), document.project.width, document.project.height)

        def drawn() -> bytes:
            # One after the other: each keeps both cores busy.
            with drawing:
                return loops.peek(key) or tasted(studio, document, recipe)

        return Response(loops.get(key, drawn), media_type="image/webp", headers=ASK_AGAIN)

    @router.post("/api/projects/{project}/recipes")
    def make(project: str, body: RecipeRequest) -> JobView:
        """Makes what a recipe makes; stopped, it leaves what it has."""
        studio.projects.revision(project)  # there is such a project
        try:
            recipe = Recipe.family.parse(body.recipe)
        except ValueError as error:
            raise Refusal(f"That recipe cannot be made so: {error}.") from error

        def task(progress) -> dict[str, Any]:
            def step(says: str, share: float) -> None:
                progress(share, says)

            told = lambda: desk.tell(project)  # noqa: E731
            cooked = cook(studio, project, recipe, body.items, body.instead, step, told)
            return {"made": cooked.made, "doubtful": cooked.doubtful}

        return desk.work.start("make", project, f"Make “{recipe.title}”", task)

    return router


def _missing(document: Document, recipe: Recipe) -> str | None:
    try:
        footage_for(document, recipe)
    except Refusal as refusal:
        return str(refusal)
    return None
