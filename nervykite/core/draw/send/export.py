"""Sending a piece: its frames are drawn in chunks by an executor while the chunk before is being written.

What is sent together and shows the same times shares one reading, and what looks alike in them one drawing. A file is
written under another name and gets its own only when it is whole.
"""

from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from contextlib import ExitStack
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np

from ...piece.model import Document
from ...piece.timeline.timeline import Timeline
from ...see.footage.library import Library
from ..picture.evaluate import Evaluation
from ..sound.master import Master
from ..sound.plan import samples_before
from .atomic_files import whole
from .chunks import FrameRenderer
from .sending import Sending
from .writer import StreamFormat, Writer, Writing

CHUNK = 10
"""Frames that are drawn in one go."""
CLEAR_CHUNK = 3
"""The same of those with alpha, which are five times as large."""
CLEAR_WORKERS = 2
"""How many threads draw those: preparing one takes longer than encoding it. What is opaque keeps an encoder busy that
uses all cores."""


@dataclass(frozen=True)
class Output:
    """A file to be sent: where, as which format, and what of the piece."""

    path: Path
    writer: Writer
    sending: Sending = field(default_factory=Sending)


@dataclass(frozen=True)
class _Strand:
    """Outputs that show the same times, at one rate: those of the frames that are drawn."""

    times: tuple[float, ...]
    outputs: tuple[tuple[Output, StreamFormat], ...]

    @property
    def clear(self) -> bool:
        """True if any of it has alpha."""
        return any(o.sending.clear for o, _ in self.outputs)

    @property
    def sendings(self) -> list[Sending]:
        """The distinct pictures of some sendings, once each."""
        return list({_drawn_by(o.sending): o.sending for o, _ in self.outputs}.values())


def export(
    document: Document,
    open_library: Callable[[], Library],
    master_of: Callable[[Timeline], Master],
    outputs: Sequence[Output],
    progress: Callable[[float], None] = lambda share: None,
    workers: int | None = None,
) -> None:
    """Writes the piece, or what of it is to be sent, to some files.

    open_library: footage for a thread of its own; master_of: what is heard of a piece; progress: is told the share
    done, 0…1, and may raise Cancelled; workers: how many chunks may be drawn at once, None for as many as suit what is
    sent. Whatever happens, each file is either as it was before or complete. Raises Refusal if there is nothing to
    export.
    """
    timeline = Evaluation(document).timeline
    master = master_of(timeline)
    strands = _strands(document, timeline.length, master, outputs)
    total, before = sum(len(s.times) for s in strands), 0
    for strand in strands:
        many = workers or (CLEAR_WORKERS if strand.clear else 1)
        report = partial(_share, progress, before, total)
        # The footage is let go of once nobody draws from it any more, whatever became of the sending.
        with FrameRenderer(document, strand.sendings, open_library) as drawing:
            pool = ThreadPoolExecutor(many, "draw")
            try:
                _send(drawing, master, strand, report, pool, many + 1)
            finally:
                pool.shutdown(cancel_futures=True)
        before += len(strand.times)


def _share(progress: Callable[[float], None], before: int, total: int, done: int) -> None:
    progress((before + done) / total)


def _strands(document: Document, length: int, master: Master, outputs: Sequence[Output]) -> list[_Strand]:
    """The sendings, grouped by the times that they share."""
    project = document.project
    found: dict[Any, list[tuple[Output, StreamFormat]]] = {}
    for output in outputs:
        sending, writer = output.sending, output.writer
        times = tuple(sending.times(project, length))
        if writer.single:
            times = times[:1]
        rate = sending.rate or project.rate
        heard = sending.what == "piece" and not master.plan.silent and writer.sound_bits > 0
        size = sending.size or (project.width, project.height)
        clear = sending.clear and writer.clear
        picture = StreamFormat(size, rate, heard, clear, round(times[0]), len(times), project.rate)
        found.setdefault((times, rate), []).append((output, picture))
    return [_Strand(times, tuple(those)) for (times, _), those in found.items()]


def _send(
    drawing: FrameRenderer,
    master: Master,
    strand: _Strand,
    report: Callable[[int], None],
    pool: Executor,
    ahead: int,
) -> None:
    """Sends a strand; `report` is told how many frames are done, now and then."""
    place = {_drawn_by(sending): n for n, sending in enumerate(strand.sendings)}

    def make(time: float) -> list[Any]:
        frames = drawing(time)
        return [o.writer.prepared(frames[place[_drawn_by(o.sending)]], picture) for o, picture in strand.outputs]

    first = strand.outputs[0][1]
    begun = sent = samples_before(first.first, first.project_rate)
    many = CLEAR_CHUNK if strand.clear else CHUNK
    with ExitStack() as stack:
        writings = list[Writing]()
        for output, picture in strand.outputs:
            writings.append(output.writer.start(stack.enter_context(whole(output.path)), picture))
            # Left early, it is let go of before what is there of it is removed.
            stack.callback(_let_go, writings, writings[-1])
        hands = stack.enter_context(ThreadPoolExecutor(len(writings), "write"))
        heard = [picture.sound for _, picture in strand.outputs]
        done = 0
        for chunk in chunks_in_order(make, strand.times, many, pool, ahead):
            done += len(chunk)
            until = begun + samples_before(done, first.rate)
            samples = master.samples(sent, until) if any(heard) else None
            sounds = [samples if hears else None for hears in heard]
            # Each is written by a thread of its own: an encoder that knows one core alone does not hold up the others.
            list(hands.map(_put, writings, zip(*chunk, strict=True), sounds))
            sent = until
            report(done)
        while writings:
            writings.pop(0).close()


def _put(writing: Writing, frames: Sequence[Any], samples: np.ndarray | None) -> None:
    """Writes a chunk of frames, and what is heard with them."""
    for frame in frames:
        writing.frame(frame)
    if samples is not None:
        writing.sound(samples)


def _let_go(unfinished: list[Writing], writing: Writing) -> None:
    if writing in unfinished:
        writing.abandon()


def _drawn_by(sending: Sending) -> str:
    """All that a frame of it looks like."""
    return sending.model_dump_json(exclude={"span", "rate"})


def chunks_in_order(
    make: Callable[[float], Any], times: Sequence[float], many: int, executor: Executor, ahead: int
) -> Iterator[list[Any]]:
    """The results of some times, so `many` in one go, in order, at most `ahead` of these at work or waiting."""

    def chunk(those: Sequence[float]) -> list[Any]:
        return [make(time) for time in those]

    waiting: deque[Future] = deque()
    starts = iter(range(0, len(times), many))
    try:
        while True:
            while len(waiting) < ahead and (start := next(starts, None)) is not None:
                waiting.append(executor.submit(chunk, times[start : start + many]))
            if not waiting:
                return
            yield waiting.popleft().result()
    finally:
        for future in waiting:
            future.cancel()
