"""The canvas that frames are drawn on."""

from dataclasses import dataclass
from functools import cached_property

from ...kinds.sources.picture import Grid
from ...piece.model import Document, Framing


@dataclass(frozen=True)
class Canvas:
    """A canvas of a document, of a size (w, h), even, in the project's shape. A draft may show proxies of footage."""

    document: Document
    size: tuple[int, int]
    draft: bool = False

    @classmethod
    def of(cls, document: Document, draft: bool = False) -> "Canvas":
        """The canvas of the project's own size."""
        return cls(document, (document.project.width, document.project.height), draft)

    @cached_property
    def scale(self) -> float:
        """The size of one of the project's pixels on it."""
        return self.size[0] / self.document.project.width

    @property
    def key(self) -> tuple[object, ...]:
        """All of it that pixels of things on it follow from, besides what these say themselves."""
        project = self.document.project
        return self.size, project.width, project.background, self.draft

    def grid(self, framing: Framing, background: str | None = None, level: int = 1) -> Grid:
        """The grid of what lies on it so framed, `level` times as fine; background: None for the project's."""
        size = self.size[0] * level, self.size[1] * level
        project = self.document.project
        return Grid(size, size[0] / project.width, framing, background or project.background, self.draft)
