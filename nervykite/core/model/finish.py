"""Steps of restyling: the protocol that all kinds of finishes answer."""

from typing import TYPE_CHECKING, Any, ClassVar, Literal

from .kinds import Family, Kind

if TYPE_CHECKING:
    import numpy as np

    from ..footage.planes import Planes

Target = Literal["cutout", "ground"]


class FinishKind(Kind):
    """A way of restyling, with its settings. Lengths among them are project pixels.

    `on` says what it can be put on. Settings that are numbers can have keys, unless their field says
    `json_schema_extra={"keyable": False}`.
    """

    family: ClassVar[Family[Any]] = Family("finish", "nervykite.core.finishes")
    on: ClassVar[tuple[Target, ...]] = ()

    def reach(self) -> float:
        """How far beyond what it is put on it may draw, in project pixels."""
        return 0.0

    def cutout(self, rgba: "np.ndarray", scale: float) -> "np.ndarray":
        """The restyled cutout: premultiplied R'G'B'A, float32 (h, w, 4), in and out; light may exceed coverage.

        `scale` is the size it is drawn at over the project's.
        """
        raise NotImplementedError(f"{self.title} is not for cutouts")

    def ground(self, planes: "Planes", scale: float) -> "Planes":
        """The restyled footage, same size; the planes given are not to be written to."""
        raise NotImplementedError(f"{self.title} is not for footage")
