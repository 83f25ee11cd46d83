"""Where in a piece the beats of its sounds fall."""

from dataclasses import dataclass

from ..model import Counted, Cue
from .timeline import Timeline


@dataclass(frozen=True)
class Beat:
    """A beat in the piece: at a project frame and parts of it, its number in its sound, and whether it begins a bar."""

    frame: float
    number: int
    bar: bool


def counted_of(cue: Cue, timeline: Timeline) -> Counted | None:
    """The beats of a cue's sound: as they were put right, or else as they were found."""
    return cue.counted or cue.sound.counted(timeline.document)


def frame_of(cue: Cue, timeline: Timeline, second: float) -> float | None:
    """The project frame, in parts, at which a second of a cue's sound is heard; None if it has no place."""
    frame = timeline.cue(cue)
    if frame is None:
        return None
    rate = float(timeline.document.project.rate)
    return frame + (((second - cue.skip) * 100 / cue.speed) - cue.strikes) * rate


def second_of(cue: Cue, timeline: Timeline, frame: float) -> float | None:
    """The second of a cue's sound that is heard at a project frame; None if it has no place."""
    start = frame_of(cue, timeline, cue.skip)
    if start is None:
        return None
    return cue.skip + (frame - start) / float(timeline.document.project.rate) * cue.speed / 100


def beats_of_cue(cue: Cue, timeline: Timeline) -> list[Beat]:
    """The beats of a cue that are heard in the piece. One that is heard backwards, or not at all, has none."""
    counted = counted_of(cue, timeline)
    if counted is None or not counted.beats or cue.reversed:
        return []
    seconds = cue.sound.seconds(timeline.document)
    rate = float(timeline.document.project.rate)
    round_ = None if seconds is None or not cue.loops else (seconds - cue.skip) * 100 / cue.speed * rate
    first = frame_of(cue, timeline, cue.skip)
    if first is None:
        return []
    ends = timeline.length if cue.lasts is None else min(timeline.length, first + cue.lasts * rate)
    found = []
    for number, second in enumerate(counted.beats):
        frame = frame_of(cue, timeline, second)
        if frame is None or second < cue.skip - 1e-9:
            continue
        while frame < ends:
            if frame >= 0:
                found.append(Beat(frame, number, (number - counted.first) % counted.bar == 0))
            if not round_ or round_ < 1:
                break
            frame += round_
    return sorted(found, key=lambda b: b.frame)


def accents_of_cue(cue: Cue, timeline: Timeline) -> list[float]:
    """The project frames, in parts, at which the accents of a cue are heard for the first time."""
    counted = counted_of(cue, timeline)
    if counted is None or cue.reversed:
        return []
    lasts = float("inf") if cue.lasts is None else cue.lasts * cue.speed / 100
    heard = (a for a in counted.accents if cue.skip <= a < cue.skip + lasts)
    frames = (frame_of(cue, timeline, a) for a in heard)
    return [f for f in frames if f is not None and 0 <= f < timeline.length]


def beats_of(timeline: Timeline) -> list[Beat]:
    """The beats of the piece: of all beds that are heard, or if none of these has beats, of other sounds."""
    heard = [c for c in timeline.document.project.cues if not c.muted]
    for cues in ([c for c in heard if c.part == "bed"], [c for c in heard if c.part != "bed"]):
        found = [b for c in cues for b in beats_of_cue(c, timeline)]
        if found:
            return sorted(found, key=lambda b: b.frame)
    return []
