"""Estimate of a file's size and of the time that it will take: from a few frames, drawn and written as all will be."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from time import perf_counter

from ...piece.model import Document
from ...see.footage.library import Library
from ..picture.evaluate import Evaluation
from .chunks import FrameRenderer
from .frame import Frame
from .sending import Sending
from .writer import StreamFormat, Writer

PLACES = (1 / 3, 2 / 3)
"""Where in what is sent some frames are looked at."""
RUN = 5
"""How many there, one after the other: formats keep what changes."""


@dataclass(frozen=True)
class Foretold:
    """Bytes that a file will have, and seconds that it will take."""

    size: int
    seconds: float


def foretold(
    document: Document,
    open_library: Callable[[], Library],
    folder: Path,
    writer: Writer,
    sending: Sending,
    heard: bool = False,
) -> Foretold:
    """The estimate of a sending, from frames at two places of it.

    folder: where they are written, and left; heard: whether what is sent has sound, as far as the format keeps it. What
    a film may have at most it is taken to have. Raises Refusal if there is nothing to send.
    """
    project = document.project
    times = sending.times(project, Evaluation(document).length)
    times = times[:1] if writer.single else times
    rate = sending.rate or project.rate
    size = sending.size or (project.width, project.height)
    picture = StreamFormat(size, rate, False, sending.clear and writer.clear, round(times[0]), len(times), project.rate)
    first, more, pace = list[int](), list[float](), 0.0
    starts = [0] if len(times) <= 2 * RUN else [int(share * (len(times) - RUN)) for share in PLACES]
    with FrameRenderer(document, [sending], open_library) as drawing:
        for start in starts:
            run = times[start : start + RUN]
            begun = perf_counter()
            frames = [drawing(time)[0] for time in run]
            drawn = perf_counter() - begun
            begun = perf_counter()
            whole = _size(folder, writer, picture, frames)
            written = perf_counter() - begun
            alone = _size(folder, writer, picture, frames[:1]) if len(run) > 1 else whole
            first.append(alone)
            more.append((whole - alone) / max(1, len(run) - 1))
            # The one is done while the other is; the first run also opens what is read, so the last one counts.
            pace = max(drawn, written) / len(run)
    bits = writer.sound_bits if heard else 0
    bytes_ = sum(first) / len(first) + sum(more) / len(more) * (len(times) - 1) + bits / 8 * len(times) / float(rate)
    if writer.most is not None:
        bytes_ = writer.most
    return Foretold(round(bytes_), pace * len(times))


def _size(folder: Path, writer: Writer, picture: StreamFormat, frames: list[Frame]) -> int:
    """Bytes of a file of some frames alone."""
    path = folder / f"some{writer.suffix}"
    writing = writer.freely.start(path, picture)
    try:
        for frame in frames:
            writing.frame(writer.prepared(frame, picture))
    except BaseException:
        writing.abandon()
        raise
    writing.close()
    return path.stat().st_size
