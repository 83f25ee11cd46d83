"""Films as FFmpeg writes them: a stream of picture, one of sound, in a container."""

import os
from collections.abc import Callable
from contextlib import suppress
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from ...craft.synthesis.sample_rate import RATE
from ...see.footage.planes import Planes
from .writer import StreamFormat, Writing

BT709 = 1
LIMITED = 1


def to_frame(planes: Planes) -> av.VideoFrame:
    """Planes as a frame for an encoder."""
    frame = av.VideoFrame(*planes.size, "yuv420p")
    for plane, values in zip(frame.planes, (planes.y, planes.u, planes.v), strict=True):
        rows = np.frombuffer(plane, np.uint8).reshape(-1, plane.line_size)
        rows[: values.shape[0], : values.shape[1]] = values
    return frame


def as_yuv(straight: np.ndarray, form: str) -> av.VideoFrame:
    """A picture with alpha, R'G'B'A, uint8 or uint16 (h, w, 4), as a frame of BT.709 in limited range."""
    wide = straight.dtype == np.uint16
    frame = av.VideoFrame.from_ndarray(straight, "rgba64le" if wide else "rgba").reformat(
        format=form, src_colorspace="ITU709", dst_colorspace="ITU709", src_color_range="JPEG", dst_color_range="MPEG"
    )
    if wide:
        # Rounded, where a conversion would cut off.
        alpha = np.rint(straight[..., 3] * (1023 / 65535)).astype("<u2")
        plane = frame.planes[3]
        np.frombuffer(plane, "<u2").reshape(-1, plane.line_size // 2)[:, : alpha.shape[1]] = alpha
    return frame


def not_in_real_time() -> None:
    """Takes back the real-time scheduling that an encoder gives itself, and the thread that opens it, where it may:
    nothing else would run beside it.
    """
    tasks = Path("/proc/self/task")
    if not tasks.is_dir():
        return
    for thread in (int(task.name) for task in tasks.iterdir()):
        # A thread may have ended meanwhile.
        with suppress(OSError):
            if os.sched_getscheduler(thread) in (os.SCHED_FIFO, os.SCHED_RR):
                os.sched_setscheduler(thread, os.SCHED_OTHER, os.sched_param(0))


class FilmWriting(Writing):
    """A film in a container; `video` adds the stream of picture to it."""

    def __init__(
        self,
        path: Path,
        container: str,
        picture: StreamFormat,
        video: Callable[[av.container.OutputContainer], av.VideoStream],
        audio: tuple[str, int] | None = None,
        options: dict[str, str] | None = None,
    ) -> None:
        self._file = av.open(str(path), "w", format=container, options=options or {})
        self._video = video(self._file)
        self._video.width, self._video.height = picture.size
        context = self._video.codec_context
        context.time_base = 1 / picture.rate
        context.color_range, context.colorspace, context.color_primaries, context.color_trc = (
            LIMITED,
            BT709,
            BT709,
            BT709,
        )
        context.open()
        not_in_real_time()
        self._audio = None
        if picture.sound and audio is not None:
            self._audio = self._file.add_stream(audio[0], rate=RATE, layout="stereo")
            if audio[1]:
                self._audio.bit_rate = audio[1]
        self._frames = self._samples = 0

    def frame(self, prepared: Planes | av.VideoFrame) -> None:
        frame = to_frame(prepared) if isinstance(prepared, Planes) else prepared
        frame.pts = self._frames
        frame.time_base = self._video.codec_context.time_base
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
