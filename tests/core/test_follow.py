"""A camera followed: exactly where there is something to see, doubtfully where there is little, and not where there is
nothing."""

import json

import cv2
import numpy as np
import pytest

from nervykite.cli import main
from nervykite.core.common.errors import Refusal
from nervykite.core.see.scene.fit import corners_of, fitted, from_corners, nearest, through
from nervykite.core.see.scene.follow import doubtful, follow
from nervykite.studio.following import into_small, small_size
from tools.bench.cameras import errors, ground, shot

from ..media import make_video

SIZE = (270, 480)


def made(kind: str, frames: int = 24, **more):
    return shot(kind, frames=frames, size=SIZE, **more)


def way_of(found, **more):
    return follow(found.frames.__getitem__, range(len(found.frames)), found.ref, found.subject, **more)


class TestFit:
    TRUE = {
        "place": np.array([[1, 0, 3.2], [0, 1, -1.5], [0, 0, 1]]),
        "similarity": np.array([[1.01, -0.02, 2], [0.02, 1.01, -1], [0, 0, 1]]),
        "affine": np.array([[1.01, 0.01, 2], [0.02, 0.99, -1], [0, 0, 1]]),
        "homography": np.array([[1.01, 0.01, 2], [0.02, 0.99, -1], [2e-5, -1e-5, 1]]),
    }

    @pytest.mark.parametrize("model", TRUE)
    def test_each_model_is_found_whatever_a_third_of_the_points_do(self, model):
        rng = np.random.default_rng(1)
        points = rng.uniform(0, 400, (150, 2))
        there = through(self.TRUE[model], points) + rng.normal(0, 0.05, (150, 2))
        there[:50] += rng.uniform(-2, 2, (50, 2)) + 1.5
        found, weights, off = fitted(points, there, model)
        corners = corners_of((400, 400))
        assert through(found, corners) == pytest.approx(through(self.TRUE[model], corners), abs=0.12)
        assert weights[:50].mean() < 0.15 < 0.8 < weights[50:].mean()
        assert np.median(off[50:]) < 0.1

    def test_what_cannot_be_told_is_not_made_up(self):
        few = np.array([[0, 0], [1, 1], [2, 2.0]])
        assert fitted(few, few, "similarity") is None
        line = np.stack([np.arange(40.0), np.arange(40.0)], 1)
        assert fitted(line, line + 1, "homography") is None

    def test_corners_and_the_nearest_stiffer_map(self):
        matrix = self.TRUE["homography"]
        corners = corners_of(SIZE)
        assert from_corners(corners, through(matrix, corners)) == pytest.approx(matrix, abs=1e-6)
        like = nearest(self.TRUE["similarity"], SIZE, "similarity")
        assert like == pytest.approx(self.TRUE["similarity"], abs=1e-6)
        assert np.abs(nearest(matrix, SIZE, "affine")[2] - [0, 0, 1]).max() == 0


class TestFollowing:
    @pytest.mark.parametrize(("kind", "model"), [("pan", "similarity"), ("hand", "similarity"), ("tilt", "homography")])
    def test_it_is_exact_though_somebody_fills_a_third_of_the_frame(self, kind, model):
        found = made(kind)
        way = way_of(found)
        off = errors([f.matrix for f in way.frames], found.to_ref, SIZE)
        assert np.sqrt((off**2).mean()) < 0.1
        assert off.max() < 0.3
        assert way.model == model
        assert way.frames[found.ref].confidence == 1
        assert np.array_equal(way.frames[found.ref].matrix, np.eye(3))

    def test_a_shot_that_stands_is_the_identity(self):
        found = made("pan", frames=12)
        rng = np.random.default_rng(5)
        still = [np.clip(found.frames[0] + rng.normal(0, 2, SIZE[::-1]), 0, 255).astype(np.uint8) for _ in range(12)]
        way = follow(still.__getitem__, range(12), 4)
        assert errors([f.matrix for f in way.frames], [np.eye(3)] * 12, SIZE).max() < 0.06
        assert doubtful(way) == []

    def test_backwards_it_is_the_same_way_back(self):
        found = made("hand", frames=15)
        there = way_of(found)
        backwards = found.frames[::-1]
        back = follow(backwards.__getitem__, range(15), 14 - found.ref, found.subject)
        ones = [f.matrix for f in there.frames]
        others = [f.matrix for f in reversed(back.frames)]
        assert errors(ones, others, SIZE).max() < 0.12

    def test_out_of_sight_and_back_it_has_not_drifted(self):
        found = made("out and back", frames=60, ref=0, large=0.2)
        way = way_of(found)
        off = errors([f.matrix for f in way.frames], found.to_ref, SIZE)
        assert off[-6:].max() < 0.2
        assert off.max() < 1.0

    def test_frames_in_which_nothing_is_seen_are_bridged_and_doubted(self):
        found = made("pan", frames=24, large=0.05)
        frames = list(found.frames)
        for n in (5, 6):
            frames[n] = np.full_like(frames[n], 90)
        way = follow(frames.__getitem__, range(24), found.ref, found.subject)
        assert {5, 6} <= set(doubtful(way))
        off = errors([f.matrix for f in way.frames], found.to_ref, SIZE)
        assert off[[5, 6]].max() < 6
        assert off[[3, 4, 7, 8]].max() < 0.5

    def test_a_model_can_be_asked_for(self):
        found = made("pan", frames=8)
        way = way_of(found, model="affine")
        assert way.model == "affine"
        assert all(np.abs(f.matrix[2] - [0, 0, 1]).max() < 1e-9 for f in way.frames)

    def test_where_there_is_nothing_it_says_so(self):
        fog = np.full(SIZE[::-1], 140, np.uint8)
        with pytest.raises(Refusal, match="nothing in that frame"):
            follow(lambda n: fog, range(5), 2)
        found = made("pan", frames=3)
        with pytest.raises(Refusal, match="Nothing in this shot"):
            follow(lambda n: found.frames[0] if n == 0 else fog, range(9), 0)

    def test_the_share_done_is_told(self):
        found, told = made("pan", frames=6), []
        way_of(found, progress=told.append)
        assert told == sorted(told)
        assert told[-1] <= 1


class TestCommand:
    def film(self, tmp_path, found, cut: bool = False):
        frames = [*found.frames, *(made("hand", frames=10, seed=7, large=0.02).frames if cut else [])]
        return make_video(
            tmp_path / "pan.mp4", frames=len(frames), size=SIZE,
            picture=lambda n, w, h: cv2.cvtColor(frames[n], cv2.COLOR_GRAY2RGB),
        )  # fmt: skip

    def test_it_writes_where_each_frame_lies(self, tmp_path, capsys):
        found = made("pan", frames=12)
        path, out = self.film(tmp_path, found), tmp_path / "track.json"
        matte = tmp_path / "matte.png"
        cv2.imwrite(str(matte), found.subject.astype(np.uint8) * 255)
        asked = ["track", str(path), "--ref", str(found.ref), "--matte", str(matte), "--out", str(out)]
        assert main([*asked, "--json", str(tmp_path / "told.json")]) == 0
        assert "12 frames by a" in capsys.readouterr().out
        track = json.loads(out.read_text())
        assert track["ref"] == found.ref
        assert [f["frame"] for f in track["frames"]] == list(range(12))
        off = errors([np.array(f["h"]) for f in track["frames"]], found.to_ref, SIZE)
        assert off.max() < 0.6
        assert set(json.loads((tmp_path / "told.json").read_text())) == {"frames", "model", "doubtful", "ms a frame"}

    def test_what_cannot_be_tracked_gets_a_sentence(self, tmp_path, capsys):
        found = made("hand", frames=10)
        path = self.film(tmp_path, found, cut=True)
        out = ["--out", str(tmp_path / "t.json")]
        assert main(["track", str(path), "--ref", "3", *out]) == 1
        assert "cuts at frame 10" in capsys.readouterr().err
        assert main(["track", str(path), "--ref", "90", *out]) == 1
        assert "has no frame 90" in capsys.readouterr().err
        picture = tmp_path / "still.png"
        cv2.imwrite(str(picture), found.frames[0])
        assert main(["track", str(picture), "--ref", "0", *out]) == 1
        assert "single picture" in capsys.readouterr().err
        small = tmp_path / "small.png"
        cv2.imwrite(str(small), np.zeros((9, 9), np.uint8))
        whole = self.film(tmp_path, found)
        assert main(["track", str(whole), "--ref", "3", "--matte", str(small), *out]) == 1
        assert "The matte is 9 × 9" in capsys.readouterr().err

    def test_places_are_told_in_the_footages_own_pixels(self):
        assert small_size(1080, 1920) == (540, 960)
        assert small_size(200, 100) == (200, 100)
        into = into_small((1080, 1920), (540, 960))
        # The middle of the first pixel of the small one lies between the first two of the large one.
        assert into @ [0.5, 0.5, 1] == pytest.approx([0, 0, 1])


def near_and_far(frames: int = 30) -> tuple[list[np.ndarray], dict[str, list[np.ndarray]]]:
    """Frames of 270×480 whose lower part goes by nearly twice as fast as the upper one, and what either does."""
    size, ways, made = (270, 480), {"far": [], "near": []}, []
    worlds = [ground(np.random.default_rng(seed), 1200) for seed in (1, 2)]
    for n in range(frames):
        far = np.array([[1, 0, 200 + 3.3 * n], [0, 1, 100 + 0.4 * n], [0, 0, 1.0]])
        near = np.array([[1, 0, 200 + 6.1 * n], [0, 1, 100 + 0.7 * n], [0, 0, 1.0]])
        flags = cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP
        one, other = (cv2.warpPerspective(p, m, size, flags=flags) for p, m in zip(worlds, (far, near), strict=True))
        frame = np.where(np.arange(480)[:, None] > 300 + 0.3 * n, other, one)
        made.append(np.clip(frame + np.random.default_rng(n).normal(0, 2, frame.shape), 0, 255).astype(np.uint8))
        ways["far"].append(far)
        ways["near"].append(near)
    return made, ways


@pytest.mark.parametrize(("which", "place"), [("far", (130.0, 120.0)), ("near", (130.0, 400.0))])
def test_what_is_touched_is_stuck_to(which, place):
    made, ways = near_and_far()
    way = follow(made.__getitem__, range(30), 15, touched=place)
    for one, true in zip(way.frames, ways[which], strict=True):
        there = through(one.matrix, np.array([place]))
        assert np.linalg.norm(there - through(np.linalg.inv(ways[which][15]) @ true, np.array([place]))) < 0.4


def test_a_camera_that_only_turns_is_known_as_one():
    size, focal, frames = (270, 480), 420.0, 24
    lens = np.array([[focal, 0, 135], [0, focal, 240], [0, 0, 1]])
    wide = ground(np.random.default_rng(3), 1400)
    into = []
    for n in range(frames):
        turn, _ = cv2.Rodrigues(np.array([0.04 * np.sin(n / 5), 0.02 * (n - 12), 0.01 * np.sin(n / 3)]))
        into.append(np.array([[1, 0, 560], [0, 1, 460], [0, 0, 1.0]]) @ lens @ turn @ np.linalg.inv(lens))
    flags = cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP
    made = [np.clip(cv2.warpPerspective(wide, m, size, flags=flags), 0, 255).astype(np.uint8) for m in into]
    way = follow(made.__getitem__, range(frames), 12)
    assert way.model == "turn"
    assert errors([f.matrix for f in way.frames], [np.linalg.inv(into[12]) @ m for m in into], size).max() < 0.3
