"""Demo shots to files, and the way there: filming that goes on where it was, truth, measurements of the footage."""

import json
from fractions import Fraction

import av
import cv2
import numpy as np
import pytest

from nervykite.core.common.errors import Refusal
from nervykite.core.see.footage.conversion import to_planes
from nervykite.core.see.footage.planes import to_bgr
from tools.bench import footage, matte
from tools.world import film, packing, render, sound
from tools.world.badges import Shape, as_picture, as_svg, circle
from tools.world.music import note, plucked
from tools.world.shots import SHOTS
from tools.world.shots.dunes import ChangeOver, DuneRun, KiteCatch
from tools.world.shots.groyne import GroynePan
from tools.world.shots.hut import HutWindow2
from tools.world.solids import Solid


def pictures(count: int = 8, height: int = 64, width: int = 36) -> list[np.ndarray]:
    ramp = np.linspace(20, 220, height * width * 3).reshape(height, width, 3)
    return [np.clip(ramp + 4 * n, 0, 255).astype(np.uint8) for n in range(count)]


class TestClips:
    def test_an_h264_clip_keeps_its_pictures_rate_colours_and_sound(self, tmp_path):
        tone = np.stack([np.sin(np.arange(12800) / 20)] * 2) * 0.5
        packing.write_clip(tmp_path / "clip.mp4", iter(pictures()), 30, 4, tone)
        with av.open(str(tmp_path / "clip.mp4")) as file:
            stream = file.streams.video[0]
            assert (stream.width, stream.height, stream.average_rate) == (36, 64, Fraction(30))
            shown = list(file.decode(video=0))
            assert len(shown) == 8
            assert (int(shown[0].colorspace), int(shown[0].color_range)) == (1, 1)
            for frame, made in zip(shown, pictures(), strict=True):
                assert np.abs(frame.to_ndarray(format="rgb24").astype(int) - made).mean() < 5
        with av.open(str(tmp_path / "clip.mp4")) as file:
            heard = np.concatenate([f.to_ndarray() for f in file.decode(audio=0)], 1)
            assert heard.std() == pytest.approx(0.5 / 2**0.5, rel=0.1)

    def test_a_phones_clip_is_upright_again_after_its_header(self, tmp_path):
        deep = [p.astype(np.uint16) * 257 for p in pictures()]
        packing.write_phone_clip(tmp_path / "phone.mp4", iter(deep), 30, 8, np.zeros((2, 12800)))
        with av.open(str(tmp_path / "phone.mp4")) as file:
            shown = list(file.decode(video=0))
        assert shown[0].width > shown[0].height
        upright = np.rot90(to_bgr(to_planes(shown[3]))[..., ::-1], round(shown[3].rotation / 90))
        assert upright.shape == pictures()[3].shape
        like = np.corrcoef(upright.mean(-1).ravel(), pictures()[3].mean(-1).ravel())[0, 1]
        assert like > 0.98
        gaps = np.diff([f.pts for f in shown])
        assert len(set(gaps.tolist())) > 1

    def test_hlg_puts_white_at_75_percent_and_black_at_black(self):
        frame = packing.hlg_frame(np.concatenate([np.ones((8, 8, 3)), np.zeros((8, 8, 3))]).astype(np.float32))
        luma = np.frombuffer(frame.planes[0], np.uint16).reshape(16, -1)[:, :8]
        assert luma[2, 2] == pytest.approx(64 + 876 * 0.75, abs=2)
        assert luma[12, 2] == 64
        chroma = np.frombuffer(frame.planes[1], np.uint16).reshape(8, -1)[:, :4]
        assert np.abs(chroma.astype(int) - 512).max() <= 1

    def test_sound_files_open_again(self, tmp_path):
        packing.write_sound(tmp_path / "a.ogg", np.zeros((2, 48000)), "libopus", 64000)
        with av.open(str(tmp_path / "a.ogg")) as file:
            assert sum(f.samples for f in file.decode(audio=0)) >= 48000

    @pytest.mark.parametrize("degrees", [90, 180, 270])
    def test_headers_turn(self, tmp_path, degrees):
        packing.write_clip(tmp_path / "a.mp4", iter(pictures(2)), 30, 20)
        packing.turn_header(tmp_path / "a.mp4", degrees)
        with av.open(str(tmp_path / "a.mp4")) as file:
            assert next(file.decode(video=0)).rotation % 360 == 360 - degrees


class TinyShot(DuneRun):
    """Three frames of the leap, very small."""

    name, frames, top = "tiny", 3, 1
    holds = {1: "Top"}

    def __init__(self) -> None:
        super().__init__(36, 64, quality=0.1)


@pytest.mark.world
class TestFilming:
    @pytest.fixture
    def tiny(self, monkeypatch):
        monkeypatch.setitem(SHOTS, "tiny", TinyShot)

    def test_goes_on_where_it_was(self, tiny, tmp_path):
        render.film("tiny", tmp_path, clean=False)
        first = (tmp_path / "0001-picture.png").read_bytes()
        (tmp_path / "0001-alpha.png").unlink()
        untouched = (tmp_path / "0002-picture.png").stat().st_mtime_ns
        render.film("tiny", tmp_path, clean=False)
        assert (tmp_path / "0001-picture.png").read_bytes() == first
        assert (tmp_path / "0002-picture.png").stat().st_mtime_ns == untouched
        assert not list(tmp_path.glob("part*"))

    def test_packs_clip_and_truth(self, tiny, tmp_path):
        render.film("tiny", tmp_path / "frames", clean=True)
        render.pack("tiny", tmp_path / "frames", tmp_path / "out")
        made = sorted(str(p.relative_to(tmp_path / "out")) for p in (tmp_path / "out").rglob("*.*"))
        assert made == ["tiny.mp4", "truth/tiny-alpha.mp4", "truth/tiny-clean.mp4", "truth/tiny.json"]
        facts = json.loads((tmp_path / "out" / "truth" / "tiny.json").read_text())
        assert len(facts["cameras"]) == 3
        assert facts["holds"][0]["joints"][0]["pelvis"][0] > 0


class TestWhatHappens:
    def test_the_streamer_changes_hands_where_they_meet(self):
        before, after = ChangeOver.perform(-0.001, Solid()), ChangeOver.perform(0.001, Solid())
        assert [f.carries for f in before] == ["streamer", None]
        assert [f.carries for f in after] == [None, "streamer"]
        giver, taker = after
        gap = np.linalg.norm((giver.joints["handN"] - taker.joints["handF"])[[0, 2]])
        assert gap < 0.3

    def test_the_kites_tail_ends_in_the_hand_that_caught_it(self):
        shot = KiteCatch(36, 64, quality=0.1)
        time = shot.catch + 0.05
        hand = shot.perform(time, Solid())[0].joints["handF"]
        points, _ = shot.thrown(time, 0, shot.camera_at(60))
        assert np.linalg.norm(points.reshape(-1, 3) - hand, axis=1).min() < 0.06

    def test_the_panning_camera_keeps_the_runner_in_the_frame(self):
        for frame in range(0, GroynePan.frames, 6):
            x, y = GroynePan.joints(frame)[0]["pelvis"]
            assert 100 < x < 620
            assert 400 < y < 900

    def test_the_snap_is_quick(self):
        angles = [HutWindow2.joints(frame)[0]["handN"] for frame in (40, 46, 50)]
        slow = np.linalg.norm(np.subtract(angles[1], angles[0])) / 6
        quick = np.linalg.norm(np.subtract(angles[2], angles[1])) / 4
        assert quick > 1.5 * slow

    def test_a_hand_held_camera_wanders_without_jumping(self):
        path = np.array([film.shake(t, 0.7, 1.0) for t in np.arange(0, 4, 1 / 30)])
        assert np.abs(path).max() < 1.2
        assert np.abs(np.diff(path, axis=0)).max() < 0.35
        assert path.std() > 0.1

    @pytest.mark.parametrize("kind", sorted(sound.HEARD))
    def test_sounds_begin_at_once_and_die_away(self, kind):
        made = sound.HEARD[kind](1.0, 3)
        quarter = len(made) // 4
        assert np.abs(made[: 2 * quarter]).max() > 4 * np.abs(made[-quarter // 2 :]).max()
        assert np.isfinite(made).all()
        assert np.allclose(sound.HEARD[kind](0.5, 3) * 2, made)

    def test_notes_are_tempered(self):
        assert note(69) == 440
        assert note(81) == pytest.approx(880)
        tone = np.abs(np.fft.rfft(plucked(69, 1.0)))
        assert np.argmax(tone) == pytest.approx(440, abs=2)


class TestBadges:
    def test_svg_and_picture_show_the_same_shape(self):
        shapes = [circle(256, 256, 128, "#ff0000"), Shape(((200, 200), (300, 200), (300, 300), (200, 300)), "#00ff00")]
        drawn = as_picture(shapes, 64)
        assert drawn[32, 32].tolist() == [0, 255, 0, 255]
        assert drawn[32, 20].tolist() == [255, 0, 0, 255]
        assert drawn[..., 3].sum() / 255 == pytest.approx(np.pi * 16**2, rel=0.02)
        text = as_svg(shapes)
        assert text.count("<path") == 2
        assert 'fill="#00ff00"' in text


class TestMeasuring:
    def test_colour_alone_finds_what_has_its_own_colour(self):
        truth = np.zeros((40, 40), bool)
        truth[10:30, 10:30] = True
        own = np.where(truth[..., None], [200, 30, 30], [30, 30, 200]).astype(np.uint8)
        assert footage._by_colour(own, truth) == 1
        assert footage._by_colour(np.full((40, 40, 3), 90, np.uint8), truth) == 0

    def test_far_points_follow_the_cameras_turn(self):
        first, other = film.look_at(yaw=0), film.look_at(yaw=4, roll=2, field=36)
        mapping = footage._turn(first, other, 360, 640)
        for direction in ([0.02, 0.05, 1], [-0.1, 0.02, 1]):
            far = first[:3] + np.array(direction) * 1e6
            x, y, _ = film.project(first, far, 360, 640)
            seen = mapping @ [x, y, 1]
            assert seen[:2] / seen[2] == pytest.approx(film.project(other, far, 360, 640)[:2], abs=0.01)

    def test_band_error_counts_only_near_the_edge(self):
        truth = np.zeros((80, 80), np.float32)
        truth[:, :40] = 1
        wrong = truth.copy()
        wrong[:, :10] = 0
        assert matte.band_error(truth, truth) == 0
        assert matte.band_error(wrong, truth) == 0
        shifted = np.roll(truth, 2, 1)
        shifted[:, :2] = 1
        assert matte.band_error(shifted, truth) == pytest.approx(0.1, abs=0.02)

    def test_cases_are_read_from_a_folder(self, tmp_path):
        case = tmp_path / "one"
        case.mkdir()
        cv2.imwrite(str(case / "truth.png"), np.full((6, 8), 65535, np.uint16))
        (case / "case.json").write_text('{"footage": "a.png", "marks": "m.json", "truth": "truth.png"}')
        (found,) = matte.cases_in(tmp_path)
        assert (found.name, found.footage, found.marks) == ("one", case / "a.png", case / "m.json")
        assert found.truth.shape == (6, 8)
        assert found.truth.min() == 1

    @pytest.mark.parametrize(
        ("text", "says"), [("{}", "is not a case"), ('{"footage": "a", "truth": "t"}', "needs either marks or a pick")]
    )
    def test_a_bad_case_is_said(self, tmp_path, text, says):
        with pytest.raises(Refusal, match="holds no cases"):
            list(matte.cases_in(tmp_path))
        (tmp_path / "one").mkdir()
        (tmp_path / "one" / "case.json").write_text(text)
        with pytest.raises(Refusal, match=says):
            list(matte.cases_in(tmp_path))

    def test_made_strokes_lie_on_their_own_side(self):
        truth = np.zeros((300, 200), np.float32)
        cv2.ellipse(truth, (100, 150), (40, 90), 0, 0, 360, 1, -1)
        ends = {"pelvis": (100, 180), "neck": (100, 100), "head": (100, 75)}
        ends |= {f"{part}{side}": (100, 150) for part in ("knee", "ankle", "elbow", "wrist") for side in "NF"}
        made = matte.strokes_for([ends], truth)
        assert all(truth[round(y), round(x)] == 1 for line in made["keep"] for x, y in line["points"])
        assert all(truth[round(y), round(x)] == 0 for line in made["drop"] for x, y in line["points"])
        assert len(made["keep"]) >= 3
        assert len(made["drop"]) >= 2
