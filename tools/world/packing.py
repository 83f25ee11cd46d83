"""Filmed frames to files: H.264 as a camera app exports it, and HEVC as a phone writes it."""

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np

from .sound import RATE


def write_clip(
    path: Path, pictures: Iterator[np.ndarray], rate: int, crf: int, sound: np.ndarray | None = None
) -> None:
    """Writes an H.264 MP4 (tagged BT.709, limited range) of RGB pictures (uint8) and, if given, stereo sound."""
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=rate, options={"crf": str(crf), "preset": "slow"})
        video.pix_fmt = "yuv420p"
        context = video.codec_context
        context.time_base = Fraction(1, rate)
        context.color_range, context.colorspace, context.color_primaries, context.color_trc = 1, 1, 1, 1
        audio = _sound_stream(out) if sound is not None else None
        for n, picture in enumerate(pictures):
            if n == 0:
                video.height, video.width = picture.shape[:2]
            frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(picture), format="rgb24")
            out.mux(video.encode(frame.reformat(format="yuv420p", dst_colorspace="ITU709", dst_color_range="MPEG")))
        out.mux(video.encode())
        if sound is not None:
            _write_sound(out, audio, sound)


def write_phone_clip(path: Path, pictures: Iterator[np.ndarray], rate: int, crf: int, sound: np.ndarray) -> None:
    """Writes what a phone held upright would: HEVC, 10-bit HLG in BT.2020, uneven times, turned by its header.

    pictures: sRGB, uint16 (H, W, 3), upright; they are stored lying, and the track header turns them back.
    """
    rng = np.random.default_rng(7)
    base = Fraction(1, 600)
    with av.open(str(path), "w") as out:
        options = {"crf": str(crf), "preset": "medium", "x265-params": "log-level=error:bframes=0"}
        video = out.add_stream("libx265", rate=rate, options=options)
        video.pix_fmt = "yuv420p10le"
        video.codec_tag = "hvc1"
        context = video.codec_context
        context.time_base = base
        context.color_range, context.colorspace, context.color_primaries, context.color_trc = 1, 9, 9, 18
        audio = _sound_stream(out)
        time = 0
        for n, picture in enumerate(pictures):
            lying = np.rot90(picture)  # counter-clockwise: the header turns it clockwise again
            if n == 0:
                video.height, video.width = lying.shape[:2]
            frame = hlg_frame(np.ascontiguousarray(lying).astype(np.float32) / 65535)
            frame.pts, frame.time_base = time, base
            out.mux(video.encode(frame))
            time += int(rng.choice([18, 19, 20, 20, 20, 23]) * 30 / rate)
        out.mux(video.encode())
        _write_sound(out, audio, sound)
    turn_header(path, 90)


def hlg_frame(picture: np.ndarray) -> av.VideoFrame:
    """An sRGB picture (H, W, 3), 0…1, as a 10-bit HLG frame: white at 75 % (ITU-R BT.2408), BT.2020, limited range."""
    linear = np.where(picture <= 0.04045, picture / 12.92, ((picture + 0.055) / 1.055) ** 2.4)
    wide = linear @ np.array([[0.6274, 0.3293, 0.0433], [0.0691, 0.9195, 0.0114], [0.0164, 0.0880, 0.8956]]).T
    scene = np.clip(wide, 0, None) * 0.265  # 0.265 of the scene's peak is 75 % of the signal
    a, b, c = 0.17883277, 0.28466892, 0.55991073  # ITU-R BT.2100
    signal = np.where(scene <= 1 / 12, np.sqrt(3 * scene), a * np.log(np.maximum(12 * scene - b, 1e-6)) + c)
    luma = signal @ [0.2627, 0.6780, 0.0593]
    blue, red = (signal[..., 2] - luma) / 1.8814, (signal[..., 0] - luma) / 1.4746
    h, w = luma.shape
    frame = av.VideoFrame(w, h, "yuv420p10le")
    half = (w // 2, h // 2)
    planes = (
        64 + 876 * luma,
        512 + 896 * cv2.resize(blue, half, interpolation=cv2.INTER_AREA),
        512 + 896 * cv2.resize(red, half, interpolation=cv2.INTER_AREA),
    )
    for plane, values in zip(frame.planes, planes, strict=True):
        padded = np.zeros((plane.height, plane.line_size // 2), np.uint16)
        padded[:, : plane.width] = np.round(np.clip(values, 0, 1023))
        plane.update(padded)
    return frame


def turn_header(path: Path, degrees: int) -> None:
    """Writes a rotation into an MP4's first track header (ISO/IEC 14496-12, `tkhd`): clockwise, 90, 180 or 270."""
    data = bytearray(path.read_bytes())
    at = data.index(b"tkhd")
    version = data[at + 4]
    matrix = at + 4 + (4 + 20 if version == 0 else 4 + 32) + 16
    one = 0x00010000
    a, b, c, d = {90: (0, one, -one, 0), 180: (-one, 0, 0, -one), 270: (0, -one, one, 0)}[degrees]
    values = (a, b, 0, c, d, 0, 0, 0, 0x40000000)
    data[matrix : matrix + 36] = b"".join((v & 0xFFFFFFFF).to_bytes(4, "big") for v in values)
    path.write_bytes(data)


def write_sound(path: Path, sound: np.ndarray, codec: str, bit_rate: int) -> None:
    """Writes stereo sound (2, n), -1…1, to an audio file."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream(codec, rate=RATE, layout="stereo")
        stream.bit_rate = bit_rate
        _write_sound(out, stream, sound)


def _sound_stream(out):
    stream = out.add_stream("aac", rate=RATE, layout="stereo")
    stream.bit_rate = 96000
    return stream


def _write_sound(out, stream, sound: np.ndarray) -> None:
    packed = np.ascontiguousarray(sound.astype(np.float32))
    size = stream.codec_context.frame_size or 1024
    for start in range(0, packed.shape[1], size):
        block = av.AudioFrame.from_ndarray(
            np.ascontiguousarray(packed[:, start : start + size]), format="fltp", layout="stereo"
        )
        block.rate, block.pts, block.time_base = RATE, start, Fraction(1, RATE)
        out.mux(stream.encode(block))
    out.mux(stream.encode())
