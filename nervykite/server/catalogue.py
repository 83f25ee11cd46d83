"""The catalog of every kind there is, with its settings."""

from dataclasses import asdict
from functools import cache

from ..core.common.errors import Refusal
from ..core.craft.lettering.faces import SHIPPED, face_files
from ..core.draw.send.writer import Writer
from ..core.kinds.cards.card import Card
from ..core.piece.model import Arrangement, BehaviourKind, FinishKind, MoveKind, Recipe, Sounding, Source
from ..core.piece.model.blend import GROUPS
from ..core.piece.model.kinds import Family, Kind, by_rank, name_of
from ..core.piece.motion.channels import POSE
from ..core.piece.motion.easing import PRESETS
from .requests import AxisView, Catalog, ChannelView, FaceView, KindView, RecipeView

FAMILIES = (FinishKind, Source, Card, Sounding, Arrangement, Writer, MoveKind, BehaviourKind, Recipe)


def catalogue() -> Catalog:
    """All kinds, as they are offered. Takes a while the first time, as all faces are looked at."""
    return _catalogue(tuple(kind for each in FAMILIES for kind in each.family.all().values()))


@cache
def _catalogue(_kinds: tuple[type[Kind], ...]) -> Catalog:
    """The same, worked out once for those kinds that there are."""
    return Catalog(
        finishes=_views(FinishKind.family),
        sources=_views(Source.family),
        cards=_views(Card.family),
        sounds=_views(Sounding.family),
        faces=[view for face in SHIPPED.values() if (view := face_view(face.id, face.title, face.sort)) is not None],
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


def face_view(id_: str, title: str, sort: str) -> FaceView | None:
    """A face as it is offered; None if it is not installed."""
    try:
        (first, *_) = face_files(id_)
    except Refusal:
        return None
    return FaceView(id=id_, title=title, sort=sort, axes=[AxisView(**asdict(a)) for a in first.axes])


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
