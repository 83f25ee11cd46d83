"""Footage that jumps when it goes on after a standstill."""

from collections.abc import Iterable
from typing import ClassVar, Literal

from ...edits import ChangeGround
from ..snag import Check, Inspection, Snag


class Resumes(Check):
    """After time stood still at a frame, the footage goes on with the next one."""

    kind: Literal["resumes"] = "resumes"
    title: ClassVar[str] = "Jumps after a standstill"
    hint: ClassVar[str] = "Footage goes on somewhere else than where it stood"

    def found(self, look: Inspection) -> Iterable[Snag]:
        document, timeline = look.document, look.timeline
        for still, after in zip(look.ground, look.ground[1:], strict=False):
            if not still.source.stands or after.source.stands or after.source.footage(document) is None:
                continue
            held, table = int(timeline.tables[still.id][-1]), timeline.tables[after.id]
            same = still.source.footage(document) or getattr(still.source, "shot", None)
            if same != after.source.footage(document) or not len(table):
                continue
            goes_on = int(table[0])
            if goes_on - held in (0, 1):
                continue
            far = f"{abs(goes_on - held - 1)} frames {'on' if goes_on > held else 'back'}"
            whole = after.source.range
            fix = None
            if whole is not None and held + 1 < whole[1]:
                fix = ChangeGround(item=after.id, first=held + 1)
            yield Snag(
                self.kind, f"After it stood still, {document.called(after)} goes on {far}.",
                timeline.starts[after.id], item=after.id, fix=fix, fixes="Go on where it stood", step="fly",
            )  # fmt: skip
