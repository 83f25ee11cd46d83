"""Tracks as they are written to files, and read from them: see FORMATS."""

from collections.abc import Iterable
from pathlib import Path
from typing import Annotated, Literal

import numpy as np
from pydantic import BaseModel, Field, ValidationError

from ..core.common.errors import Refusal
from ..core.piece.model import Shot, Track
from ..core.see.scene.fixes import maps_of


def as_json(ref: int, first: int, model: str, maps: Iterable[np.ndarray], confidence: Iterable[float]) -> dict:
    """A way as it is written: where each frame from `first` on lies on frame `ref`, in pixels, by maps (3, 3)."""
    frames = [
        {"frame": first + n, "h": [[float(v) for v in row] for row in h], "confidence": c}
        for n, (h, c) in enumerate(zip(maps, confidence, strict=True))
    ]
    return {"ref": ref, "model": model, "frames": frames}


def track_as_json(track: Track) -> dict:
    """A kept track as it is written, with what was put right."""
    return as_json(track.ref, track.first, track.model, maps_of(track), track.confidence)


class _WrittenFrame(BaseModel):
    frame: Annotated[int, Field(ge=0, le=10_000_000)]
    h: Annotated[list[Annotated[list[Annotated[float, Field(allow_inf_nan=False)]], Field(min_length=3, max_length=3)]],
                 Field(min_length=3, max_length=3)]  # fmt: skip
    confidence: Annotated[float, Field(ge=0, le=1)] = 1.0


class _Written(BaseModel):
    ref: Annotated[int, Field(ge=0)]
    model: Literal["place", "similarity", "turn", "affine", "homography"] = "homography"
    frames: Annotated[list[_WrittenFrame], Field(min_length=1, max_length=20_000)]


def read_track(text: str, name: str, shot: Shot) -> Track:
    """A track of a shot out of what was written of it. Raises Refusal, with a sentence about the file of that name."""
    try:
        written = _Written.model_validate_json(text)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"]) or "its text"
        raise Refusal(
            f"{name} is not a track: {where} is not as FORMATS describes it. Choose a file that a track was written to."
        ) from error
    numbers = [f.frame for f in written.frames]
    if numbers != list(range(numbers[0], numbers[0] + len(numbers))):
        raise Refusal(f"{name} leaves frames out, or has them in another order. A track has one map for each frame.")
    if written.ref not in range(numbers[0], numbers[-1] + 1):
        raise Refusal(f"{name} is seen from frame {written.ref}, but has no such frame.")
    if numbers[-1] >= shot.frames:
        raise Refusal(f"{name} has a frame {numbers[-1]}, but the last one of {shot.name} is {shot.frames - 1}.")
    maps = np.array([f.h for f in written.frames])
    size = np.abs(np.linalg.det(maps))
    if not (size > 1e-9).all() or (np.abs(maps[:, 2, 2]) < 1e-9).any():
        bad = int(np.argmin(size))
        raise Refusal(f"{name} has a map at frame {numbers[bad]} that shows nothing: all of it lies on a line.")
    maps = np.linalg.inv(maps[written.ref - numbers[0]]) @ maps
    maps = maps / maps[:, 2:, 2:]
    return Track(
        name=Path(name).stem[:120] or "Track", shot=shot.id, ref=written.ref, first=numbers[0],
        model="similarity" if written.model == "place" else written.model,
        matrices=[[float(f"{v:.10g}") for v in m.ravel()] for m in maps],
        confidence=[f.confidence for f in written.frames],
    )  # fmt: skip
