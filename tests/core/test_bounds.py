"""Numbers out of files and requests: what follows from them is bounded before room is made for it."""

import struct
import zlib
from fractions import Fraction

import cv2
import numpy as np
import pytest

from nervykite.core.common.errors import Refusal
from nervykite.core.see.footage import ingest, loose
from nervykite.core.see.footage.opening import MAX_SIDE
from nervykite.core.see.matte import svg_mattes
from nervykite.core.see.matte.outline import MOST_NODES, even_chain, fitted, outlines
from nervykite.studio.service_footage import looked_at
from nervykite.studio.single import LooseFilm

from ..media import make_video


def png(width: int, height: int) -> bytes:
    """A small file that says it is a picture of that size."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 0, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(bytes(99))) + chunk(b"IEND", b"")


def taken_in(path, tmp_path) -> ingest.Probe:
    with (tmp_path / "proxy").open("wb") as out:
        return ingest.ingest(path, path.name, out)


class TestFootage:
    def test_a_list_of_other_files_is_no_video(self, tmp_path):
        make_video(tmp_path / "clip.mp4")
        lists = {
            "list.m3u8": f"#EXTM3U\n#EXT-X-TARGETDURATION:10\n#EXTINF:9.0,\n{tmp_path}/clip.mp4\n#EXT-X-ENDLIST\n",
            "list.ffconcat": f"ffconcat version 1.0\nfile '{tmp_path}/clip.mp4'\n",
        }
        for name, text in lists.items():
            (tmp_path / name).write_text(text)
            with pytest.raises(Refusal, match="cannot be read as video"):
                taken_in(tmp_path / name, tmp_path)
            with pytest.raises(Refusal, match="cannot be read as video"):
                next(loose.frames(tmp_path / name))

    @pytest.mark.parametrize("size", [(2, 2), (100, 2), (8, 400)])
    def test_too_small_a_shot_is_refused_with_its_size(self, tmp_path, size):
        clip = make_video(tmp_path / "tiny.mkv", size=size, codec="ffv1")
        with pytest.raises(Refusal, match=f"tiny.mkv is {size[0]} × {size[1]} pixels; the least is 16 a side"):
            taken_in(clip, tmp_path)

    def test_one_too_large_is_refused_by_its_header(self, tmp_path):
        (tmp_path / "vast.png").write_bytes(png(12_000, 9_000))
        with pytest.raises(Refusal, match=f"12000 × 9000 pixels; the most is {MAX_SIDE} a side"):
            taken_in(tmp_path / "vast.png", tmp_path)

    def test_frames_hours_apart_break_off(self, tmp_path):
        times = [0, 40, 80, 40_000_000, 40_000_040]
        probe = taken_in(make_video(tmp_path / "gap.mkv", frames=5, times=times, codec="ffv1"), tmp_path)
        assert len(probe.ticks) == 4
        assert probe.ticks[-1] * probe.tick < 1
        assert "gap.mkv breaks off: 3 frames could be read" in probe.note

    def test_a_shot_of_many_hours_is_refused(self, tmp_path):
        times = [n * 500_000 for n in range(30)]
        clip = make_video(tmp_path / "watch.mkv", frames=30, times=times, codec="ffv1")
        with pytest.raises(Refusal, match="longer than 2 hours"):
            taken_in(clip, tmp_path)

    def test_sound_that_begins_late_is_silence_before_and_no_longer_than_the_picture(self, tmp_path):
        clip = make_video(tmp_path / "clip.mp4", frames=30, sound=True)
        late = list(ingest.sound_of(clip, Fraction(-100), Fraction(100) + Fraction(1, 2)))
        sound = np.concatenate(late, 1)
        assert sound.shape[1] == pytest.approx(100.5 * 48_000, abs=2048)
        assert np.abs(sound[:, : 99 * 48_000]).max() == 0
        assert max(block.shape[1] for block in late) <= 48_000
        assert list(ingest.sound_of(clip, Fraction(50), Fraction(1))) == []  # it is over before the picture begins


class TestPictures:
    @pytest.mark.parametrize("size", [(30_000, 30_000), (9_000, 10), (10, 9_000)])
    def test_a_small_file_of_a_vast_picture_is_refused_before_it_is_unpacked(self, size):
        with pytest.raises(Refusal, match="too large: the most is 8192 pixels a side"):
            loose.unpacked(png(*size), cv2.IMREAD_COLOR, "x.png")

    def test_pixels_of_other_kinds_are_refused(self):
        data = cv2.imencode(".tiff", np.ones((4, 4), np.float32))[1].tobytes()
        with pytest.raises(Refusal, match="float32 pixels"):
            loose.unpacked(data, cv2.IMREAD_UNCHANGED, "x.tiff")

    def test_nothing_and_noise_are_no_pictures(self):
        for data in (b"", b"\x89PNG\r\n\x1a\n", bytes(500)):
            assert loose.unpacked(data, cv2.IMREAD_COLOR, "x") is None

    def test_pictures_too_thin_to_look_at_say_so(self, tmp_path):
        film = LooseFilm(make_video(tmp_path / "thin.mkv", size=(1024, 16), codec="ffv1"), 0, None)
        with pytest.raises(Refusal, match="1024 × 16 pixels, too small or thin"):
            looked_at(film)


def document(body: str) -> str:
    return f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink">{body}</svg>'


class TestSvg:
    @pytest.mark.parametrize(
        ("body", "sentence"),
        [
            ("<g>" * 200 + "<circle r='20'/>" + "</g>" * 200, "nested more than 60 deep"),
            ("<g id='a'><use href='#a'/></g>", "uses itself"),
            ("<circle r='9'/>" * 6000, "more than 5000 elements"),
            (f"<path d='M0 0{' L5 5 9 9' * 60_000}'/>", "more than 200000 numbers"),
            (f"<path d='M0 0{' L5 5 9 1' * 3_000}z'/>", "more than 4000 points"),
            ("<path d='M5 5L8 8L9 3z'/>" * 450, "more than 400 paths"),
            ("<path d='M0 0L1e300 5L3 9z'/>", "pixels away and more|cannot be read|can be read"),
            ("<path d='M0 0L200000 5L3 9z'/>", "100,000 pixels away and more"),
            ("<text>Juno</text>", "holds no path"),
        ],
    )
    def test_what_is_too_much_is_said_soon(self, body, sentence):
        with pytest.raises(Refusal, match=sentence):
            svg_mattes.pieces(document(body))

    def test_uses_of_uses_are_counted_before_they_are_followed(self):
        layers = "".join(f"<g id='n{k}'>" + f"<use xlink:href='#n{k - 1}'/>" * 10 + "</g>" for k in range(1, 9))
        with pytest.raises(Refusal, match="more than 5000 elements"):
            svg_mattes.pieces(document(f"<defs><g id='n0'><circle r='4'/></g>{layers}</defs><use xlink:href='#n8'/>"))

    def test_entities_are_not_read(self):
        text = '<!DOCTYPE svg [<!ENTITY a "aaaa">]><svg xmlns="http://www.w3.org/2000/svg"><path d="&a;"/></svg>'
        with pytest.raises(Refusal, match="entities of its own"):
            svg_mattes.pieces(text)

    def test_blank_and_unprintable_names_become_plain_ones(self):
        body = "<path data-name='  ' d='M5 5L8 8L9 3z'/><path data-name='a&#10;&#8232;b' d='M5 5L8 8L9 3z'/>"
        assert [p.name for p in svg_mattes.pieces(document(body))] == ["Path 1", "a b"]


class TestLines:
    def test_a_path_has_no_more_points_than_a_piece_may_have(self):
        at = np.linspace(0, 400 * np.pi, 20_000)
        spiral = np.stack([1500 + at * np.cos(at), 1500 + at * np.sin(at)], 1)
        assert 100 < len(fitted(even_chain(spiral), 0.3)) <= MOST_NODES

    def test_noise_is_no_line(self):
        noise = np.random.default_rng(3).uniform(0, 2000, (40_000, 2))
        with pytest.raises(Refusal, match="turns too often"):
            fitted(even_chain(noise), 1.0)

    def test_who_asks_can_stop_it(self):
        class Stopped(Exception):
            pass

        def stop(share):
            raise Stopped

        y, x = np.mgrid[:200, :200]
        disc = ((x - 100) ** 2 + (y - 100) ** 2 < 80**2).astype(np.float32)
        with pytest.raises(Stopped):
            outlines(disc, report=stop)
