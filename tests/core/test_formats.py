"""Every format: what was sent is what comes back, with alpha, rate and sound, by other readers."""

import os
import zipfile
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
import pytest
from PIL import Image

from nervykite.core.common.errors import Refusal
from nervykite.core.draw.send.frame import Frame
from nervykite.core.draw.send.writer import StreamFormat, Writer, writer_for
from nervykite.core.see.footage import loose

W, H, COUNT = 160, 240, 12


def drawn(n: int) -> np.ndarray:
    """A soft disc that goes across: premultiplied R'G'B'A, float32."""
    y, x = np.mgrid[:H, :W]
    alpha = np.clip(1.2 - np.hypot(x - 40 - 6 * n, y - 120) / 50, 0, 1).astype(np.float32)
    colour = np.stack([0.2 + 0.6 * x / W, 0.8 - 0.5 * y / H, np.full((H, W), 0.4)], -1).astype(np.float32)
    return np.concatenate([colour * alpha[..., None], alpha[..., None]], -1)


def written(path, clear: bool, sound: bool = False, count: int = COUNT, **settings):
    """A file of some frames."""
    writer = writer_for(path.name, settings)
    picture = StreamFormat(
        (W, H), Fraction(30), sound and writer.sound_bits > 0, clear and writer.clear, 45, count, Fraction(30)
    )
    writing = writer.start(path, picture)
    rng = np.random.default_rng(1)
    for n in range(1 if writer.single else count):
        frame = Frame(rgba=drawn(n))
        frame = frame if picture.clear else Frame(frame.planes)
        writing.frame(writer.prepared(frame, picture))
        writing.sound(rng.normal(0, 0.1, (2, 1600)).astype(np.float32))
    writing.close()
    return path


def alphas(path, decoder: str | None = None) -> list[np.ndarray]:
    """The alpha of each frame of a film, 0…1."""
    with av.open(str(path)) as file:
        stream = file.streams.video[0]
        reader = av.CodecContext.create(decoder, "r") if decoder else stream.codec_context
        frames = [f for packet in file.demux(stream) for f in reader.decode(packet if packet.size else None)]
    found = []
    for frame in frames:
        kind, full = ("<u2", 4095) if "12le" in frame.format.name else (np.uint8, 255)
        plane = frame.planes[3]
        values = np.frombuffer(plane, kind).reshape(H, plane.line_size // np.dtype(kind).itemsize)[:, :W]
        found.append(values / full)
    return found


@pytest.mark.parametrize(
    ("name", "settings", "codec"),
    [
        ("a.mp4", {}, "h264"),
        ("a.mp4", {"codec": "h265"}, "hevc"),
        ("a.mp4", {"codec": "av1"}, "av1"),
        ("a.mov", {}, "prores"),
        ("a.webm", {"quality": "fine"}, "vp9"),
    ],
)
def test_a_film_is_what_was_sent(tmp_path, name, settings, codec):
    path = written(tmp_path / name, clear=False, sound=True, **settings)
    with av.open(str(path)) as file:
        video, audio = file.streams.video[0], file.streams.audio[0]
        assert {"libdav1d": "av1", "libsvtav1": "av1"}.get(video.codec_context.name, video.codec_context.name) == codec
        assert video.average_rate == 30
        assert audio.rate == 48000
        seconds = sum(f.samples for f in file.decode(audio)) / 48000
    assert seconds == pytest.approx(COUNT / 30, abs=0.05)
    frames = list(loose.frames(path))
    assert len(frames) == COUNT
    for n, frame in enumerate(frames):
        wanted = np.clip(drawn(n)[..., :3], 0, 1) * 255
        assert np.abs(loose.shrunk(frame, (W, H)).astype(float) - wanted).mean() < 4


@pytest.mark.skipif(not Path("/proc/self/task").is_dir(), reason="tells threads by /proc")
def test_no_encoder_takes_the_machine_for_itself(tmp_path):
    for codec in ("av1", "h265", "h264"):
        path = written(tmp_path / "a.mp4", clear=False, codec=codec)
        assert path.stat().st_size
        real_time = (os.SCHED_FIFO, os.SCHED_RR)
        threads = [int(t.name) for t in Path("/proc/self/task").iterdir()]
        assert not [t for t in threads if os.sched_getscheduler(t) in real_time]


def test_alpha_in_prores_is_within_a_level_of_ten_bits(tmp_path):
    found = alphas(written(tmp_path / "a.mov", clear=True))
    assert len(found) == COUNT
    for n, alpha in enumerate(found):
        assert np.abs(alpha - drawn(n)[..., 3]).max() <= 1 / 1023


def test_alpha_in_webm_is_a_picture_of_its_own(tmp_path):
    found = alphas(written(tmp_path / "a.webm", clear=True, quality="fine"), "libvpx-vp9")
    assert len(found) == COUNT
    for n, alpha in enumerate(found):
        assert np.abs(alpha - drawn(n)[..., 3]).mean() < 0.004


@pytest.mark.parametrize("depth", ["8", "16"])
def test_a_still_has_its_alpha_exactly(tmp_path, depth):
    path = written(tmp_path / "a.png", clear=True, depth=depth)
    got = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
    full = 65535 if depth == "16" else 255
    assert got.dtype == (np.uint16 if depth == "16" else np.uint8)
    assert np.array_equal(got[..., 3], np.rint(drawn(0)[..., 3] * full))
    seen = got[..., 3] > full // 20
    straight = drawn(0)[..., :3] / np.maximum(drawn(0)[..., 3:], 1e-6)
    assert np.abs(got[..., 2::-1] / full - straight)[seen].max() < 1.01 / 255
    if depth == "8":
        assert np.array_equal(np.asarray(Image.open(path))[..., 3], got[..., 3])


@pytest.mark.parametrize(("pictures", "depth"), [("png", "8"), ("png", "16"), ("tiff", "16"), ("tiff", "8")])
def test_a_sequence_holds_each_frame_under_its_number_and_timecode(tmp_path, pictures, depth):
    path = written(tmp_path / "a.zip", clear=True, pictures=pictures, depth=depth)
    full = 65535 if depth == "16" else 255
    with zipfile.ZipFile(path) as archive:
        assert archive.testzip() is None
        names = archive.namelist()
        assert names[0] == f"000000 00-01-15.{pictures}"
        assert len(names) == COUNT
        for n, name in enumerate(names):
            got = cv2.imdecode(np.frombuffer(archive.read(name), np.uint8), cv2.IMREAD_UNCHANGED)
            assert np.array_equal(got[..., 3], np.rint(drawn(n)[..., 3] * full))


def test_an_animated_picture_has_its_frames_and_alpha(tmp_path):
    with Image.open(written(tmp_path / "a.webp", clear=True, quality=95)) as moving:
        assert moving.n_frames == COUNT
        for n in (0, 7, 11):
            moving.seek(n)
            moving.load()
            assert moving.info["duration"] in (33, 34)
            got = np.asarray(moving.convert("RGBA")).astype(float) / 255
            assert np.abs(got[..., 3] - drawn(n)[..., 3]).max() < 0.03
            inner = drawn(n)[..., 3] > 0.9
            assert np.abs(got[..., :3] - drawn(n)[..., :3] / np.maximum(drawn(n)[..., 3:], 1e-6))[inner].mean() < 0.03


@pytest.mark.parametrize("dither", ["sierra2_4a", "bayer", "none"])
def test_a_gif_has_its_frames_and_hard_edges(tmp_path, dither):
    with Image.open(written(tmp_path / "a.gif", clear=True, dither=dither, colours=64)) as moving:
        assert moving.n_frames == COUNT
        for n in (0, 7):
            moving.seek(n)
            got = np.asarray(moving.convert("RGBA")).astype(float)
            seen, wanted = got[..., 3] > 0, drawn(n)[..., 3] >= 0.5
            assert (seen != wanted).mean() < 0.01
            straight = 255 * drawn(n)[..., :3] / np.maximum(drawn(n)[..., 3:], 1e-6)
            assert np.abs(got[..., :3] - straight)[seen & wanted].mean() < 14


def test_what_is_opaque_has_no_alpha(tmp_path):
    assert Image.open(written(tmp_path / "a.png", clear=False)).mode == "RGB"
    with Image.open(written(tmp_path / "a.webp", clear=False)) as moving:
        assert (np.asarray(moving.convert("RGBA"))[..., 3] == 255).all()


def noisy(path, under: float, count: int = 90) -> int:
    """How large a film of much detail becomes that may not be larger than that."""
    writer = writer_for(path.name, {"under": under})
    picture = StreamFormat((W, H), Fraction(30), True, False, 0, count, Fraction(30))
    writing = writer.start(path, picture)
    rng = np.random.default_rng(0)
    grain = rng.random((8, H, W, 4)).astype(np.float32)
    grain[..., 3] = 1
    for n in range(count):
        writing.frame(Frame(rgba=grain[n % 8]).planes)
        writing.sound(rng.normal(0, 0.2, (2, 1600)).astype(np.float32))
    writing.close()
    return path.stat().st_size


@pytest.mark.parametrize("under", [0.35, 0.8])
def test_a_size_limit_is_reached_and_not_passed(tmp_path, under):
    size = noisy(tmp_path / "a.mp4", under)
    assert 0.97 * under * 1e6 <= size <= under * 1e6
    assert [p.name for p in tmp_path.iterdir()] == ["a.mp4"]
    assert len(list(loose.frames(tmp_path / "a.mp4"))) == 90


def test_a_limit_that_leaves_nothing_is_refused(tmp_path):
    with pytest.raises(Refusal, match="too little for 3 seconds"):
        noisy(tmp_path / "a.mp4", 0.05)


def test_what_is_let_go_of_leaves_nothing(tmp_path):
    for kind in Writer.family.all().values():
        path = tmp_path / f"a{kind.suffix}"
        writer = kind() if kind.suffix != ".mp4" else kind(under=1)
        picture = StreamFormat((W, H), Fraction(30), False, False, 0, 3, Fraction(30))
        writing = writer.start(path, picture)
        writing.frame(writer.prepared(Frame(rgba=drawn(0)), picture))
        writing.abandon()
        path.unlink(missing_ok=True)
    assert list(tmp_path.iterdir()) == []


def test_an_ending_says_the_format():
    assert writer_for("x.MOV").kind == "prores"
    with pytest.raises(Refusal, match=r"Nothing is written as \.doc"):
        writer_for("x.doc")
    with pytest.raises(Refusal, match="GIF: colours"):
        writer_for("x.gif", {"colours": 1})


def test_colours_go_on_where_nothing_is_seen():
    straight = Frame(rgba=drawn(0)).straight()
    edge = (drawn(0)[..., 3] == 0) & (cv2.dilate((drawn(0)[..., 3] > 0).astype(np.uint8), np.ones((3, 3))) > 0)
    assert straight[edge][:, :3].min(1).mean() > 40
