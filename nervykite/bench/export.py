"""Exporting the piece of `picture`, 90 frames; against a bare decode and encode with the same settings."""

from fractions import Fraction
from pathlib import Path
from time import perf_counter

import av
import numpy as np

from ..core.edits import ChangePiece
from ..core.model import Blur
from ..core.picture.evaluate import Evaluation
from ..core.send.export import ChunkRenderer
from ..core.send.writers.mp4 import add_video, to_frame
from . import Result
from .material import studio_with, with_cutouts

FRAMES, RUNS = 90, 3


def measure(blur: bool = False) -> Result:
    """Seconds for each; the ratio is ours over the bare transcode. Parts are timed alone. `blur`: with motion blur."""
    with studio_with(FRAMES) as (studio, project, path):
        document = with_cutouts(studio, project)
        if blur:
            document = ChangePiece(blur=Blur()).apply(document)
        out = path.with_name("out.mp4")
        ours, bare = [], []
        for _ in range(RUNS):
            begun = perf_counter()
            _transcode(path, out)
            bare.append(perf_counter() - begun)
            begun = perf_counter()
            studio.export(document, out)
            ours.append(perf_counter() - begun)
        begun = perf_counter()
        frames = ChunkRenderer(Evaluation(document), studio.open_library)(0, FRAMES)
        drawing = perf_counter() - begun
        begun = perf_counter()
        _encode(frames, path.with_name("encoded.mp4"))
        encoding = perf_counter() - begun
        begun = perf_counter()
        with av.open(str(path)) as file:
            file.streams.video[0].thread_type = "AUTO"
            for _frame in file.decode(video=0):
                pass
        decoding = perf_counter() - begun
    figures = {
        "export, s": float(np.median(ours)),
        "bare transcode, s": float(np.median(bare)),
        "decoding alone, s": decoding,
        "decoding and drawing alone, s": drawing,
        "encoding what was drawn alone, s": encoding,
    }
    return Result("export", float(np.median(np.array(ours) / np.array(bare))), "3" if blur else "1.5", figures)


def _transcode(source: Path, out: Path) -> None:
    with av.open(str(source)) as file, av.open(str(out), "w") as container:
        file.streams.video[0].thread_type = "AUTO"
        stream = file.streams.video[0]
        video = add_video(container, (stream.width, stream.height), Fraction(stream.average_rate), "good")
        for n, frame in enumerate(file.decode(stream)):
            frame.pts, frame.time_base = n, 1 / Fraction(stream.average_rate)
            frame.pict_type = 0
            container.mux(video.encode(frame))
        container.mux(video.encode())


def _encode(frames: list, out: Path) -> None:
    with av.open(str(out), "w") as container:
        video = add_video(container, frames[0].size, Fraction(30), "good")
        for n, planes in enumerate(frames):
            frame = to_frame(planes)
            frame.pts = n
            container.mux(video.encode(frame))
        container.mux(video.encode())
