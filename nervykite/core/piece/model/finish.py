"""Steps of restyling: the protocol that all kinds of finishes answer."""

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar, Literal, NamedTuple, Protocol

from .blend import BlendMode
from .kinds import Family, Kind

if TYPE_CHECKING:
    import numpy as np

Target = Literal["cutout", "ground"]
"""What flies and has an edge (layers, groups), or what covers the canvas (items of the ground, washes)."""
Looks = Literal["edge", "tone", "fill", "drawing", "light", "lens", "break-up", "geometry"]
"""The families, as the page groups them."""


Size = tuple[float, float]
"""Width and height."""
Sides = tuple[float, float, float, float]
"""So far to the left, up, to the right, down."""


class When(NamedTuple):
    """A time, for finishes that change by themselves: in project frames since what wears them is there."""

    since: float
    """How long it has been there."""
    lasts: float
    """How long it is there in all."""
    landing: float
    """When its own frame is, counted like `since`."""


class Supplies(Protocol):
    """The things that finishes can be given besides the picture: files of the shelf by their hashes, None if one is
    missing.
    """

    def shelved(self, file: str) -> "np.ndarray | None":
        """A picture, straight R'G'B'A: uint8 (h, w, 4)."""
        ...

    def table(self, file: str) -> Any:
        """A table of colours, see `footage.table`."""
        ...


class Echoed(NamedTuple):
    """A copy drawn as it was so many frames ago, beneath, so opaque, 0…1, and blended so."""

    ago: float
    opacity: float
    blend: BlendMode


@dataclass(frozen=True)
class Stage:
    """Where and when a finish works."""

    scale: float
    """How large a project pixel is in the picture."""
    left: int = 0
    top: int = 0
    """Where the picture's corner lies on the canvas, in pixels at that scale: patterns keep to the canvas."""
    canvas: tuple[int, int] = (0, 0)
    """Width and height of the canvas at that scale, in pixels."""
    opaque: bool = False
    """Whether the picture is the whole canvas, covered: what comes in from beyond its edge is as the edge is."""
    moment: float | None = None
    """What `FinishKind.moment` says of the time."""
    supplies: Supplies | None = None


class FinishKind(Kind):
    """A way of restyling, with its settings. Lengths among them are project pixels.

    `on` says what it can be put on, `looks` the family that it belongs to. Settings that are numbers can have keys,
    unless their field says `json_schema_extra={"keyable": False}`.
    """

    family: ClassVar[Family[Any]] = Family("finish", "nervykite.core.kinds.finishes")
    on: ClassVar[tuple[Target, ...]] = ("cutout", "ground")
    looks: ClassVar[Looks] = "tone"

    @property
    def files(self) -> tuple[str, ...]:
        """The hashes of the files of the shelf that it needs."""
        return ()

    @property
    def echoes(self) -> tuple[Echoed, ...]:
        """The copies drawn beneath, the latest first, of what wears it as it was earlier."""
        return ()

    @property
    def pictured(self) -> "FinishKind":
        """The finish that stands for it where one is chosen: itself, unless what it does shows over time alone."""
        return self

    def reach(self, size: Size) -> float | Sides:
        """The reach beyond what it is put on, to every side or to each, in project pixels.

        size: how large that is, in the same.
        """
        return 0.0

    def moment(self, when: When) -> float | None:
        """The part of the time that its look depends on; None if it stands still. Equal moments mean equal looks."""
        return None

    def dress(self, rgba: "np.ndarray", stage: Stage) -> "np.ndarray":
        """The restyled picture: premultiplied R'G'B'A, float32 (h, w, 4), in and out; light may exceed coverage.

        The picture has as much free room around what is seen as the finish reaches, unless it is opaque. What is given
        is not to be written to.
        """
        raise NotImplementedError
