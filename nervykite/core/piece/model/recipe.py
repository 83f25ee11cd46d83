"""Recipes: ready pieces of work, made from somebody's own footage; and what one of them made."""

from collections.abc import Sequence
from typing import Annotated, Any, ClassVar

from pydantic import Field

from .base import FrameNumber, Id, Model, new_id
from .kinds import Family, Kind


class Caught(Model):
    """A frame that is caught for a recipe: of which piece of the ground, and which of its footage."""

    item: Id
    frame: FrameNumber


class Recipe(Kind):
    """A ready piece of work, with its large controls. What it makes are ordinary layers, keys, finishes and sounds.

    takes: how many takes it needs, one after the other in the ground; words: whether it shows any; when: what it is
    for; film: how to film for it; missed: the mistakes that are usual; cuts: whether the subject is cut out of what is
    caught; listed: whether it is offered by itself.
    """

    family: ClassVar[Family[Any]] = Family("recipe", "nervykite.core.change.recipes")
    takes: ClassVar[int] = 1
    words: ClassVar[bool] = False
    when: ClassVar[str] = ""
    film: ClassVar[str] = ""
    missed: ClassVar[str] = ""
    cuts: ClassVar[bool] = True
    listed: ClassVar[bool] = True

    @property
    def called(self) -> str:
        """A name to show for it."""
        return self.title

    @property
    def needs(self) -> int:
        """The number of takes it needs."""
        return self.takes

    @property
    def dressed_in_clothes(self) -> bool:
        """True if its colours are those of the clothes, in place of the piece's."""
        return False

    @property
    def asked(self) -> int | None:
        """The number of frames it is to be made of; None if it is made of what there is."""
        return getattr(self, "many", None)

    @property
    def emptied(self) -> float:
        """For how many seconds after its moment the footage is emptied of the subject; 0 if it is not."""
        return 0.0

    def catch(self, takes: Sequence[Any]) -> list[tuple[int, int]]:
        """The frames that it is made from: of which of the takes (`catch.take.Take`), and which of its frames. Raises
        Refusal if there are none in them.
        """
        raise NotImplementedError

    def make(self, making: Any) -> None:
        """Makes it of what was caught (the cutouts of an `edits.making.Making`). Raises Refusal if that cannot be."""
        raise NotImplementedError


class Made(Model):
    """A record of what a recipe made, so that another one can take its place: layers, pieces of the ground, sounds,
    behaviours of what was there before, holds that nobody caught, and pieces of the ground that it emptied of the
    subject, moments that were flagged for it; and what of it came out otherwise than it was asked for, in sentences.
    """

    id: Id = Field(default_factory=new_id)
    recipe: Recipe
    caught: Annotated[list[Caught], Field(max_length=60)]
    layers: list[Id] = []
    items: list[Id] = []
    cues: list[Id] = []
    behaviours: list[Id] = []
    holds: list[Id] = []
    emptied: list[Id] = []
    flags: list[Id] = []
    said: Annotated[list[Annotated[str, Field(max_length=300)]], Field(max_length=20)] = []
