"""Broken media: small files of many kinds, and what a bad disk or a bad will makes of them. Seeded."""

import random
import sqlite3
import struct
import wave
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np

KINDS: tuple[tuple[str, str, str, str | None], ...] = (
    ("phone.mp4", "libx264", "yuv420p", "aac"), ("deep.mp4", "libx265", "yuv420p10le", "aac"),
    ("master.mov", "prores_ks", "yuv422p10le", "pcm_s16le"), ("web.webm", "libvpx-vp9", "yuv420p", "libopus"),
    ("lossless.mkv", "ffv1", "yuv444p", "flac"), ("old.avi", "mjpeg", "yuvj420p", "pcm_s16le"),
    ("stream.ts", "mpeg2video", "yuv420p", "mp2"), ("loop.gif", "gif", "rgb8", None),
)  # fmt: skip
"""Name, codec, pixel format and sound of the whole files."""
SOUND_RATE = 48_000
DRAWING = """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 64 48"><g id="kite">
<path d="M32 4L60 24L32 44L4 24Z" fill="#d63f22"/></g><use href="#kite" transform="scale(.5)"/></svg>"""
NUMBERS = (0, 1, 0xFFFF, 0x7FFFFFFF, 0x80000000, 0xFFFFFFFF)
"""What is written over numbers in headers: none, few, and far too many."""


def whole_file(path: Path, codec: str, pix_fmt: str, sound: str | None, frames: int = 12) -> Path:
    """A small file as it should be."""
    with av.open(str(path), "w") as out:
        quiet = {"x265-params": "log-level=none"} if codec == "libx265" else {}
        stream = out.add_stream(codec, rate=Fraction(25), options=quiet)
        stream.width, stream.height, stream.pix_fmt = 64, 48, pix_fmt
        audio = None if sound is None else out.add_stream(sound, rate=SOUND_RATE, layout="stereo")
        x, y = np.meshgrid(np.arange(64), np.arange(48))
        for n in range(frames):
            picture = np.stack([4 * x, 5 * y, (x + y + 20 * n) % 256], -1).astype(np.uint8)
            frame = av.VideoFrame.from_ndarray(picture, format="rgb24").reformat(format=pix_fmt)
            frame.pts, frame.time_base = n, Fraction(1, 25)
            out.mux(stream.encode(frame))
        out.mux(stream.encode())
        if audio is not None:
            resampler = av.AudioResampler(format=audio.format.name, layout="stereo", rate=SOUND_RATE)
            fifo = av.AudioFifo()
            tone = 0.3 * np.sin(np.arange(frames * SOUND_RATE // 25) / 20)
            block = av.AudioFrame.from_ndarray(np.stack([tone, tone]).astype(np.float32), "fltp", "stereo")
            block.rate, block.pts, block.time_base = SOUND_RATE, 0, Fraction(1, SOUND_RATE)
            for ready in resampler.resample(block):
                fifo.write(ready)
            size = audio.codec_context.frame_size or 1024
            while part := fifo.read(size, partial=True):
                out.mux(audio.encode(part))
            out.mux(audio.encode())
    return path


def whole_files(folder: Path) -> list[Path]:
    """One file of each kind: videos, pictures, a sound."""
    videos = [whole_file(folder / name, codec, pix_fmt, sound) for name, codec, pix_fmt, sound in KINDS]
    x, y = np.meshgrid(np.arange(64), np.arange(48))
    picture = np.stack([4 * x, 5 * y, x + y, 255 - 2 * x], -1).astype(np.uint8)
    stills = [folder / name for name in ("badge.png", "badge.webp", "badge.jpg", "badge.svg")]
    for path in stills[:3]:
        cv2.imwrite(str(path), picture if path.suffix != ".jpg" else picture[..., :3])
    stills[3].write_text(DRAWING)
    tone = folder / "tone.wav"
    with wave.open(str(tone), "wb") as out:
        out.setparams((1, 2, SOUND_RATE, 0, "NONE", ""))
        out.writeframes((np.sin(np.arange(SOUND_RATE // 4) / 20) * 9000).astype("<i2").tobytes())
    return [*videos, *stills, tone]


def broken(data: bytes, chance: random.Random) -> bytes:
    """A file with damage: flipped bits, a missing end, a missing part, other numbers in its header."""
    hurt = bytearray(data)
    way = chance.choice(("flip", "flip", "cut", "hole", "number", "number", "repeat"))
    if way == "flip":
        for _ in range(chance.choice((1, 4, 40))):
            hurt[chance.randrange(len(hurt))] ^= 1 << chance.randrange(8)
    elif way == "cut":
        del hurt[chance.randrange(len(hurt)) :]
    elif way == "hole":
        first = chance.randrange(len(hurt))
        del hurt[first : first + chance.choice((1, 16, 500))]
    elif way == "number":
        for _ in range(chance.choice((1, 3, 8))):
            # Headers lie at either end; in them, numbers of four bytes.
            at = (
                chance.randrange(min(len(hurt), 1500))
                if chance.random() < 0.5
                else max(0, len(hurt) - 4 - chance.randrange(1500))
            )
            hurt[at : at + 4] = struct.pack(">I", chance.choice(NUMBERS))
    else:
        first = chance.randrange(len(hurt))
        hurt[first:first] = hurt[: chance.choice((64, 2000))]
    return bytes(hurt)


def broken_files(folder: Path, count: int, seed: int = 1) -> Iterator[Path]:
    """So many broken files, one after the other under the same few names."""
    chance = random.Random(seed)
    whole = [(path.name, path.read_bytes()) for path in whole_files(folder)]
    for number in range(count):
        name, data = whole[number % len(whole)]
        path = folder / f"broken {name}"
        path.write_bytes(broken(data, chance))
        yield path


def needless(connection: sqlite3.Connection) -> list[str]:
    """The fault of the files that a data folder keeps: a sentence if they are not those of its shots and assets."""
    (kept,) = connection.execute("SELECT count(*) FROM files").fetchone()
    rows = [*connection.execute("SELECT file, proxy_file, sound_file FROM shots"),
            *connection.execute("SELECT file FROM assets")]  # fmt: skip
    needed = {hash_ for row in rows for hash_ in row if hash_}
    return [] if kept == len(needed) else [f"{kept} files are kept, and {len(needed)} are needed"]
