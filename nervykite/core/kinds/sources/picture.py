"""The picture that a source hands out: described, and made only when its pixels are wanted."""

import hashlib
from abc import ABC, abstractmethod
from dataclasses import dataclass
from typing import TYPE_CHECKING, Protocol

from ...piece.model import Document, Framing, Matte, Source
from ...piece.model.base import Model
from ...piece.model.finish import Supplies
from ...piece.model.source import Pictured

if TYPE_CHECKING:
    import numpy as np

    from ...see.footage.planes import Planes


def digest(*parts: object) -> str:
    """Stands for things wherever it would be slow to compare them whole: 20 hexadecimal digits."""
    texts = (p.model_dump_json() if isinstance(p, Model) else repr(p) for p in parts)
    return hashlib.sha1("\n".join(texts).encode()).hexdigest()[:20]


@dataclass(frozen=True)
class Grid:
    """Where pixels are wanted: the canvas at one level of detail.

    `size` (w, h), even, is the whole canvas at that level; `scale` how large a project pixel is in it; `draft` says
    that a proxy will do where it is sharp enough.
    """

    size: tuple[int, int]
    scale: float
    framing: Framing
    background: str
    draft: bool = False


@dataclass(frozen=True)
class Patch:
    """Part of a grid: its corner (even numbers, and there may be something left of and above the canvas), and what is
    there, h × w with both even.

    Footage comes as `planes` with their `alpha`, float32 (h, w), 0…1, and how much of the old background is to be taken
    out of the colours at its edge (`fringe`, 0…1). What was drawn comes as `rgba`: premultiplied R'G'B'A, float32.
    """

    left: int
    top: int
    planes: "Planes | None" = None
    alpha: "np.ndarray | None" = None
    fringe: float = 0.0
    rgba: "np.ndarray | None" = None


class Material(Supplies, Protocol):
    """Where pixels come from: footage, stored pictures, mattes."""

    def footage(self, shot: str, frame: int, grid: Grid) -> "Planes":
        """A source frame on a grid."""
        ...

    def stored(self, file: str, grid: Grid) -> "Planes":
        """A stored plate on a grid."""
        ...

    def drawing(self, file: str, grid: Grid, margin: int) -> Patch | None:
        """A stored picture with alpha on a grid, and `margin` pixels more; None if there is nothing to see."""
        ...

    def cut_out(self, cutout: "Cutout", grid: Grid, margin: int) -> Patch | None:
        """A cutout on a grid, as far as its subject goes and `margin` pixels more; None if it is empty."""
        ...

    def mended(self, mended: "Mended", grid: Grid) -> "Planes":
        """A source frame with something else in the place of part of it, in that frame's light."""
        ...

    def over_background(self, patch: Patch | None, grid: Grid) -> "Planes":
        """A patch on an otherwise empty canvas."""
        ...


class Picture(ABC):
    """A picture as it is described. Equal digests mean equal pixels on the same grid."""

    digest: str
    size: tuple[int, int]
    """Its own pixels, width and height: more of them than that are never made."""

    @abstractmethod
    def cut(self, material: Material, grid: Grid, margin: int) -> Patch | None:
        """Its pixels as a sprite needs them, `margin` pixels free on each side; None if there is nothing to see."""

    def opaque(self, material: Material, grid: Grid) -> "Planes":
        """The whole canvas with it, over the background."""
        return material.over_background(self.cut(material, grid, 0), grid)


def drawable(found: Pictured) -> Picture:
    """The picture that a source showed. Raises TypeError for a source that showed something else."""
    if not isinstance(found, Picture):
        raise TypeError(f"a source showed {type(found).__name__}, which is no picture")
    return found


def picture_or_uncut(source: Source, document: Document, frame: int) -> Picture | None:
    """The picture of a source at one of its frames, or what stands for it before it is carved; None for nothing."""
    found = source.picture(document, frame) or source.uncut(document, frame)
    return None if found is None else drawable(found)


@dataclass(frozen=True)
class Footage(Picture):
    """A source frame of a shot, as filmed."""

    shot: str
    frame: int
    size: tuple[int, int]

    @property
    def digest(self) -> str:  # type: ignore[override]
        """The shot and the frame."""
        return f"{self.shot}:{self.frame}"

    def cut(self, material: Material, grid: Grid, margin: int) -> Patch | None:
        return material.cut_out(Cutout(self, self.shot, self.frame, Matte(invert=True), digest(self)), grid, margin)

    def opaque(self, material: Material, grid: Grid) -> "Planes":
        return material.footage(self.shot, self.frame, grid)


@dataclass(frozen=True)
class Stored(Picture):
    """A stored picture, by the hash of its file."""

    file: str
    shot: str
    frame: int
    size: tuple[int, int]

    @property
    def digest(self) -> str:  # type: ignore[override]
        """The hash of the file."""
        return self.file

    def cut(self, material: Material, grid: Grid, margin: int) -> Patch | None:
        return material.cut_out(Cutout(self, self.shot, self.frame, Matte(invert=True), digest(self)), grid, margin)

    def opaque(self, material: Material, grid: Grid) -> "Planes":
        return material.stored(self.file, grid)


@dataclass(frozen=True)
class StoredSprite(Picture):
    """A stored picture with alpha, by the hash of its file."""

    file: str
    size: tuple[int, int]

    @property
    def digest(self) -> str:  # type: ignore[override]
        """The hash of the file."""
        return self.file

    def cut(self, material: Material, grid: Grid, margin: int) -> Patch | None:
        return material.drawing(self.file, grid, margin)


@dataclass(frozen=True)
class Mended(Picture):
    """A source frame with something else in the place of part of it."""

    base: Footage
    mend: "Cutout"

    @property
    def size(self) -> tuple[int, int]:  # type: ignore[override]
        """That of the frame."""
        return self.base.size

    @property
    def digest(self) -> str:  # type: ignore[override]
        """The frame, and what is put into it."""
        return digest(self.base.digest, self.mend.digest)

    def cut(self, material: Material, grid: Grid, margin: int) -> Patch | None:
        cutout = Cutout(self, self.base.shot, self.base.frame, Matte(invert=True), digest(self))
        return material.cut_out(cutout, grid, margin)

    def opaque(self, material: Material, grid: Grid) -> "Planes":
        return material.mended(self, grid)


@dataclass(frozen=True)
class Cutout(Picture):
    """The part of a source frame that a matte leaves, or of a picture in its place."""

    base: Footage | Stored | Mended
    shot: str
    frame: int
    matte: Matte
    digest: str

    @classmethod
    def of(cls, base: Footage | Stored, shot: str, frame: int, matte: Matte) -> "Cutout":
        """The cutout of a matte that belongs to a source frame."""
        return cls(base, shot, frame, matte, digest(base.digest, shot, frame, matte))

    @property
    def size(self) -> tuple[int, int]:  # type: ignore[override]
        """That of the frame."""
        return self.base.size

    def cut(self, material: Material, grid: Grid, margin: int) -> Patch | None:
        return material.cut_out(self, grid, margin)
