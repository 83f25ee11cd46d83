"""Edits of what lies on the shelf besides shots: pictures, sounds, tables of colours."""

from typing import Literal

from ...common.errors import Refusal
from ...piece.model import Asset, Document, GroundItem, Layer
from ...piece.model.base import Id, Name
from ...piece.model.naming import free_name
from .base import Edit, sources_of


def asset_of(document: Document, id_: str) -> Asset:
    """A picture or sound of the shelf by its id. Raises Refusal if it is gone."""
    if id_ not in document.assets:
        raise Refusal("That is no longer on the shelf. Import it again.")
    return document.assets[id_]


class AddAsset(Edit):
    """Puts an imported picture or sound on the shelf."""

    kind: Literal["add asset"] = "add asset"
    asset: Asset

    def brings(self) -> set[str]:
        return {self.asset.id}

    def title(self, document: Document) -> str:
        return f"import {self.asset.name}"

    def apply(self, document: Document) -> Document:
        name = free_name(self.asset.name, {a.name for a in document.assets.values()})
        asset = self.asset.model_copy(update={"name": name})
        return document.model_copy(update={"assets": {**document.assets, asset.id: asset}})


class RenameAsset(Edit):
    """Gives a picture or sound of the shelf another name."""

    kind: Literal["rename asset"] = "rename asset"
    asset: Id
    name: Name

    def title(self, document: Document) -> str:
        return f"rename {asset_of(document, self.asset).name} to {self.name}"

    def apply(self, document: Document) -> Document:
        asset = asset_of(document, self.asset).model_copy(update={"name": self.name})
        return document.model_copy(update={"assets": {**document.assets, asset.id: asset}})


class RemoveAsset(Edit):
    """Takes a picture or sound off the shelf. Raises Refusal while it is in use."""

    kind: Literal["remove asset"] = "remove asset"
    asset: Id

    def title(self, document: Document) -> str:
        return f"take {asset_of(document, self.asset).name} off the shelf"

    def apply(self, document: Document) -> Document:
        asset = asset_of(document, self.asset)
        wearers: list[Layer | GroundItem] = [*document.project.layers, *document.project.ground]
        worn = {file for owner in wearers for finish in owner.finishes for file in finish.look.files}
        shown = {file for source in sources_of(document) for file in (*source.drawn, *source.files)}
        heard = {c.sound.file for c in document.project.cues}
        if asset.file in worn | shown | heard:
            raise Refusal(f"{asset.name} is in use. Remove what shows or wears it first.")
        left = {k: a for k, a in document.assets.items() if k != asset.id}
        return document.model_copy(update={"assets": left})
