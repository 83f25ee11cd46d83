"""The material of the measurements: a made piece with five cutouts, and a long shot."""

from collections.abc import Iterator
from contextlib import contextmanager
from fractions import Fraction
from pathlib import Path
from tempfile import TemporaryDirectory

import av
import cv2
import numpy as np

from nervykite.core.change.edits import ChangeMatte, Edit, HoldFrame, SetKey
from nervykite.core.draw.send.writers.mp4 import add_video
from nervykite.core.piece.model import Document, Key, Matte, Node, Project, Shape
from nervykite.core.piece.model.base import new_id
from nervykite.demo import FOOTAGE
from nervykite.studio import Studio
from nervykite.studio.importing import import_shot


def enlarged_demo(path: Path, frames: int, size: tuple[int, int] = (1080, 1920), gop: int = 250) -> None:
    """The Dune run, there and back again, at another size: H.264 with long groups of pictures."""
    with av.open(str(FOOTAGE / "dune-run.mp4")) as file:
        pictures = [f.to_ndarray(format="rgb24") for f in file.decode(video=0)]
    order = [*range(len(pictures)), *range(len(pictures) - 2, 0, -1)]
    with av.open(str(path), "w") as out:
        video = add_video(out, size, Fraction(30), "good")
        video.codec_context.gop_size = gop
        for n in range(frames):
            grown = cv2.resize(pictures[order[n % len(order)]], size, interpolation=cv2.INTER_CUBIC)
            frame = av.VideoFrame.from_ndarray(grown, format="rgb24")
            frame = frame.reformat(format="yuv420p", dst_colorspace="ITU709", dst_color_range="MPEG")
            frame.pts = n
            out.mux(video.encode(frame))
        out.mux(video.encode())


def frames_of(path: Path) -> list[np.ndarray]:
    """All frames of a video, upright: uint8 RGB (h, w, 3)."""
    with av.open(str(path)) as file:
        return [
            np.ascontiguousarray(np.rot90(f.to_ndarray(format="rgb24"), round(f.rotation / 90)))
            for f in file.decode(video=0)
        ]


def overlap(one: np.ndarray, other: np.ndarray) -> float:
    """Intersection over union of two sets of pixels (h, w), bool; 1 when both are empty."""
    either = (one | other).sum()
    return float((one & other).sum() / either) if either else 1.0


def edge_band(truth: np.ndarray, reach: float = 10) -> np.ndarray:
    """Where the true edge of an alpha (h, w), 0…1, is within `reach` pixels: bool (h, w)."""
    hard = (truth > 0.5).astype(np.uint8)
    if hard.min() == hard.max():
        return np.zeros(truth.shape, bool)
    away = cv2.distanceTransform(hard, cv2.DIST_L2, 5) + cv2.distanceTransform(1 - hard, cv2.DIST_L2, 5)
    return away <= reach


def oval(cx: float, cy: float, rx: float, ry: float) -> Shape:
    """An oval pen piece."""
    k = 0.5523
    nodes = [
        Node(x=cx, y=cy - ry, arrive=(-k * rx, 0), leave=(k * rx, 0), smooth=True),
        Node(x=cx + rx, y=cy, arrive=(0, -k * ry), leave=(0, k * ry), smooth=True),
        Node(x=cx, y=cy + ry, arrive=(k * rx, 0), leave=(-k * rx, 0), smooth=True),
        Node(x=cx - rx, y=cy, arrive=(0, k * ry), leave=(0, -k * ry), smooth=True),
    ]
    return Shape(name="Oval", nodes=nodes)


def with_cutouts(studio: Studio, project: str, count: int = 5) -> Document:
    """Adds moving, turning, growing cutouts to a project, each about a quarter of the frame."""
    document = studio.projects.state(project).document
    item, canvas = document.project.ground[0].id, document.project
    w, h = canvas.width, canvas.height

    def do(edit: Edit) -> Document:
        return studio.projects.edit(project, edit, None).document

    for n in range(count):
        layer = new_id()
        document = do(HoldFrame(item=item, frame=n, layer=layer))
        piece = oval(w * (0.35 + 0.08 * n), h * (0.3 + 0.1 * n), 0.2821 * w, 0.2821 * h)
        do(ChangeMatte(hold=document.layer(layer).source.hold, matte=Matte(pieces=[piece], soften_in=3, soften_out=3)))
        for channel, first, last in (
            ("position", [-60.0 * n, 40.0], [80.0, -70.0 * n]),
            ("rotation", [-8.0], [11.0 + n]),
            ("scale", [1.0], [0.85 + 0.07 * n]),
        ):
            do(SetKey(layer=layer, key=Key(channel=channel, tie="start", offset=0, value=first)))
            do(SetKey(layer=layer, key=Key(channel=channel, tie="end", offset=0, value=last)))
    return studio.projects.state(project).document


@contextmanager
def studio_with(frames: int, size: tuple[int, int] = (1080, 1920)) -> Iterator[tuple[Studio, str, Path]]:
    """A studio in a temporary folder with one shot; its project's id; the file."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / "shot.mp4"
        enlarged_demo(path, frames, size)
        studio = Studio(Path(folder) / "data")
        try:
            project = studio.projects.create(Document(project=Project(name="Bench"))).document.project.id
            import_shot(studio, project, studio.keep_file(path), "shot.mp4")
            yield studio, project, path
        finally:
            studio.close()


def median_ms(times: list[float]) -> float:
    """The median of seconds, in milliseconds."""
    return float(np.median(times)) * 1e3
