"""Edits of what things wear: finishes put on others, palettes, named sets."""

from typing import Annotated, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...piece.model import Document, GroundItem, Layer
from ...piece.model.base import Colour, Id, Name, new_id
from ...piece.model.naming import free_name
from ...piece.model.project import FinishSet
from .base import Edit, OwnerEdit, dressed, item_of, open_layer, with_owner, with_project


class DressLike(OwnerEdit):
    """Puts the finishes of a layer or a ground item, with their keys, on others, in place of theirs."""

    kind: Literal["dress like"] = "dress like"
    to: Annotated[list[Id], Field(min_length=1, max_length=500)]

    def title(self, document: Document) -> str:
        return f"dress {len(self.to)} like {self.name(document)}"

    def apply(self, document: Document) -> Document:
        wears = self.owner(document)
        for id_ in self.to:
            other: Layer | GroundItem = (
                open_layer(document, id_) if document.layer(id_) is not None else item_of(document, id_)
            )
            ids = {f.id: new_id() for f in wears.finishes}
            changes = dressed(document, other, [f.model_copy(update={"id": ids[f.id]}) for f in wears.finishes])
            parted = [(k, *k.channel.partition(".")) for k in wears.keys]
            keys = [
                k.model_copy(update={"id": new_id(), "channel": f"{ids[head]}.{setting}"})
                for k, head, _, setting in parted
                if head in ids
            ]
            document = with_owner(document, other, finishes=changes["finishes"], keys=[*changes["keys"], *keys])
        return document


class SetPalette(Edit):
    """Changes the colours that are kept with the project."""

    kind: Literal["set palette"] = "set palette"
    colours: Annotated[list[Colour], Field(max_length=60)]

    def title(self, document: Document) -> str:
        return "change the palette"

    def apply(self, document: Document) -> Document:
        return with_project(document, palette=list(dict.fromkeys(c.upper() for c in self.colours)))


class KeepSet(OwnerEdit):
    """Keeps the finishes of a layer or a ground item under a name, to be put on others."""

    kind: Literal["keep set"] = "keep set"
    called: Name
    set: Id = Field(default_factory=new_id)

    def title(self, document: Document) -> str:
        return f"keep the finishes of {self.name(document)}"

    def apply(self, document: Document) -> Document:
        finishes = self.owner(document).finishes
        if not finishes:
            raise Refusal("There are no finishes on it to keep. Put some on first.")
        sets = document.project.sets
        name = free_name(self.called, {s.name for s in sets})
        fresh = [f.model_copy(update={"id": new_id()}) for f in finishes]
        return with_project(document, sets=[*sets, FinishSet(id=self.set, name=name, finishes=fresh)])


class RemoveSet(Edit):
    """Forgets a named set."""

    kind: Literal["remove set"] = "remove set"
    set: Id

    def title(self, document: Document) -> str:
        return f"forget the set {_set(document, self.set).name}"

    def apply(self, document: Document) -> Document:
        gone = _set(document, self.set)
        return with_project(document, sets=[s for s in document.project.sets if s is not gone])


class PutSet(OwnerEdit):
    """Puts the finishes of a named set on a layer or a ground item, after those that it has."""

    kind: Literal["put set"] = "put set"
    set: Id

    def title(self, document: Document) -> str:
        return f"put {_set(document, self.set).name} on {self.name(document)}"

    def apply(self, document: Document) -> Document:
        owner, given = self.open_owner(document), _set(document, self.set)
        fresh = [f.model_copy(update={"id": new_id()}) for f in given.finishes]
        return with_owner(document, owner, **dressed(document, owner, [*owner.finishes, *fresh]))


def _set(document: Document, id_: str) -> FinishSet:
    found = next((s for s in document.project.sets if s.id == id_), None)
    if found is None:
        raise Refusal("That set is no longer there. Choose another.")
    return found
