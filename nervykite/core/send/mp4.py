"""Export to MP4: H.264 picture (BT.709, limited range) and AAC sound.

Frames are drawn in chunks by an executor while the chunk before is being encoded. The file is written under
another name and gets its own only when it is whole.
"""

import os
import threading
from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from ..errors import Refusal
from ..footage.library import Library
from ..footage.planes import Planes
from ..model import Document, Shot
from ..picture.evaluate import Evaluation
from ..picture.render import Renderer, SpriteCache
from ..sound.mix import RATE, mix, samples_before

CHUNK = 10
QUALITY = {"fine": 16, "good": 19, "small": 25}
"""x264's constant rate factor for each choice."""


class Cancelled(Exception):
    """The person stopped the work."""


@dataclass(frozen=True)
class Settings:
    """How to encode: one of QUALITY, and x264's preset."""

    quality: str = "good"
    preset: str = "veryfast"


class ChunkRenderer:
    """Draws ranges of frames; each thread that calls it reads the footage on its own."""

    def __init__(self, evaluation: Evaluation, open_library: Callable[[], Library]) -> None:
        self._evaluation, self._open_library = evaluation, open_library
        self._cache = SpriteCache()
        self._own = threading.local()

    def __call__(self, start: int, past: int) -> list[Planes]:
        """Frames start…past of the piece, at the project's size."""
        if not hasattr(self._own, "renderer"):
            # The held frames have a reader of their own, so that the footage is read straight through.
            self._own.renderer = Renderer(self._open_library(), self._open_library(), self._cache)
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


def to_frame(planes: Planes) -> av.VideoFrame:
    """Planes as a frame for an encoder."""
    frame = av.VideoFrame(*planes.size, "yuv420p")
    for plane, values in zip(frame.planes, (planes.y, planes.u, planes.v), strict=True):
        rows = np.frombuffer(plane, np.uint8).reshape(-1, plane.line_size)
        rows[: values.shape[0], : values.shape[1]] = values
    return frame


def add_video(out: av.container.OutputContainer, size, rate: Fraction, settings: Settings):
    """Adds the H.264 stream to a container, tagged with what the planes are."""
    options = {"crf": str(QUALITY[settings.quality]), "preset": settings.preset}
    video = out.add_stream("libx264", rate=rate, options=options)
    video.width, video.height = size
    video.pix_fmt = "yuv420p"
    context = video.codec_context
    context.time_base = 1 / rate
    context.color_range, context.colorspace, context.color_primaries, context.color_trc = 1, 1, 1, 1
    return video


def export(
    document: Document,
    open_library: Callable[[], Library],
    sound_of: Callable[[Shot], np.ndarray | None],
    out: Path,
    span: tuple[int, int] | None = None,
    settings: Settings | None = None,
    progress: Callable[[float], None] = lambda share: None,
    executor: Executor | None = None,
    workers: int = 1,
) -> None:
    """Writes the piece, or the half-open span of its frames, to `out`.

    `progress` is told the share done, 0…1, and may raise Cancelled. Whatever happens, `out` is either as it was
    before or complete. `workers` is how many chunks the executor may draw at once. Raises Refusal if there is
    nothing to export.
    """
    settings = settings or Settings()
    evaluation = Evaluation(document)
    project = document.project
    start, end = span or (0, evaluation.length)
    if evaluation.length == 0:
        raise Refusal(f"{project.name} has no footage yet. Import a shot first.")
    if not 0 <= start < end <= evaluation.length:
        raise Refusal(f"The range {start}:{end} lies outside the piece, which has frames 0 to {evaluation.length - 1}.")
    sound = mix(evaluation, sound_of)
    has_sound = any(document.shots[i.shot].has_sound for i in project.ground)
    part = out.with_name(f".{out.name}.part")
    own_pool = ThreadPoolExecutor(workers) if executor is None else None
    try:
        with av.open(str(part), "w", format="mp4", options={"movflags": "faststart"}) as container:
            video = add_video(container, (project.width, project.height), project.rate, settings)
            audio = None
            if has_sound:
                audio = container.add_stream("aac", rate=RATE, layout="stereo")
                audio.bit_rate = 192_000
            done = start
            sent = first = samples_before(start, project.rate)
            chunks = chunks_in_order(
                ChunkRenderer(evaluation, open_library), range(start, end), executor or own_pool, workers + 1
            )
            for chunk in chunks:
                for planes in chunk:
                    frame = to_frame(planes)
                    frame.pts = done - start
                    container.mux(video.encode(frame))
                    done += 1
                if audio is not None:
                    until = samples_before(done, project.rate)
                    _encode_sound(container, audio, sound[:, sent:until], sent - first)
                    sent = until
                progress((done - start) / (end - start))
            container.mux(video.encode())
            if audio is not None:
                container.mux(audio.encode())
        with part.open("rb") as file:
            os.fsync(file.fileno())
        os.replace(part, out)
    except BaseException:
        part.unlink(missing_ok=True)
        raise
    finally:
        if own_pool is not None:
            own_pool.shutdown(cancel_futures=True)


def _encode_sound(container, stream, samples: np.ndarray, at: int) -> None:
    frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(samples), format="fltp", layout="stereo")
    frame.rate, frame.pts, frame.time_base = RATE, at, Fraction(1, RATE)
    container.mux(stream.encode(frame))
