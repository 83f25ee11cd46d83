"""Sounds that nobody hears."""

from collections.abc import Iterable
from typing import ClassVar, Literal

from ...edits import ChangeMix, RemoveCues
from ..snag import Check, Inspection, Snag

PARTS: dict[str, str] = {"bed": "bed", "hits": "hits", "voice": "footage"}
"""The fader of the mix that each part of a cue goes through."""


class Unheard(Check):
    """A sound that comes after the end, or is tied to nothing any more; or a mix that is silent as a whole."""

    kind: Literal["unheard"] = "unheard"
    title: ClassVar[str] = "Sounds that nobody hears"
    hint: ClassVar[str] = "After the end, tied to nothing, or all muted"

    def found(self, look: Inspection) -> Iterable[Snag]:
        project, timeline = look.document.project, look.timeline
        for cue in project.cues:
            at = timeline.cue(cue)
            if at is not None and at < timeline.length:
                continue
            why = "what it is tied to has no place" if at is None else "the piece is over by then"
            frame = None if at is None else timeline.length - 1
            fix = RemoveCues(cues=[cue.id])
            says = f"{cue.name} is not heard: {why}."
            yield Snag(self.kind, says, frame, step="sound", fix=fix, fixes="Remove it")
        used = {PARTS[c.part] for c in project.cues if not c.muted}
        shots = (look.document.shots.get(g.source.footage(look.document) or "") for g in look.ground)
        if any(s is not None and s.has_sound for s in shots):
            used.add("footage")
        muted = {n for n in used if getattr(project.mix, n).muted}
        if used and muted == used:
            changes = {n: getattr(project.mix, n).model_dump() | {"muted": False} for n in sorted(muted)}
            yield Snag(
                self.kind, "Nothing of the piece is heard: all that sounds is muted.", None, step="sound",
                fix=ChangeMix(changes=changes), fixes="Let it be heard",
            )  # fmt: skip
