"""A picture that was imported."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...piece.model import Document, Framing
from ...piece.model.base import Id
from ...piece.model.kinds import HIDDEN
from ...piece.model.source import On, Source
from ...see.footage.framing_matrix import own_size
from .lasting import LastingSource
from .picture import Picture, StoredSprite


class ImageSource(LastingSource):
    """A picture of the shelf, with its alpha; in the ground for so many project frames."""

    kind: Literal["image"] = "image"
    title: ClassVar[str] = "Picture"
    hint: ClassVar[str] = "A picture of the shelf"
    on: ClassVar[tuple[On, ...]] = ("sky", "ground")

    asset: Annotated[Id, HIDDEN]
    file: Annotated[str, Field(pattern="^[0-9a-f]{64}$"), HIDDEN]
    width: Annotated[int, Field(ge=1, le=32768), HIDDEN]
    height: Annotated[int, Field(ge=1, le=32768), HIDDEN]

    @classmethod
    def of(cls, document: Document, asset: str, lasting: int = 30) -> "ImageSource":
        """The source that shows a picture of the shelf. Raises Refusal if it is none."""
        found = document.assets.get(asset)
        if found is None or found.kind != "picture":
            raise Refusal("That picture is no longer on the shelf. Import it again.")
        return cls(asset=asset, file=found.file, width=found.width, height=found.height, lasting=lasting)

    @property
    def drawn(self) -> tuple[str, ...]:
        return (self.file,)

    def checked(self, document: Document) -> Source:
        found = document.assets.get(self.asset)
        if found is None or (found.file, found.width, found.height) != (self.file, self.width, self.height):
            raise Refusal("That picture is not on this project's shelf. Import it first.")
        return self

    def size(self, document: Document) -> tuple[int, int]:
        return self.width, self.height

    def picture(self, document: Document, frame: int, landed: bool = False) -> Picture | None:
        return StoredSprite(self.file, (self.width, self.height))

    def lies(self, document: Document) -> Framing | None:
        return own_size((self.width, self.height), (document.project.width, document.project.height))

    def called(self, document: Document) -> str:
        asset = document.assets.get(self.asset)
        return asset.name if asset else self.title
