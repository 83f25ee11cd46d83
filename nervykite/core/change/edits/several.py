"""Several edits as one: one step of undo, all of them or none."""

from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field

from ...piece.model import Document
from .base import Edit

if TYPE_CHECKING:
    from . import OneEdit


class Several(Edit):
    """Edits one after the other, as one thing done; each is made on what the one before it left."""

    kind: Literal["several"] = "several"
    edits: Annotated[list["OneEdit"], Field(min_length=1, max_length=2000)]

    def title(self, document: Document) -> str:
        first = self.edits[0].title(document)
        return first if len(self.edits) == 1 else f"{first} and {len(self.edits) - 1} more"

    def apply(self, document: Document) -> Document:
        for edit in self.edits:
            document = edit.make(document)
        return document
