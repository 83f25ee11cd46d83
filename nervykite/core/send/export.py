"""Sending a piece: its frames are drawn in chunks by an executor while the chunk before is being written.

The file is written under another name and gets its own only when it is whole.
"""

import os
import threading
from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from pathlib import Path

from ..errors import Refusal
from ..footage.library import Library
from ..footage.planes import Planes
from ..model import Document
from ..picture.dressing import stage_cache
from ..picture.evaluate import Evaluation
from ..picture.render import Renderer, sprite_cache
from ..sound.master import Master
from ..sound.plan import samples_before
from ..timeline.timeline import Timeline
from .writer import Picture, Writer

CHUNK = 10
"""Frames that are drawn in one go."""


class ChunkRenderer:
    """Draws ranges of frames; each thread that calls it reads the footage on its own."""

    def __init__(self, evaluation: Evaluation, open_library: Callable[[], Library]) -> None:
        self._evaluation, self._open_library = evaluation, open_library
        self._cache, self._stages = sprite_cache(), stage_cache()
        self._own = threading.local()

    def __call__(self, start: int, past: int) -> list[Planes]:
        """Frames start…past of the piece, at the project's size."""
        if not hasattr(self._own, "renderer"):
            # The held frames have a reader of their own, so that the footage is read straight through.
            self._own.renderer = Renderer(self._open_library(), self._open_library(), self._cache, stages=self._stages)
        renderer, evaluation = self._own.renderer, self._evaluation
        return [renderer.render(evaluation.document, evaluation.at(f)) for f in range(start, past)]


def chunks_in_order(
    render: Callable[[int, int], list[Planes]], span: range, executor: Executor, ahead: int
) -> Iterator[list[Planes]]:
    """The chunks of a span in order, at most `ahead` of them drawn or waiting at a time."""
    waiting: deque[Future] = deque()
    starts = iter(range(span.start, span.stop, CHUNK))
    try:
        while True:
            while len(waiting) < ahead and (start := next(starts, None)) is not None:
                waiting.append(executor.submit(render, start, min(start + CHUNK, span.stop)))
            if not waiting:
                return
            yield waiting.popleft().result()
    finally:
        for future in waiting:
            future.cancel()


def export(
    document: Document,
    open_library: Callable[[], Library],
    master_of: Callable[[Timeline], Master],
    out: Path,
    writer: Writer,
    span: tuple[int, int] | None = None,
    progress: Callable[[float], None] = lambda share: None,
    executor: Executor | None = None,
    workers: int = 1,
) -> None:
    """Writes the piece, or the half-open span of its frames, to `out`.

    open_library: footage for a thread of its own; master_of: what is heard of a piece; progress: is told
    the share done, 0…1, and may raise Cancelled; workers: how many chunks the executor may draw at once. Whatever
    happens, `out` is either as it was before or complete. Raises Refusal if there is nothing to export.
    """
    evaluation = Evaluation(document)
    project = document.project
    start, end = span or (0, evaluation.length)
    if evaluation.length == 0:
        raise Refusal(f"{project.name} has no footage yet. Import a shot first.")
    if not 0 <= start < end <= evaluation.length:
        raise Refusal(f"The range {start}:{end} lies outside the piece, which has frames 0 to {evaluation.length - 1}.")
    master = master_of(evaluation.timeline)
    picture = Picture((project.width, project.height), project.rate, not master.plan.silent)
    part = out.with_name(f".{out.name}.part")
    own_pool = ThreadPoolExecutor(workers) if executor is None else None
    try:
        writing = writer.start(part, picture)
        try:
            done, sent = start, samples_before(start, project.rate)
            chunks = chunks_in_order(
                ChunkRenderer(evaluation, open_library), range(start, end), executor or own_pool, workers + 1
            )
            for chunk in chunks:
                for planes in chunk:
                    writing.frame(planes)
                    done += 1
                until = samples_before(done, project.rate)
                writing.sound(master.samples(sent, until))
                sent = until
                progress((done - start) / (end - start))
        except BaseException:
            writing.abandon()
            raise
        writing.close()
        with part.open("rb") as file:
            os.fsync(file.fileno())
        os.replace(part, out)
    except BaseException:
        part.unlink(missing_ok=True)
        raise
    finally:
        if own_pool is not None:
            own_pool.shutdown(cancel_futures=True)
