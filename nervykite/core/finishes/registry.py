"""Which finishes there are.

A finish is an object with a `kind`, a `title`, a `settings` model, and `apply(picture, settings, scale)`, where
`scale` is the size it is drawn at over the project's: distances in settings are project pixels.
A cutout's finish works on premultiplied R'G'B'A, float32 (h, w, 4), and says with `reach` how far, in project
pixels, it may draw beyond the cutout. A ground finish works on planes.
"""

from collections.abc import Sequence
from typing import Any, ClassVar, Protocol

import numpy as np
from pydantic import BaseModel, ValidationError

from ..errors import Refusal
from ..footage.planes import Planes
from ..model.layers import Finish


class CutoutFinish(Protocol):
    """Restyles a cutout."""

    kind: ClassVar[str]
    title: ClassVar[str]
    settings: ClassVar[type[BaseModel]]

    def reach(self, settings: Any) -> float:
        """How far beyond the cutout it may draw, in project pixels."""
        ...

    def apply(self, rgba: np.ndarray, settings: Any, scale: float) -> np.ndarray:
        """The restyled picture."""
        ...


class GroundFinish(Protocol):
    """Restyles the footage."""

    kind: ClassVar[str]
    title: ClassVar[str]
    settings: ClassVar[type[BaseModel]]

    def apply(self, planes: Planes, settings: Any, scale: float) -> Planes:
        """The restyled picture; the one given may be changed."""
        ...


CUTOUT: dict[str, CutoutFinish] = {}
GROUND: dict[str, GroundFinish] = {}


def checked(finish: Finish, target: str) -> Finish:
    """The finish with all its settings filled in. Raises Refusal if there is no such one, or a setting is off."""
    known = CUTOUT if target == "cutout" else GROUND
    if finish.kind not in known:
        raise Refusal(f"There is no finish “{finish.kind}” for the {target}; there are {', '.join(known)}.")
    try:
        settings = known[finish.kind].settings.model_validate(finish.settings)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(x) for x in first["loc"])
        raise Refusal(f"{known[finish.kind].title}: {where}: {first['msg']}.") from error
    return finish.model_copy(update={"settings": settings.model_dump()})


def active(finishes: Sequence[Finish]) -> tuple[Finish, ...]:
    """The finishes that are switched on."""
    return tuple(f for f in finishes if f.visible)


def cutout_finish(finish: Finish) -> tuple[CutoutFinish, Any]:
    """A cutout's finish and its settings."""
    kind = CUTOUT[finish.kind]
    return kind, kind.settings.model_validate(finish.settings)


def ground_finish(finish: Finish) -> tuple[GroundFinish, Any]:
    """A ground finish and its settings."""
    kind = GROUND[finish.kind]
    return kind, kind.settings.model_validate(finish.settings)
