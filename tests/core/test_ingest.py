"""Files as people have them, good and bad."""

from fractions import Fraction

import av
import numpy as np
import pytest

from nervykite.core.common.errors import Refusal
from nervykite.core.piece.timeline.clock import conform, landing, timecode
from nervykite.core.see.footage import ingest
from nervykite.core.see.footage.planes import from_rgb, to_bgr

from ..media import make_video, number_of, sound_of


def take_in(path, folder):
    with (folder / "proxy").open("wb") as proxy:
        return ingest.ingest(path, path.name, proxy)


class TestBadFiles:
    def test_empty(self, tmp_path):
        path = tmp_path / "nothing.mp4"
        path.touch()
        with pytest.raises(Refusal, match=r"nothing\.mp4 is empty"):
            take_in(path, tmp_path)

    def test_not_media(self, tmp_path):
        path = tmp_path / "letter.mp4"
        path.write_text("Dear Juno, the relay is on Saturday. " * 50)
        with pytest.raises(Refusal, match=r"letter\.mp4 cannot be read as video"):
            take_in(path, tmp_path)

    def test_only_sound(self, tmp_path):
        path = tmp_path / "surf.wav"
        with av.open(str(path), "w") as out:
            stream = out.add_stream("pcm_s16le", rate=48000, layout="stereo")
            frame = av.AudioFrame.from_ndarray(np.zeros((1, 9600), np.int16), format="s16", layout="stereo")
            frame.rate = 48000
            out.mux(stream.encode(frame))
        with pytest.raises(Refusal, match=r"surf\.wav holds only sound"):
            take_in(path, tmp_path)

    def test_no_frames(self, tmp_path):
        path = make_video(tmp_path / "clip.mkv", frames=3)
        data = path.read_bytes()
        path.write_bytes(data[: data.index(b"\x1f\x43\xb6\x75")])  # everything before the first cluster
        with pytest.raises(Refusal, match=r"no picture|cannot be read"):
            take_in(path, tmp_path)

    def test_too_large(self, tmp_path, monkeypatch):
        monkeypatch.setattr(ingest, "MAX_SIDE", 100)
        with pytest.raises(Refusal, match="160 × 120 pixels; the most is 100"):
            take_in(make_video(tmp_path / "clip.mp4", frames=2), tmp_path)

    def test_half_copied_is_read_as_far_as_it_goes(self, tmp_path):
        path = make_video(tmp_path / "clip.mkv", frames=90)
        data = path.read_bytes()
        path.write_bytes(data[: len(data) * 6 // 10])
        probe = take_in(path, tmp_path)
        frames = len(probe.ticks) - 1
        assert 30 < frames < 80
        assert f"{frames} frames could be read" in probe.note

    @pytest.mark.parametrize("name", ["clip.mkv", "clip.ts"])
    def test_damage_in_the_middle_is_passed_and_what_was_counted_can_be_read(self, reel_of, tmp_path, name):
        path = make_video(tmp_path / name, frames=80, size=(320, 240))
        data = bytearray(path.read_bytes())
        middle = len(data) // 2
        data[middle : middle + 600] = bytes(range(256)) * 2 + bytes(88)
        path.write_bytes(data)
        made = reel_of(path)
        assert 40 < made.shot.frames <= 80
        library = made.library()
        for frame in (0, made.shot.frames // 2, made.shot.frames // 2 + 8, made.shot.frames - 1):
            assert library.exact(made.shot, frame).size == (320, 240)

    def test_half_copied_without_its_index(self, tmp_path):
        path = make_video(tmp_path / "clip.mp4", frames=90)
        path.write_bytes(path.read_bytes()[:4000])
        with pytest.raises(Refusal, match="cannot be read as video"):
            take_in(path, tmp_path)


class TestGoodFiles:
    def test_odd_size_rotation_and_no_sound(self, reel):
        made = reel(size=(161, 121), codec="ffv1", pix_fmt="yuv444p", name="odd.mkv")
        assert (made.shot.width, made.shot.height) == (161, 121)
        document = made.document()
        assert (document.project.width, document.project.height) == (160, 120)
        turned = reel(rotation=90, name="phone.mp4")
        assert (turned.shot.width, turned.shot.height, turned.shot.rotation) == (120, 160, 270)
        assert sound_of(turned.files["file"]).shape == (2, 0)

    def test_variable_rate_is_kept_exact(self, reel):
        times = [0, 33, 70, 95, 140, 166, 199, 240, 266, 301]
        made = reel(times=times, frames=10, name="variable.mkv")
        assert made.shot.variable
        assert [t * Fraction(made.shot.tick) * 1000 for t in made.shot.ticks[:-1]] == times

    def test_steady_rates_are_recognised(self, reel):
        for rate in (Fraction(30000, 1001), 25, 60, Fraction(24000, 1001)):
            for name in ("clip.mkv", "clip.mp4"):  # Matroska rounds to milliseconds
                made = reel(rate=rate, frames=40, name=name)
                assert made.shot.rate == rate
                assert not made.shot.variable

    def test_sixty_in_thirty_shows_every_other_frame(self, reel):
        made = reel(rate=60, frames=40)
        document = made.document()
        assert document.project.rate == 30
        table = conform(made.shot, 0, made.shot.frames, Fraction(30))
        assert table.tolist() == list(range(0, 40, 2))
        assert landing(table, 11) == 5
        assert landing(table, 12) == 6
        assert landing(table, 41) is None

    def test_slow_footage_repeats(self, reel):
        made = reel(rate=15, frames=6)
        table = conform(made.shot, 0, made.shot.frames, Fraction(30))
        assert table.tolist() == [0, 0, 1, 1, 2, 2, 3, 3, 4, 4, 5, 5]

    def test_progress_rises_and_can_stop_the_work(self, tmp_path):
        path = make_video(tmp_path / "clip.mp4", frames=30)
        told = []
        with (tmp_path / "proxy").open("wb") as proxy:
            ingest.ingest(path, "clip", proxy, told.append)
        assert told == sorted(told)

        class Stopped(Exception):
            pass

        def stop(share):
            raise Stopped

        with (tmp_path / "proxy").open("wb") as proxy, pytest.raises(Stopped):
            ingest.ingest(path, "clip", proxy, stop)

    def test_sound_begins_with_the_picture(self, tmp_path):
        path = make_video(tmp_path / "clip.mp4", frames=30, sound=True)
        sound = sound_of(path)
        assert sound.shape == (2, 48000)
        assert np.abs(sound[:, 10000:20000]).max() == pytest.approx(0.4, abs=0.05)


PATCHES = np.array(
    [[235, 235, 235], [40, 40, 40], [200, 40, 30], [30, 150, 60], [40, 60, 190], [240, 190, 40]], np.uint8
)


def patches(_number, width, height):
    """Six flat patches, side by side."""
    index = np.arange(width) * len(PATCHES) // width
    return np.ascontiguousarray(np.broadcast_to(PATCHES[index], (height, width, 3)))


def means(bgr) -> np.ndarray:
    width = bgr.shape[1]
    middle = [(2 * i + 1) * width // (2 * len(PATCHES)) for i in range(len(PATCHES))]
    return np.stack([bgr[10:-10, m - 6 : m + 6, ::-1].reshape(-1, 3).mean(0) for m in middle])


class TestColour:
    @pytest.mark.parametrize("space", ["ITU601", "ITU709"])
    @pytest.mark.parametrize("span", ["MPEG", "JPEG"])
    @pytest.mark.parametrize("pix_fmt", ["yuv420p", "yuv422p10le"])
    def test_matrix_range_and_depth_come_out_alike(self, reel, space, span, pix_fmt):
        from av.video.reformatter import ColorRange, Colorspace

        def picture(number, width, height):
            frame = av.VideoFrame.from_ndarray(patches(number, width, height), format="rgb24")
            return frame.reformat(
                format=pix_fmt, dst_colorspace=Colorspace[space], dst_color_range=ColorRange[span],
                src_color_range=ColorRange.JPEG,
            )  # fmt: skip

        tags = ({"ITU601": 6, "ITU709": 1}[space], {"MPEG": 1, "JPEG": 2}[span], 1, 1)
        made = reel(size=(192, 96), frames=3, pix_fmt=pix_fmt, picture=picture, colour=tags, options={"crf": "1"})
        seen = means(to_bgr(made.library().exact(made.shot, 1)))
        assert np.abs(seen - PATCHES).max() <= 3.2
        assert made.shot.colour == {"ITU601": "BT.601", "ITU709": "BT.709"}[space]

    def test_hdr_white_lands_below_white_and_keeps_order(self, reel):
        """A ramp in HLG and in PQ: dark stays dark, reference white is bright, highlights are not lost."""
        for transfer, white in ((18, 0.75), (16, 0.58)):

            def ramp(_number, width, height):
                grey = (np.linspace(0, 1, width) * 65535).astype(np.uint16)
                rgb = np.ascontiguousarray(np.broadcast_to(grey[None, :, None], (height, width, 3)))
                frame = av.VideoFrame.from_ndarray(rgb, format="rgb48le")
                return frame.reformat(format="yuv420p10le", dst_colorspace=9, dst_color_range=1)

            made = reel(
                name=f"hdr{transfer}.mp4", size=(256, 64), frames=3, pix_fmt="yuv420p10le", codec="libx265",
                picture=ramp, colour=(9, 1, transfer, 9), options={"x265-params": "log-level=none", "crf": "4"},
            )  # fmt: skip
            assert made.shot.depth == 10
            assert made.shot.colour.endswith("HLG" if transfer == 18 else "PQ")
            line = to_bgr(made.library().exact(made.shot, 0))[32].mean(-1)
            smooth = np.convolve(line, np.ones(9) / 9, "valid")
            assert (np.diff(smooth) > -0.6).all()
            assert line[2] < 12
            assert 170 < line[int(white * 255)] < 240

    def test_round_trip_of_planes(self):
        rgb = np.random.default_rng(0).random((8, 8, 3), np.float32)
        flat = np.repeat(np.repeat(rgb, 8, 0), 8, 1)
        back = to_bgr(from_rgb(flat))[..., ::-1] / 255
        inner = (np.arange(64) % 8 > 1) & (np.arange(64) % 8 < 6)
        assert np.abs(back - flat)[inner][:, inner].max() < 0.012

    def test_untagged_goes_by_size(self, reel):
        small = reel(size=(160, 120), name="small.mkv", codec="ffv1")
        large = reel(size=(1280, 720), frames=2, name="large.mkv", codec="ffv1")
        assert (small.shot.colour, large.shot.colour) == ("BT.601", "BT.709")


def test_timecode():
    assert timecode(0, Fraction(30)) == "00:00:00"
    assert timecode(71, Fraction(30)) == "00:02:11"
    assert timecode(1800, Fraction(30000, 1001)) == "01:00:00"


def test_a_frame_of_the_proxy_is_the_frame_of_the_file(reel):
    made = reel(frames=20, size=(1280, 720))
    proxy = made.library().proxy(made.shot)
    assert len(proxy) == 20
    assert proxy.planes(0).size == (960, 540)
    assert [number_of(proxy.planes(n).y) for n in range(20)] == list(range(20))
