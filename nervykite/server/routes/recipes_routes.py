"""Recipes: how each would look with somebody's own footage, made of it, and those that somebody saved."""

import threading
from typing import Annotated, Any
from urllib.parse import quote

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from ...core.common.errors import Refusal
from ...core.common.kept import Kept
from ...core.piece.model import Asset, Document, Recipe
from ...core.piece.model.base import Id, Name
from ...core.piece.model.kinds import by_rank, name_of
from ...store.projects import Missing
from ...studio import recipe_files
from ...studio.cooking import cook, footage_for, own_recipe
from ...studio.tasting import as_filmed, tasted
from ..answers import ASK_AGAIN, FOREVER, HASH, bounded_router, download
from ..desk import Desk
from ..messages import JobView

ENDING = ".recipe.json"
"""How the name of a recipe's file ends."""


class RecipeRequest(BaseModel):
    """A recipe to be made, with its settings; of which pieces of the ground, or of which cutouts; in place of what an
    earlier one made. One of somebody's own is named by the hash of its `file`.
    """

    recipe: dict[str, Any]
    items: list[Id] | None = None
    layers: Annotated[list[Id], Field(max_length=60)] = []
    instead: Id | None = None


class SaveRecipe(BaseModel):
    """Layers to be kept as a recipe: whether their words are asked for, and whether its colours are the clothes'."""

    name: Name
    layers: Annotated[list[Id], Field(min_length=1, max_length=200)]
    asks: bool = True
    clothes: bool = False


class AskedView(BaseModel):
    """Words that are asked for, and what they were."""

    title: str
    words: str


class ReadyView(BaseModel):
    """A recipe's readiness: whether it can be made of a project's footage, and what is missing if not, in a sentence.

    One of somebody's own has a file and a name, and says what it asks for.
    """

    kind: str
    missing: str | None
    file: str | None
    name: str | None
    takes: int
    moments: int
    asks: list[AskedView]


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio = bounded_router(), desk.studio
    loops: Kept[bytes] = Kept(80)
    drawing = threading.Lock()

    @router.get("/api/projects/{project}/recipes")
    def ready(project: str) -> list[ReadyView]:
        """The recipes that can be made, somebody's own ones first, in the order in which they are offered."""
        document = studio.state(project).document
        own = [_ready(document, file, name) for name, file in studio.projects.shelved("recipe")]
        kinds = [kind for kind in by_rank(Recipe.family) if kind.listed]
        ours = [
            ReadyView(
                kind=name_of(k),
                missing=_missing(document, k()),
                file=None,
                name=None,
                takes=k.takes,
                moments=1,
                asks=[],
            )
            for k in kinds
        ]
        return [*own, *ours]

    def _ready(document: Document, file: str, name: str) -> ReadyView:
        given: dict[str, Any] = {"kind": "own", "file": file, "name": name}
        try:
            recipe = _own(file, name)
        except Refusal as refusal:
            return ReadyView(**given, missing=str(refusal), takes=1, moments=1, asks=[])
        asks = [AskedView(title=a.title, words=a.words) for a in recipe.what.asks]
        missing, moments = _missing(document, recipe), len(recipe.what.wanted)
        return ReadyView(**given, missing=missing, takes=recipe.needs, moments=moments, asks=asks)

    def _own(file: str, name: str | None = None, settings: dict[str, Any] | None = None):
        if not HASH.fullmatch(file) or not studio.files.path(file).is_file():
            raise Missing("That recipe is no longer on any shelf. Choose another.")
        known = name or next((n for n, f in studio.projects.shelved("recipe") if f == file), "Recipe")
        return own_recipe(studio, file, known, settings or {})

    def _recipe(given: dict[str, Any]) -> Recipe:
        settings = {k: v for k, v in given.items() if k not in ("kind", "file")}
        if given.get("kind") == "own" and "file" in given:
            return _own(str(given["file"]), None, settings)
        try:
            return Recipe.family.parse(given)
        except ValueError as error:
            raise Refusal(f"That recipe cannot be made so: {error}.") from error

    @router.get("/api/projects/{project}/recipes/{kind}.webp", response_class=Response)
    def loop(project: str, kind: str, file: str | None = None) -> Response:
        """A short loop of what a recipe would make of the footage. Without content: not before that was looked through
        and nothing else is being made; or never, and why (`Cannot`, percent-encoded).
        """
        document = studio.state(project).document
        if file is None and kind not in {k for k, made in Recipe.family.all().items() if made.listed}:
            raise Missing("There is no such recipe.")
        recipe = _recipe({"kind": kind} if file is None else {"kind": "own", "file": file})
        try:
            ground = footage_for(as_filmed(document), recipe)
        except Refusal as refusal:
            return _no_loop(str(refusal))
        for item in ground:
            shot = document.shots[item.source.footage(document) or ""]
            desk.watcher.want(project, shot)
            if sum(len(k) for k in desk.looks.known(shot)) < shot.frames:
                return _no_loop()
        if desk.work.busy():
            return _no_loop()  # that comes first
        key = (kind, file, *(f"{g.model_dump_json()}" for g in ground), document.project.width, document.project.height)

        def drawn() -> bytes:
            # One after the other: each keeps both cores busy.
            with drawing:
                return loops.peek(key) or tasted(studio, document, recipe)

        try:
            return Response(loops.get(key, drawn), media_type="image/webp", headers=ASK_AGAIN)
        except Refusal as refusal:
            return _no_loop(str(refusal))

    @router.post("/api/projects/{project}/recipes")
    def make(project: str, body: RecipeRequest) -> JobView:
        """Makes what a recipe makes; stopped, it leaves what it has."""
        studio.projects.revision(project)  # there is such a project
        recipe = _recipe(body.recipe)

        def task(progress) -> dict[str, Any]:
            def step(says: str, share: float) -> None:
                progress(share, says)

            told = lambda: desk.tell(project)  # noqa: E731
            cooked = cook(studio, project, recipe, body.items, body.instead, body.layers, step, told)
            return {"made": cooked.made, "doubtful": cooked.doubtful}

        return desk.work.start("make", project, f"Make “{recipe.called}”", task)

    @router.post("/api/projects/{project}/recipes/saved")
    def save(project: str, body: SaveRecipe) -> Asset:
        """Puts some layers on the project's shelf, as a recipe of one's own."""
        studio.projects.revision(project)
        asset, _ = recipe_files.save(studio, project, body.layers, body.name, body.asks, body.clothes)
        desk.tell(project)
        return asset

    @router.get("/api/recipes/{file}.webp", response_class=Response)
    def picture(file: str) -> Response:
        """The small picture of a recipe of somebody's own."""
        data = recipe_files.picture(studio, file) if HASH.fullmatch(file) else b""
        if not data:
            raise Missing("There is no such picture.")
        return Response(data, media_type="image/webp", headers=FOREVER)

    @router.get("/api/projects/{project}/assets/{asset}.json", response_class=Response)
    def hand_out(project: str, asset: str) -> Response:
        """A recipe of the shelf as a file, to be given to others."""
        found = studio.state(project).document.assets.get(asset)
        if found is None or found.kind != "recipe":
            raise Missing("That recipe is no longer on the shelf.")
        return download(recipe_files.handed_out(studio, found), "application/json", f"{found.name}{ENDING}")

    return router


def _no_loop(why: str = "") -> Response:
    return Response(status_code=204, headers={**ASK_AGAIN, **({"Cannot": quote(why)} if why else {})})


def _missing(document: Document, recipe: Recipe) -> str | None:
    try:
        footage_for(document, recipe)
    except Refusal as refusal:
        return str(refusal)
    return None
