"""The part that still things in the ground share that last for so many project frames, whatever is shown."""

from typing import Annotated, TypeVar

import numpy as np
from pydantic import Field

from ...common.errors import Refusal
from ...piece.model import Document
from ...piece.model.source import Source

Same = TypeVar("Same", bound="LastingSource")


class LastingSource(Source):
    """Something that stands for `lasting` project frames."""

    lasting: Annotated[
        int,
        Field(ge=1, le=100_000, title="Length", json_schema_extra={"unit": "fr", "keyable": False, "only": "ground"}),
    ] = 30

    def shown(self) -> int:
        """The frame of its own that it shows."""
        return 0

    def lasts(self, document: Document) -> int:
        return self.lasting

    def frames(self, document: Document) -> np.ndarray:
        return np.full(self.lasting, self.shown(), np.int64)

    def lengthened(self: Same, to: int) -> Same:
        """As long as that."""
        return self.model_copy(update={"lasting": to})

    def split(self, document: Document, at: int) -> tuple[Source, Source]:
        if not 0 < at < self.lasting:
            raise Refusal(f"{self.called(document)} cannot be cut there: one side would have no frame. Choose another.")
        return self.lengthened(at), self.lengthened(self.lasting - at)

    def joined(self, other: Source) -> Source | None:
        if not isinstance(other, LastingSource) or other.lengthened(self.lasting) != self:
            return None
        return self.lengthened(self.lasting + other.lasting)

    def changed(self, before: Source, name: str) -> str:
        if isinstance(before, LastingSource) and before.lasting != self.lasting:
            return f"make {name} last {self.lasting} frames"
        return super().changed(before, name)
