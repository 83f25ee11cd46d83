"""Picks: what moves, what differs from a plate; and how frames lie on each other."""

import cv2
import numpy as np
import pytest

from nervykite.core.common.errors import Refusal
from nervykite.core.see.find import mover
from nervykite.core.see.scene import behind as behinds
from nervykite.core.see.scene import stack as stacks
from nervykite.core.see.scene.align import between, features, homography, stands_still
from nervykite.core.see.scene.plate import plate_of
from nervykite.core.see.scene.scene import people_in
from nervykite.core.see.scene.stack import lay

from .scenes import blob, composed, overlap, passing, picture, texture, walking


def swaying(degrees: float) -> tuple[list[np.ndarray], list[np.ndarray]]:
    """Somebody who stands before a blurred place and sways slowly, by so much to each side: frames and alphas."""
    place = cv2.GaussianBlur(texture(300, 240, (120, 150, 110), 4, 40), (0, 0), 6)
    cloth, body = texture(300, 240, (170, 110, 80), 6, 30), blob(300, 240, 120, 150, 62, 0.9)
    frames, alphas = [], []
    for n in range(30):
        turn = cv2.getRotationMatrix2D((120, 230), degrees * np.sin(n / 6), 1)
        alphas.append(cv2.warpAffine(body, turn, (240, 300)))
        dressed = cv2.warpAffine(cloth, turn, (240, 300), borderMode=cv2.BORDER_REFLECT)
        frames.append(composed(alphas[n], dressed, place, 2.0, n))
    return frames, alphas


class TestAlignment:
    def test_finds_a_known_homography(self):
        scene = texture(200, 260, (130, 130, 130), 3, 30)
        first = cv2.cvtColor(np.clip(scene, 0, 255).astype(np.uint8), cv2.COLOR_RGB2GRAY)
        known = np.array([[1.01, 0.012, 5.0], [-0.01, 1.008, -3.0], [1e-5, -1e-5, 1.0]])
        other = cv2.warpPerspective(first, known, (260, 200))
        found = between(first, other, features(first), np.eye(3))
        corners = np.float64([[[40, 40]], [[220, 40]], [[220, 160]], [[40, 160]]])
        apart = cv2.perspectiveTransform(corners, found) - cv2.perspectiveTransform(corners, known)
        assert np.linalg.norm(apart, axis=2).max() < 0.25

    @pytest.mark.parametrize("lean", [0.0, 3e-4])
    def test_a_mere_turn_and_zoom_is_told_from_a_leaning_camera(self, lean):
        rng = np.random.default_rng(2)
        points = rng.uniform((0, 0), (300, 120), (60, 2))[:, None].astype(np.float32)
        true = np.array([[1.02, -0.03, 4], [0.03, 1.02, -6], [lean, -lean, 1]])
        there = cv2.perspectiveTransform(points, true) + rng.normal(0, 0.15, points.shape).astype(np.float32)
        found = homography(points, there, (400, 300))
        corner = np.array([[[10.0, 390.0]]])  # far from all corners that were followed
        off = np.linalg.norm(cv2.perspectiveTransform(corner, found) - cv2.perspectiveTransform(corner, true))
        assert off < (0.5 if lean == 0 else 8)
        assert (found[2, :2] == 0).all() == (lean == 0)

    def test_an_even_picture_gives_nothing(self):
        flat = np.full((80, 80), 90, np.uint8)
        assert between(flat, flat, features(flat), np.eye(3)) is None

    @pytest.mark.parametrize(("pan", "stands"), [(0.0, True), (1.5, False)])
    def test_tells_a_standing_camera_from_a_panning_one(self, pan, stands):
        frames, _, _ = passing(16, pan=pan)
        assert stands_still([cv2.cvtColor(f, cv2.COLOR_RGB2GRAY) for f in frames], 8) == stands


class TestProposal:
    def test_what_is_found_becomes_a_matte_with_an_edge(self):
        frame, alpha = picture()
        matte = mover.Proposal((alpha > 0.5).astype(np.float32)).matte(frame, 10)
        assert overlap(matte, alpha) > 0.95
        assert ((matte > 0.1) & (matte < 0.9)).any()

    def test_specks_that_no_edge_is_left_of_are_refused(self):
        frame, _ = picture()
        specks = np.zeros(frame.shape[:2], np.float32)
        specks[10::60, 10::60] = 0.55
        with pytest.raises(Refusal, match="too small to be cut out"):
            mover.Proposal(specks).matte(cv2.GaussianBlur(frame, (0, 0), 4), 10)


class TestPickMover:
    @pytest.mark.parametrize(("pan", "flicker"), [(0.0, 0.0), (1.2, 0.0), (0.0, 0.04)])
    def test_finds_what_crosses_the_scene(self, pan, flicker):
        frames, alphas, scenes = passing(24, pan=pan, flicker=flicker)
        proposal, scene = mover.pick_mover(frames, 12)
        assert overlap(proposal.outline(frames[12]), alphas[12]) > 0.93
        behind = alphas[12] > 0.9
        assert np.abs(scene.behind.plate.astype(int) - scenes[12])[behind].mean() < (6 if not pan else 10)

    def test_somebody_who_lingers_is_found(self):
        frames, alphas, scenes = passing(24)
        cloth = texture(160, 120, (190, 90, 70), 6)
        rng = np.random.default_rng(3)
        for n in range(6, 24):  # comes in from the side, then stands and sways
            alpha = blob(160, 120, 62 + rng.uniform(-1, 1), 88, 32, 0.9)
            alphas[n], frames[n] = alpha, composed(alpha, cloth, scenes[n].astype(np.float32), 2.0, n)
        proposal, scene = mover.pick_mover(frames, 15)
        assert overlap(proposal.outline(frames[15]), alphas[15]) > 0.9
        assert np.abs(scene.behind.plate.astype(int) - scenes[15])[alphas[15] > 0.9].mean() < 12

    def test_somebody_who_only_sways_is_found_as_their_place_never_rests(self, monkeypatch):
        frames, alphas = swaying(1.5)
        proposal, _ = mover.pick_mover(frames, 14)
        assert overlap(proposal.outline(frames[14]), alphas[14]) > 0.85
        assert any("never comes to rest" in warning for warning in proposal.warnings)
        monkeypatch.setattr(behinds, "restless", lambda plate, noise: np.zeros_like(noise))
        with pytest.raises(Refusal, match="Nothing moves"):
            mover.pick_mover(frames, 14)

    @pytest.mark.parametrize("pan", [0.0, 0.4])
    def test_a_scene_serves_other_frames_of_its_shot(self, pan):
        frames, alphas, _ = passing(24, pan=pan)
        _, scene = mover.pick_mover(frames, 12)
        again, same = mover.pick_mover(frames, 9, scene=scene)
        assert same is scene
        assert overlap(again.found, alphas[9]) > 0.88

    @pytest.mark.parametrize("pan", [0.0, 0.4])
    def test_a_scene_serves_frames_that_were_exposed_otherwise(self, pan):
        frames, alphas, _ = passing(24, pan=pan)
        _, scene = mover.pick_mover(frames, 12)
        frames[9] = np.clip(frames[9] * 1.2, 0, 255).astype(np.uint8)
        again, same = mover.pick_mover(frames, 9, scene=scene)
        assert same is scene
        assert overlap(again.found, alphas[9]) > 0.85

    def test_a_scene_is_found_again_behind_a_subject_that_goes_its_own_way(self):
        frames, alphas = walking(24, pan=0.8)
        _, scene = mover.pick_mover(frames, 12)
        for at in (4, 20):
            again, same = mover.pick_mover(frames, at, scene=scene)
            assert same is scene
            assert overlap(again.found, alphas[at]) > 0.9

    def test_a_subject_that_goes_on_beyond_the_scenes_view_is_found_whole(self, monkeypatch):
        frames, alphas = walking(14, step=12.0, pan=6.0)
        _, scene = mover.pick_mover(frames, 4)
        monkeypatch.delattr(stacks, "onto")  # where the camera went is known by now
        again, other = mover.pick_mover(frames, 10, scene=scene)
        assert other is not scene
        assert overlap(again.found, alphas[10]) > 0.85

    def test_a_subject_seen_to_go_on_beyond_the_scenes_view_is_not_looked_for_there(self, monkeypatch):
        frames, _ = walking(14, step=12.0, pan=6.0)
        _, scene = mover.pick_mover(frames, 4)
        looked = []
        found = mover.standing_out
        monkeypatch.setattr(mover, "standing_out", lambda *args, **more: looked.append(1) or found(*args, **more))
        mover.pick_mover(frames, 10, scene=scene)
        assert len(looked) == 1

    def test_a_subject_cut_by_the_edge_of_a_shaky_frame_needs_no_scene_of_its_own(self):
        frames, alphas = walking(24)
        tops = [6 + round(3 * np.sin(2.1 * n)) for n in range(24)]
        frames, alphas = ([f[t : t + 200].copy() for f, t in zip(many, tops, strict=True)] for many in (frames, alphas))
        _, scene = mover.pick_mover(frames, 12)
        for at in (8, 19):
            again, same = mover.pick_mover(frames, at, scene=scene)
            assert same is scene
            assert overlap(again.found, alphas[at]) > 0.9
            assert overlap(again.found[-4:], alphas[at][-4:]) > 0.7

    def test_a_scene_seen_from_nearer_is_built_anew(self):
        frames, alphas, _ = passing(24)

        def nearer(picture, n):
            turn = cv2.getRotationMatrix2D((60, 80), 0, 1 + 0.008 * n)
            return cv2.warpAffine(picture, turn, (120, 160), borderMode=cv2.BORDER_REFLECT)

        frames = [nearer(f, n) for n, f in enumerate(frames)]
        _, scene = mover.pick_mover(frames, 6)
        again, other = mover.pick_mover(frames, 17, scene=scene)
        assert other is not scene
        assert overlap(again.found, nearer(alphas[17], 17)) > 0.8

    def test_who_never_stirs_is_part_of_the_scene(self):
        frames, alphas, _ = passing(16)
        bystander = blob(160, 120, 20, 100, 25)

        def person(frame, quick):
            which = int(np.argmin([np.abs(f.astype(int) - frame).mean() for f in frames]))
            return np.maximum(alphas[which], bystander).astype(np.float32)

        stack = lay(frames, 8)
        people = people_in(stack, [person(f, True) for f in stack.frames])
        assert people[0][bystander > 0.9].max() < 0.1
        assert people[0][(alphas[8] > 0.9) & (bystander < 0.01)].mean() > 0.8

    def test_nothing_that_moves_is_said(self):
        _, _, scenes = passing(12)
        with pytest.raises(Refusal, match="Nothing moves"):
            mover.pick_mover([np.ascontiguousarray(s) for s in scenes], 5)

    def test_too_few_frames_are_said(self):
        frames, _, _ = passing(3)
        with pytest.raises(Refusal, match="fewer than four"):
            mover.pick_mover(frames, 1)

    def test_a_plate_needs_no_frame_without_the_subject(self):
        frames, _, scenes = passing(24)
        stack = lay(frames[6:18], 5)
        plate, support = plate_of(stack)
        assert np.abs(plate.astype(int) - scenes[11])[support > 3].mean() < 4


class TestPickDifference:
    def test_finds_what_the_plate_does_not_show(self):
        frames, alphas, scenes = passing(24)
        assert overlap(mover.pick_difference(frames[12], scenes[12]).found, alphas[12]) > 0.93

    def test_the_same_picture_twice_is_said(self):
        _, _, scenes = passing(4)
        with pytest.raises(Refusal, match="show the same"):
            mover.pick_difference(scenes[0], scenes[0])

    def test_another_place_altogether_is_said(self):
        frames, _, _ = passing(4)
        other = texture(160, 120, (20, 40, 200), 9).clip(0, 255).astype(np.uint8)
        with pytest.raises(Refusal, match="differ nearly everywhere"):
            mover.pick_difference(frames[2], other)
