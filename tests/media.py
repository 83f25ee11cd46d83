"""Makes the files that people really have: rotated, variable, deep, odd, silent, broken."""

from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from nervykite.core.see.footage import ingest
from tools.world.packing import turn_header


def numbered(number: int, width: int, height: int) -> np.ndarray:
    """A picture that says which frame it is: sixteen black or white bars, the frame's number in binary."""
    picture = np.full((height, width, 3), 90, np.uint8)
    for bit in range(16):
        left, right = bit * width // 16, (bit + 1) * width // 16
        picture[: height // 2, left:right] = 235 if number >> bit & 1 else 20
    picture[height // 2 :, :, 0] = 40 + (np.arange(width) * 160 // width).astype(np.uint8)
    return picture


def number_of(picture: np.ndarray) -> int:
    """Reads the number back off a picture: (h, w, 3) or (h, w)."""
    grey = picture.mean(-1) if picture.ndim == 3 else picture
    height, width = grey.shape
    bars = [grey[height // 8 : height // 3, (2 * b + 1) * width // 32].mean() for b in range(16)]
    return sum(1 << b for b, level in enumerate(bars) if level > 128)


def make_video(
    path: Path,
    frames: int = 24,
    size: tuple[int, int] = (160, 120),
    rate: Fraction | int = 30,
    *,
    times: list[int] | None = None,
    codec: str = "libx264",
    pix_fmt: str = "yuv420p",
    sound: bool = False,
    picture=numbered,
    colour: tuple[int, int, int, int] | None = None,
    rotation: int = 0,
    options: dict[str, str] | None = None,
) -> Path:
    """Writes a video.

    `times` are the frames' times in ms (None: even); `colour` is (matrix, range, transfer, primaries).
    """
    rate = Fraction(rate)
    with av.open(str(path), "w") as out:
        stream = out.add_stream(codec, rate=rate, options={"crf": "8", "g": "12"} | (options or {}))
        stream.width, stream.height, stream.pix_fmt = *size, pix_fmt
        base = Fraction(1, 1000) if times else 1 / rate
        stream.codec_context.time_base = base
        if colour:
            context = stream.codec_context
            context.colorspace, context.color_range, context.color_trc, context.color_primaries = colour
        audio = out.add_stream("aac", rate=48000, layout="stereo") if sound else None
        for n in range(frames):
            made = picture(n, *size)
            frame = made if isinstance(made, av.VideoFrame) else av.VideoFrame.from_ndarray(made, format="rgb24")
            if frame.format.name != pix_fmt:
                frame = frame.reformat(format=pix_fmt, dst_colorspace="ITU709", dst_color_range="MPEG")
            frame.pts, frame.time_base = (times[n] if times else n), base
            out.mux(stream.encode(frame))
        out.mux(stream.encode())
        if audio is not None:
            t = np.arange(round(frames / rate * 48000)) / 48000
            tone = np.stack([np.sin(2 * np.pi * 440 * t)] * 2).astype(np.float32) * 0.4
            for start in range(0, tone.shape[1], 1024):
                block = av.AudioFrame.from_ndarray(
                    np.ascontiguousarray(tone[:, start : start + 1024]), format="fltp", layout="stereo"
                )
                block.rate, block.pts, block.time_base = 48000, start, Fraction(1, 48000)
                out.mux(audio.encode(block))
            out.mux(audio.encode())
    if rotation:
        turn_header(path, rotation)
    return path


def decode(path: Path) -> list[np.ndarray]:
    """All frames of a video, as RGB by the file's own tags: uint8 (h, w, 3)."""
    with av.open(str(path)) as file:
        return [f.to_ndarray(format="rgb24") for f in file.decode(video=0)]


def decode_luma(path: Path) -> list[np.ndarray]:
    """The brightness planes of all frames: uint8 (h, w)."""
    result = []
    with av.open(str(path)) as file:
        for frame in file.decode(video=0):
            plane = frame.planes[0]
            rows = np.frombuffer(plane, np.uint8).reshape(-1, plane.line_size)
            result.append(rows[: frame.height, : frame.width].copy())
    return result


def sound_of(path: Path, seconds: int | Fraction = 1) -> np.ndarray:
    """The sound of a file from its first picture on: float32 (2, n), empty if there is none."""
    blocks = ingest.sound_of(path, ingest.first_time(path), Fraction(seconds))
    return np.concatenate([np.zeros((2, 0), np.float32), *blocks], 1)
