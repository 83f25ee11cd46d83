"""The protocol of snags and of what looks for them, and their registry."""

from abc import abstractmethod
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, ClassVar

import numpy as np

from ...draw.picture.evaluate import Evaluation
from ...draw.sound.faults import Fault
from ...piece.model import Document, GroundItem, Layer
from ...piece.model.kinds import Family, Kind
from ...piece.timeline.timeline import Timeline
from ..edits import Edit


@dataclass(frozen=True)
class Snag:
    """Something that will look wrong: in a sentence, where it is seen, and what mends it, if anything does at one go.

    `step` is where a person would mend it by hand.
    """

    check: str
    says: str
    frame: int | None = None
    layer: str | None = None
    item: str | None = None
    step: str = "fly"
    fix: Edit | None = None
    fixes: str = ""


@dataclass(frozen=True)
class Inspection:
    """A piece, to be looked over.

    alpha: gives the matte of a hold, float32 (h, w), 0…1; detail: how crisp the subject is in each frame of a shot, 0
    where it was not looked at; fault: what is wrong with the sound in a file. Each gives None where nothing is known.
    """

    evaluation: Evaluation
    alpha: Callable[[str], np.ndarray | None] = field(default=lambda hold: None)
    detail: Callable[[str], Sequence[float] | None] = field(default=lambda shot: None)
    fault: Callable[[str], Fault | None] = field(default=lambda file: None)

    @property
    def document(self) -> Document:
        """The document that is looked over."""
        return self.evaluation.document

    @property
    def timeline(self) -> Timeline:
        """Its timeline."""
        return self.evaluation.timeline

    @cached_property
    def shown(self) -> list[Layer]:
        """The layers that are not hidden, nor in anything that is."""
        hidden = {x.id for x in self.document.project.layers if not x.visible}
        while more := {x.id for x in self.document.project.layers if x.group in hidden and x.id not in hidden}:
            hidden |= more
        return [x for x in self.document.project.layers if x.id not in hidden]

    @property
    def unit(self) -> float:
        """Pixels of the canvas that a pixel of 1080×1920 is."""
        return max(self.document.project.width, self.document.project.height) / 1920

    @property
    def ground(self) -> list[GroundItem]:
        """The ground in order."""
        return self.document.project.ground


class Check(Kind):
    """Looks for one sort of snag."""

    family: ClassVar[Family[Any]] = Family("check", "nervykite.core.change.snags.checks")
    title: ClassVar[str] = ""
    hint: ClassVar[str] = ""

    @abstractmethod
    def found(self, look: Inspection) -> Iterable[Snag]:
        """The snags there are of it."""


def snags_of(look: Inspection) -> list[Snag]:
    """All snags of a piece, in the order in which they are seen."""
    found = [snag for check in Check.family.all().values() for snag in check().found(look)]
    return sorted(found, key=lambda s: (s.frame is None, s.frame or 0, s.check, s.says))
