"""Following a camera over footage: in a size that is quick, told in the footage's own pixels."""

import json
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from time import perf_counter

import cv2
import numpy as np

from ..core.common.errors import Refusal
from ..core.piece.model import Shot, Track
from ..core.piece.model.framing import Box
from ..core.see.footage import loose
from ..core.see.footage.cut_detection import cuts_of, glance
from ..core.see.footage.framing_matrix import moved_box
from ..core.see.scene.fit import Model
from ..core.see.scene.follow import CameraPath, CameraTrackSettings, doubtful, follow
from ..core.see.scene.patch import follow_patch
from .service_footage import Film, nothing
from .track_files import as_json

SIDE = 960
"""Pixels of the longer side at which a camera is followed."""
MOST = 5000
"""Frames of a loose file that are followed at most."""


def small_size(width: int, height: int) -> tuple[int, int]:
    """The size at which frames of a size are followed."""
    scale = min(1.0, SIDE / max(width, height))
    return max(16, round(width * scale)), max(16, round(height * scale))


def into_small(size: tuple[int, int], small: tuple[int, int]) -> np.ndarray:
    """The matrix from pixels of frames of a size to those made small: (3, 3).

    Places count from the middle of the first pixel, which a picture that is made small does not keep.
    """
    x, y = (b / a for a, b in zip(size, small, strict=True))
    return np.array([[x, 0, (x - 1) / 2], [0, y, (y - 1) / 2], [0, 0, 1]])


def followed(
    grey: Callable[[int], np.ndarray],
    numbers: range,
    ref: int,
    size: tuple[int, int],
    subject: np.ndarray | None = None,
    progress: Callable[[float], None] = lambda share: None,
    model: Model | None = None,
    touched: tuple[float, float] | None = None,
    settings: CameraTrackSettings | None = None,
) -> CameraPath:
    """The way of a camera in pixels of footage of a size (w, h), see `follow`.

    grey: frames made small, uint8 (h, w), see `small_size`; subject: alpha of what goes its own way in frame `ref`,
    float32 (h, w), 0…1, at any size; touched: a place to stick to, in the footage's pixels. Raises Refusal.
    """
    small = small_size(*size)
    into = into_small(size, small)
    held = None
    if subject is not None:
        held = cv2.resize(subject.astype(np.float32), small, interpolation=cv2.INTER_AREA) > 0.02
    place = None
    if touched is not None:
        x, y, _ = into @ [*touched, 1]
        place = float(x), float(y)
    way = follow(grey, numbers, ref, held, model, place, settings, progress)
    return _in_pixels(way, into)


def _in_pixels(way: CameraPath, into: np.ndarray) -> CameraPath:
    """A way in the footage's own pixels that was found in small ones. into: what takes those to these, (3, 3)."""
    back = np.linalg.inv(into)
    frames = []
    for one in way.frames:
        matrix = back @ one.matrix @ into
        frames.append(replace(one, matrix=matrix / matrix[2, 2]))
    return replace(way, frames=tuple(frames))


@dataclass(frozen=True)
class TrackJob:
    """The order to follow something in a shot: its camera, by maps of a model (None: as the data says), by what lies at
    a place in the frame that is seen from if one was `touched`; or a `patch` of that frame, a box. Both in pixels.
    """

    model: Model | None = None
    touched: tuple[float, float] | None = None
    patch: Box | None = None


def follow_shot(
    film: Film,
    shot: Shot,
    ref: int,
    subject: np.ndarray | None = None,
    wanted: TrackJob | None = None,
    progress: Callable[[float], None] = nothing,
) -> Track:
    """The way of a shot's camera, or of a patch, over the take around frame `ref`, to be kept. Raises Refusal.

    subject: alpha of what goes its own way in that frame, float32 (h, w), 0…1.
    """
    take, size, wanted = film.take(ref), (shot.width, shot.height), wanted or TrackJob()
    small = small_size(*size)
    frames = film.small(take, small)

    def grey(number: int) -> np.ndarray:
        return cv2.cvtColor(frames[number - take.start], cv2.COLOR_RGB2GRAY)

    if wanted.patch is not None:
        into = into_small(size, small)
        left, top, right, bottom = moved_box(into, wanted.patch)
        way = _in_pixels(follow_patch(grey, take, ref, (left, top, right, bottom), progress=progress), into)
    else:
        way = followed(grey, take, ref, size, subject, progress, wanted.model, wanted.touched)
    matrices = [[float(f"{v:.10g}") for v in one.matrix.ravel()] for one in way.frames]
    confidence = [one.confidence for one in way.frames]
    model = "similarity" if way.model == "place" else way.model
    what = "Patch" if wanted.patch is not None else "Place" if wanted.touched is not None else "Camera"
    name = f"{what} of {shot.name}"[:120]
    return Track(
        name=name, shot=shot.id, ref=ref, first=take.start, model=model, matrices=matrices, confidence=confidence,
        touched=wanted.touched, patch=wanted.patch,
    )  # fmt: skip


@dataclass(frozen=True)
class Tracked:
    """The way of a file's camera, and how long it took, in milliseconds for each frame."""

    way: CameraPath
    ms: float


def track(source: Path, ref: int, matte: Path | None = None) -> Tracked:
    """The way of the camera in a video, seen from frame `ref`. Raises Refusal.

    matte: grey picture of what goes its own way in that frame.
    """
    if source.suffix.lower() in loose.PICTURES:
        raise Refusal(f"{source.name} is a single picture: its camera does not move.")
    size = loose.size_of(source)
    small = small_size(*size)
    greys: list[np.ndarray] = []
    for frame in loose.frames(source):
        if len(greys) == MOST:
            raise Refusal(f"{source.name} has more than {MOST} frames. Cut what is to be tracked out of it first.")
        greys.append(cv2.cvtColor(loose.shrunk(frame, small), cv2.COLOR_RGB2GRAY))
    if not 0 <= ref < len(greys):
        raise Refusal(f"{source.name} has no frame {ref}; its last one is {len(greys) - 1}.")
    cuts = cuts_of([glance(g) for g in greys])
    if cuts:
        raise Refusal(f"{source.name} holds more than one take: it cuts at frame {cuts[0]}. Cut it in two there first.")
    subject = None if matte is None else loose.read_matte(matte)
    if subject is not None and subject.shape[::-1] != size:
        h, w = subject.shape
        raise Refusal(f"The matte is {w} × {h} pixels and the frame {size[0]} × {size[1]}.")
    begun = perf_counter()
    way = followed(greys.__getitem__, range(len(greys)), ref, size, subject)
    return Tracked(way, (perf_counter() - begun) * 1000 / len(greys))


def write(done: Tracked, out: Path, report: Path | None) -> str:
    """Writes a track; what is to be said of it in a line."""
    try:
        way = done.way
        maps, sure = [f.matrix for f in way.frames], [f.confidence for f in way.frames]
        out.write_text(json.dumps(as_json(way.ref, way.first, way.model, maps, sure)) + "\n")
    except OSError as error:
        raise Refusal(f"{out} cannot be written: {error.strerror}. Choose another place.") from error
    bad = doubtful(done.way)
    if report is not None:
        told = {"frames": len(done.way.frames), "model": done.way.model, "doubtful": bad, "ms a frame": done.ms}
        report.write_text(json.dumps(told, indent=2) + "\n")
    doubt = f", {len(bad)} of them doubtful" if bad else ""
    return f"{len(done.way.frames)} frames by a {done.way.model}{doubt}"
