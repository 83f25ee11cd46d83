"""MP4: H.264 picture (BT.709, limited range) and AAC sound."""

from fractions import Fraction
from pathlib import Path
from typing import Annotated, ClassVar, Literal

import av
import numpy as np
from pydantic import Field

from ...footage.planes import Planes
from ...sound.plan import RATE
from ..writer import Picture, Writer, Writing

CRF = {"fine": 16, "good": 19, "small": 25}
"""x264's constant rate factor for each quality."""
Quality = Literal["fine", "good", "small"]
WORDS = {
    "fine": {"title": "Fine", "hint": "For handing on to an editor: larger file"},
    "good": {"title": "Good", "hint": "For posting"},
    "small": {"title": "Small", "hint": "For sending by message: smaller file"},
}


class Mp4(Writer):
    """H.264 by x264, at a constant quality."""

    kind: Literal["mp4"] = "mp4"
    title: ClassVar[str] = "MP4 video"
    hint: ClassVar[str] = "H.264 and AAC"
    suffix: ClassVar[str] = ".mp4"
    media_type: ClassVar[str] = "video/mp4"

    quality: Annotated[Quality, Field(title="Quality", json_schema_extra={"words": WORDS})] = "good"  # type: ignore[dict-item]

    def start(self, path: Path, picture: Picture) -> Writing:
        return _Mp4Writing(path, picture, self.quality)


class _Mp4Writing(Writing):
    def __init__(self, path: Path, picture: Picture, quality: str) -> None:
        self._file = av.open(str(path), "w", format="mp4", options={"movflags": "faststart"})
        self._video = add_video(self._file, picture.size, picture.rate, quality)
        self._audio = None
        if picture.sound:
            self._audio = self._file.add_stream("aac", rate=RATE, layout="stereo")
            self._audio.bit_rate = 192_000
        self._frames = self._samples = 0

    def frame(self, planes: Planes) -> None:
        frame = to_frame(planes)
        frame.pts = self._frames
        self._frames += 1
        self._file.mux(self._video.encode(frame))

    def sound(self, samples: np.ndarray) -> None:
        if self._audio is None:
            return
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(samples), format="fltp", layout="stereo")
        frame.rate, frame.pts, frame.time_base = RATE, self._samples, Fraction(1, RATE)
        self._samples += samples.shape[1]
        self._file.mux(self._audio.encode(frame))

    def close(self) -> None:
        self._file.mux(self._video.encode())
        if self._audio is not None:
            self._file.mux(self._audio.encode())
        self._file.close()

    def abandon(self) -> None:
        self._file.close()


def to_frame(planes: Planes) -> av.VideoFrame:
    """Planes as a frame for an encoder."""
    frame = av.VideoFrame(*planes.size, "yuv420p")
    for plane, values in zip(frame.planes, (planes.y, planes.u, planes.v), strict=True):
        rows = np.frombuffer(plane, np.uint8).reshape(-1, plane.line_size)
        rows[: values.shape[0], : values.shape[1]] = values
    return frame


def add_video(
    out: av.container.OutputContainer, size: tuple[int, int], rate: Fraction, quality: str, preset: str = "veryfast"
):
    """Adds the H.264 stream to a container, tagged with what the planes are; `preset` is x264's."""
    video = out.add_stream("libx264", rate=rate, options={"crf": str(CRF[quality]), "preset": preset})
    video.width, video.height = size
    video.pix_fmt = "yuv420p"
    context = video.codec_context
    context.time_base = 1 / rate
    context.color_range, context.colorspace, context.color_primaries, context.color_trc = 1, 1, 1, 1
    return video
