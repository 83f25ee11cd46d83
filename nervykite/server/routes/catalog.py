"""What can be chosen: every kind there is, with its settings."""

from fastapi import APIRouter

from ...core.cards.card import Card
from ...core.lettering.faces import SHIPPED
from ...core.model import Arrangement, BehaviourKind, FinishKind, MoveKind, Recipe, Sounding, Source
from ...core.model.blend import GROUPS
from ...core.model.kinds import Family, Kind, by_rank, name_of
from ...core.motion.channels import POSE
from ...core.motion.easing import PRESETS
from ...core.send.writer import Writer
from ..answers import bounded_router
from ..desk import Desk
from ..requests import Catalog, ChannelView, KindView, RecipeView
from .lettering import face_view


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router = bounded_router()

    @router.get("/api/catalog")
    def catalog() -> Catalog:
        return Catalog(
            finishes=_views(FinishKind.family),
            sources=_views(Source.family),
            cards=_views(Card.family),
            sounds=_views(Sounding.family),
            faces=[
                view for face in SHIPPED.values() if (view := face_view(face.id, face.title, face.sort)) is not None
            ],
            arrangements=_views(Arrangement.family),
            formats=_views(Writer.family),
            channels=[
                ChannelView(name=c.name, title=c.title, count=c.count, low=c.low, high=c.high) for c in POSE.values()
            ],
            moves=_views(MoveKind.family),
            behaviours=_views(BehaviourKind.family),
            recipes=[_recipe(kind) for kind in by_rank(Recipe.family)],
            easings=PRESETS,
            blends={group: list(modes) for group, modes in GROUPS.items()},
        )

    return router


def _views(family: Family) -> list[KindView]:
    return [_view(kind) for kind in by_rank(family)]


def _recipe(kind: type[Recipe]) -> RecipeView:
    texts = {"when": kind.when, "film": kind.film, "missed": kind.missed}
    return RecipeView(**_view(kind).model_dump(), **texts, takes=kind.takes, words=kind.words, listed=kind.listed)


def _view(kind: type[Kind]) -> KindView:
    on = list(getattr(kind, "on", ()))
    if issubclass(kind, MoveKind):
        on = list(kind.sides)
    elif issubclass(kind, Arrangement):
        on = ["moving"] if kind.travels else ["still"]
    elif issubclass(kind, Writer):
        on = [name for name in ("clear", "single") if getattr(kind, name)]
    looks = getattr(kind, "looks", "")
    schema = kind.settings_schema()
    return KindView(kind=name_of(kind), title=kind.title, hint=kind.hint, on=on, settings=schema, looks=looks)
