"""Exporting the piece of `picture`, 90 frames; against a bare decode and encode with the same settings."""

from collections.abc import Iterator
from fractions import Fraction
from multiprocessing import get_context
from pathlib import Path
from resource import RUSAGE_SELF, getrusage
from time import perf_counter

import av
import numpy as np

from nervykite.core.change.edits import AddGround, ChangeLayer, ChangePiece
from nervykite.core.draw.send.chunks import FrameRenderer
from nervykite.core.draw.send.export import Output
from nervykite.core.draw.send.film import to_frame
from nervykite.core.draw.send.sending import Sending
from nervykite.core.draw.send.writer import StreamFormat, writer_for
from nervykite.core.draw.send.writers.mp4 import Mp4, add_video
from nervykite.core.piece.model import Blur, Document, Finish
from nervykite.studio import Studio

from . import Result
from .material import studio_with, with_cutouts

FRAMES, RUNS, CLEAR, READY = 90, 3, 45, 15


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
            studio.export(document, Output(out, Mp4()))
            ours.append(perf_counter() - begun)
        begun = perf_counter()
        with FrameRenderer(document, [Sending()], studio.open_library) as draw:
            frames = [draw(float(time))[0].planes for time in range(FRAMES)]
        drawing = perf_counter() - begun
        begun = perf_counter()
        _encode(frames, path.with_name("encoded.mp4"))
        encoding = perf_counter() - begun
        more = {} if blur else dict(_with_alpha(studio, document, path.parent))
        if not blur:
            more["three outputs together: over one after the other"] = _together(studio, document, path.parent)
            more["memory at its highest: of four times as long a piece, over that of the piece"] = _highest(
                studio, document, 4
            ) / _highest(studio, document, 1)
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
        **more,
    }
    return Result("export", float(np.median(np.array(ours) / np.array(bare))), "3" if blur else "1.5", figures)


def _with_alpha(studio: Studio, document: Document, folder: Path) -> Iterator[tuple[str, float]]:
    """For formats with alpha how long sending all layers takes, over encoding the very same frames, ready and one after
    the other.
    """
    sending = Sending(what="layers", layers=[x.id for x in document.project.layers], span=(0, CLEAR))
    draw = FrameRenderer(document, [sending], studio.open_library)
    project = document.project
    for name, title in (("a.mov", "ProRes 4444"), ("a.webm", "VP9 with alpha"), ("a.zip", "PNG sequence")):
        writer = writer_for(name)
        picture = StreamFormat((project.width, project.height), project.rate, False, True, 0, CLEAR, project.rate)
        begun = perf_counter()
        studio.export(document, Output(folder / name, writer, sending))
        ours = perf_counter() - begun
        bare = 0.0
        writing = writer.start(folder / name, picture)
        for start in range(0, CLEAR, READY):
            # Encoders go on by themselves for a while, which has to be seen: so many are ready at once.
            ready = [draw(float(frame))[0] for frame in range(start, start + READY)]
            begun = perf_counter()
            for frame in ready:
                writing.frame(writer.prepared(frame, picture))
            bare += perf_counter() - begun
        begun = perf_counter()
        writing.close()
        bare += perf_counter() - begun
        yield f"{title}: over encoding ready frames", ours / bare


def _together(studio: Studio, document: Document, folder: Path) -> float:
    """The time of a piece with three finishes on each cutout that is sent for posting, small for a message, and as a
    moving picture, over these one after the other.
    """
    finishes = [Finish(kind="outline", settings={"width": 3.0 + 3 * n}) for n in range(3)]
    for layer in document.project.layers:
        document = ChangeLayer(layer=layer.id, finishes=finishes).apply(document)
    span = 0, CLEAR
    outputs = [
        Output(folder / "three.mp4", Mp4(), Sending(span=span)),
        Output(folder / "three small.mp4", Mp4(quality="small"), Sending(span=span)),
        Output(folder / "three.webp", writer_for("three.webp"), Sending(size=(540, 960), span=span)),
    ]
    begun = perf_counter()
    for output in outputs:
        studio.export(document, output)
    alone = perf_counter() - begun
    begun = perf_counter()
    studio.export(document, *outputs)
    return (perf_counter() - begun) / alone


def _highest(studio: Studio, document: Document, times: int) -> int:
    """The most memory, in KB, that a process has while it sends the ground so many times over, small."""
    (shot,) = document.shots
    for _ in range(times - 1):
        document = AddGround(shot=shot).apply(document)
    context = get_context("spawn")
    with context.Pool(1) as pool:
        return pool.apply(_sent_apart, (str(studio.folder), document))


def _sent_apart(folder: str, document: Document) -> int:
    studio = Studio(Path(folder))
    studio.export(document, Output(Path(folder) / "apart.mp4", Mp4(), Sending(size=(540, 960))))
    return getrusage(RUSAGE_SELF).ru_maxrss


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
