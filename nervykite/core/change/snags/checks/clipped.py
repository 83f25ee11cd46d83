"""Sound that was recorded too loud, or of which there is none."""

from collections.abc import Iterable
from typing import ClassVar, Literal

from ..snag import Check, Inspection, Snag

SAYS = {
    "clipped": "The sound of {} was recorded too loud: it is cut off at full scale.",
    "silent": "The sound of {} is silent from end to end.",
}


class Clipped(Check):
    """A sound that the piece uses is cut off at full scale, or silent from end to end."""

    kind: Literal["clipped"] = "clipped"
    title: ClassVar[str] = "Clipped or silent sound"
    hint: ClassVar[str] = "Recorded too loud, or not at all"

    def found(self, look: Inspection) -> Iterable[Snag]:
        document, timeline = look.document, look.timeline
        used: dict[str, tuple[str, int]] = {}
        for item in look.ground:
            heard = None if item.loudness.muted else item.source.sound(document)
            shot = None if heard is None else document.shots[heard.shot]
            if shot is not None and shot.has_sound and shot.sound_file is not None:
                used.setdefault(shot.sound_file, (shot.name, timeline.starts[item.id]))
        for cue in document.project.cues:
            at = timeline.cue(cue)
            if cue.sound.file is not None and not cue.muted and at is not None and at < timeline.length:
                used.setdefault(cue.sound.file, (cue.name, at))
        for file, (name, frame) in used.items():
            fault = look.fault(file)
            if fault is not None:
                yield Snag(self.kind, SAYS[fault].format(name), frame, step="sound")
