"""Draws, which an evaluation hands on, from the ground up. Plain data, no pixels."""

from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import NamedTuple

import numpy as np

from ...kinds.sources.picture import Picture, digest, drawable
from ...piece.model import FinishKind, Framing
from ...piece.model.blend import BlendMode
from ...piece.model.source import Pictured

Matrix = tuple[float, ...]
"""A projective 3×3 matrix, row by row: canvas pixels at rest to canvas pixels."""
AT_REST: Matrix = (1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0)


class Worn(NamedTuple):
    """A finish as it is at a time, and what of the time it depends on, see `FinishKind.moment`."""

    look: FinishKind
    moment: float | None = None


@dataclass(frozen=True)
class SpriteSpec:
    """All that a sprite depends on, besides the size of the canvas: a picture, how it is framed, what it wears."""

    picture: Picture
    framing: Framing
    finishes: tuple[Worn, ...] = ()
    digest: str = ""

    @classmethod
    def of(cls, picture: Pictured, framing: Framing, finishes: tuple[Worn, ...] = ()) -> "SpriteSpec":
        """The spec of a picture under finishes."""
        return cls(drawable(picture), framing, finishes, digest(picture.digest, framing, *finishes))


@dataclass(frozen=True)
class SpriteDraw:
    """A sprite, where it goes, and how opaque, 0…1. `largest` is how large its layer is drawn at any time (1 = as it
    rests): that decides how fine the sprite is. `moves` are its places while the shutter is open, as `shutter.py` finds
    them; none where it stands.
    """

    layer: str
    sprite: SpriteSpec
    matrix: Matrix
    opacity: float
    largest: float = field(default=1.0, compare=False)
    blend: BlendMode = "normal"
    moves: tuple[Matrix, ...] = ()

    @cached_property
    def key(self) -> str:
        """Stands for all that its pixels depend on."""
        return f"{self.sprite.digest}{self.matrix}{self.opacity}{max(1.0, self.largest)}{self.blend}{self.moves}"


@dataclass(frozen=True)
class GroupDraw:
    """Draws that are put together by themselves, dressed, and then drawn as one, so opaque, 0…1, and blended so."""

    layer: str
    draws: "tuple[Draw, ...]"
    opacity: float
    blend: BlendMode = "normal"
    finishes: tuple[Worn, ...] = ()

    @cached_property
    def key(self) -> str:
        """Stands for all that its pixels depend on."""
        return f"({self.inside}){self.opacity}{self.blend}"

    @cached_property
    def inside(self) -> str:
        """Stands for all that its members' pixels depend on, and its finishes."""
        return f"{','.join(x.key for x in self.draws)}{digest(*self.finishes) if self.finishes else ''}"


@dataclass(frozen=True)
class WashDraw:
    """Finishes on all that lies below, so opaque, 0…1, and blended so.

    `mask`: only where that covers, as it lies (`outside`: only where it does not).
    """

    layer: str
    finishes: tuple[Worn, ...]
    opacity: float
    blend: BlendMode = "normal"
    mask: SpriteDraw | GroupDraw | None = None
    outside: bool = False

    @cached_property
    def key(self) -> str:
        """Stands for all that it does."""
        mask = self.mask.key if self.mask else ""
        return f"~{digest(*self.finishes)}{self.opacity}{self.blend}{mask}{self.outside}"


Draw = SpriteDraw | GroupDraw | WashDraw


@dataclass(frozen=True)
class Draws:
    """One frame, from the ground up: what lies under everything (None: the background), then draw after draw.

    `leaving` is what goes over into the ground at that time, and how much of it is still seen, 0…1. `shaken` are the
    places of the ground while the shutter is open, from where it is now, evenly spaced in time; none where it stands.
    """

    ground: SpriteSpec | None
    layers: tuple[Draw, ...]
    background: str
    leaving: tuple[SpriteSpec, float] | None = None
    shaken: tuple[Matrix, ...] = ()

    @property
    def key(self) -> str:
        """A hash of all that the frame's pixels depend on, besides its size."""
        ground = self.ground and self.ground.digest
        if self.leaving is not None:
            ground = digest(ground, self.leaving[0].digest, self.leaving[1])
        if self.shaken:
            ground = digest(ground, self.shaken)
        return digest(self.background, ground, [x.key for x in self.layers])


@dataclass(frozen=True)
class Moved:
    """The work of groups on their members, and of behaviours on all of the piece: where they take them, and how large
    they are made at most. `lifted`: they do not lie any more where the footage does.
    """

    matrix: np.ndarray
    largest: float
    lifted: bool = True

    def draw(self, one: SpriteDraw) -> SpriteDraw:
        """A member's draw as it is then."""
        matrix = tuple(float(v) for v in (self.matrix @ np.array(one.matrix).reshape(3, 3)).ravel())
        return replace(one, matrix=matrix, largest=one.largest * self.largest)
