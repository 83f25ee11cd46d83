"""The parts of picking a mover: frames laid over each other, plates, noise, shade, and what is worth keeping."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nervykite.core.see.find import mover, prior
from nervykite.core.see.find.standing_out import StandingOutSettings, worthy
from nervykite.core.see.scene.align import onto
from nervykite.core.see.scene.clean import clean_plate
from nervykite.core.see.scene.difference import textures_apart
from nervykite.core.see.scene.ghost import ghosts
from nervykite.core.see.scene.plate import noise_of, plate_of
from nervykite.core.see.scene.restless import restless
from nervykite.core.see.scene.scene import PIXELS, contradicted, people_in, scene_of, weighed, working_size
from nervykite.core.see.scene.shade import ShadeSettings, _even, shaded
from nervykite.core.see.scene.stack import Stack, compared, lay

from .scenes import blob, composed, passing, texture

LINK = StandingOutSettings().link


def still_stack(frames: list[np.ndarray], moving: list[np.ndarray] | None = None) -> Stack:
    shape = (len(frames), *frames[0].shape[:2])
    nothing = np.zeros(shape, bool)
    return Stack(np.stack(frames), np.ones(shape, bool), nothing if moving is None else np.stack(moving), True)


class TestRestless:
    def plate(self) -> np.ndarray:
        """A plain place with a dark post in it."""
        plate = np.full((120, 160, 3), 150, np.uint8)
        plate[:, 20:26] = 40
        return cv2.GaussianBlur(plate, (0, 0), 1)

    def test_where_frames_disagree_over_an_area_somebody_lingers(self):
        noise = np.full((120, 160), 2, np.float32)
        noise[40:80, 90:130] = 7
        found = restless(self.plate(), noise)
        assert found[50:70, 100:120].min() == pytest.approx(5, abs=0.01)
        assert np.abs(found[:, :80]).max() < 0.01

    def test_edges_that_are_not_laid_onto_themselves_are_not_restless(self):
        noise = np.full((120, 160), 2, np.float32)
        noise[:, 16:30] = 7
        explained = restless(self.plate(), noise).max()
        # It is the edge that explains it: without one it would be somebody.
        assert explained < 0.5 * restless(np.full((120, 160, 3), 150, np.uint8), noise).max()

    def test_a_camera_that_is_noisy_all_over_makes_nobody_restless(self):
        assert np.abs(restless(self.plate(), np.full((120, 160), 9, np.float32))).max() < 0.01


class TestPlates:
    def scene(self, count: int = 9) -> list[np.ndarray]:
        rng = np.random.default_rng(3)
        base = texture(30, 40, (120, 130, 140), 1)
        return [np.clip(base + rng.normal(0, 2, base.shape), 0, 255).astype(np.uint8) for _ in range(count)]

    def test_a_colour_that_is_seen_most_often_wins(self):
        frames = self.scene()
        for frame in frames[:3]:
            frame[10:20, 10:20] = (250, 20, 20)
        plate, support = plate_of(still_stack(frames))
        assert np.abs(plate.astype(int) - frames[8])[10:20, 10:20].mean() < 4
        assert support[15, 15] == pytest.approx(6, abs=1)

    def test_what_moves_counts_little_even_if_it_is_there_most_of_the_time(self):
        frames, moving = self.scene(), [np.zeros((30, 40), bool) for _ in range(9)]
        for frame, mask in list(zip(frames, moving, strict=True))[:6]:
            frame[10:20, 10:20] = (250, 20, 20)
            mask[8:22, 8:22] = True
        plate, _ = plate_of(still_stack(frames, moving))
        assert np.abs(plate.astype(int) - frames[8])[10:20, 10:20].mean() < 4

    def test_a_passing_texture_that_is_there_most_of_the_time_loses_to_what_comes_back_alike(self):
        frames, fur = self.scene(16), np.random.default_rng(8)
        for frame in frames[3:15]:  # never twice the same, and all of it seems to move
            frame[10:20, 10:20] = np.clip(fur.normal(115, 18, (10, 10, 1)) + np.zeros(3), 0, 255)
        plate, support = plate_of(still_stack(frames, [np.ones((30, 40), bool)] * 16))
        assert np.abs(plate.astype(int) - frames[0])[12:18, 12:18].mean() < 4
        assert support[2:8, 2:8].mean() > 2 * support[12:18, 12:18].mean()

    def test_what_is_unwanted_in_every_frame_is_filled_from_around(self):
        frames = self.scene()
        for frame in frames:
            frame[10:20, 10:20] = (250, 20, 20)
        unwanted = np.zeros((9, 30, 40), np.float32)
        unwanted[:, 10:20, 10:20] = 1
        plate, support = plate_of(still_stack(frames), unwanted=unwanted)
        assert support[15, 15] < 0.05
        assert plate[12:18, 12:18, 0].mean() < 190
        assert np.abs(plate.astype(int) - frames[0])[:6].mean() < 4

    def test_noise_is_what_the_scene_does_by_itself(self):
        frames = self.scene(12)
        flicker = np.random.default_rng(4)
        for number, frame in enumerate(frames):
            frame[:, 20:] = np.clip(frame[:, 20:].astype(int) + flicker.integers(-20, 20), 0, 255)
            if number > 4:  # somebody who lingers is not noise
                frame[:, :5] = 250
        stack = still_stack(frames)
        noise = noise_of(stack, plate_of(stack)[0])
        assert noise[:, :14].mean() < 6
        assert noise[:, 26:].mean() > 2 * noise[:, :14].mean()

    def test_the_seam_tells_a_ghost_from_somebody_who_passes(self):
        rng = np.random.default_rng(7)
        scene = np.clip(texture(120, 90, (150, 140, 120), 3, 8), 0, 255).astype(np.uint8)
        body = np.clip(texture(40, 30, (60, 70, 150), 4, 8), 0, 255).astype(np.uint8)
        frames = []
        for number in range(12):
            frame = np.clip(scene + rng.normal(0, 1.5, scene.shape), 0, 255).astype(np.uint8)
            if number >= 3:  # comes, and stays
                frame[50:90, 30:60] = body
            if number == 1:
                frame[5:45, 5:35] = body  # passes, elsewhere
            frames.append(frame)
        stack = still_stack(frames)
        plate, _ = plate_of(stack)
        assert np.abs(plate[55:85, 35:55].astype(int) - body[5:35, 5:25]).mean() < 8  # the majority is wrong
        shown = ghosts(stack, plate, noise_of(stack, plate))
        assert shown[0, 55:85, 35:55].mean() > 0.9
        assert not shown[1, 5:45, 5:35].any()
        assert not shown[3:].any()
        better, _ = plate_of(stack, shown=shown)
        assert np.abs(better.astype(int) - scene).mean() < 4
        quiet = np.ones(scene.shape[:2], np.float32)
        assert not ghosts(still_stack([scene] * 4), scene, quiet).any()

    def test_frames_of_a_panning_camera_lie_on_the_held_one(self):
        frames, _, scenes = passing(12, pan=1.5)
        stack = lay(frames, 6)
        assert not stack.still
        assert stack.frames.shape[0] == 12
        apart = np.abs(stack.frames[-1].astype(int) - scenes[6]).mean(-1)
        assert np.median(apart[stack.valid[-1]]) < 6

    def test_what_is_known_of_a_frame_is_laid_as_the_frame_is(self):
        frames, _, _ = passing(14, pan=1.5)
        stack = lay(frames, 6, most=8)
        assert stack.numbers[0] == 6
        assert sorted(stack.numbers) == compared(14, 6, 8)
        for laid, valid, number in zip(stack.frames, stack.valid, stack.numbers, strict=True):
            again = stack.onto(number, frames[number][..., 0].astype(np.float32))
            gain = np.median(laid[..., 0][valid] / np.maximum(again[valid], 1))
            assert np.abs(laid[..., 0] - gain * again)[valid].mean() < 1

    def test_a_fast_pan_is_compared_with_frames_that_see_the_same(self):
        frames, _, _ = passing(40, pan=9.0)
        stack = lay(frames, 20, most=12)
        assert len(stack.numbers) == 12
        assert all(abs(n - 20) * 9 <= 0.75 * 120 for n in stack.numbers)
        assert stack.valid.mean((1, 2)).min() > 0.2

    def test_what_is_about_to_be_covered_does_not_move(self):
        frames, alphas, _ = passing(12)
        stack = lay(frames, 6)
        moving = {n: stack.moving[k] for k, n in enumerate(stack.numbers)}
        assert moving[6][alphas[6] > 0.9].mean() > 0.8
        next_to_it = cv2.dilate(alphas[6], np.ones((5, 5))) < 0.05
        assert moving[6][next_to_it & (alphas[7] > 0.9)].mean() < 0.6
        assert moving[6][next_to_it & (alphas[5] > 0.9)].mean() < 0.6

    def test_mappings_carry_points_of_the_scene(self):
        frames, _, _ = passing(10, pan=2.0)
        mappings = onto([cv2.cvtColor(f, cv2.COLOR_RGB2GRAY) for f in frames], 4)
        for number in (0, 9):
            moved = cv2.perspectiveTransform(np.array([[[60.0, 80.0]]]), mappings[number])[0, 0]
            assert moved == pytest.approx([60 + 2.0 * (number - 4), 80], abs=0.6)


class TestJudging:
    def test_shade_is_darker_by_one_factor_and_keeps_the_texture(self):
        scene = np.clip(texture(60, 60, (180, 160, 130), 2, 8), 0, 255).astype(np.uint8)
        frame = scene.copy()
        frame[15:45, 5:25] = (scene[15:45, 5:25] * 0.65).astype(np.uint8)
        frame[15:45, 35:55] = (40, 60, 160)
        shade = shaded(frame, scene)
        assert shade[20:40, 9:21].mean() > 0.95
        assert shade[20:40, 39:51].mean() < 0.05
        assert shade[:8].mean() < 0.1

    def test_something_darker_with_a_sharp_edge_is_no_shade_although_a_shadow_is_around_it(self):
        scene = texture(160, 160, (150, 150, 150), 2, 8)
        leg, inner, shadow = (np.zeros((160, 160), np.float32) for _ in range(3))
        leg[20:100, 60:68] = 0.45
        inner[120:124, 60:120] = 0.9  # the shadow itself is darkest in its middle
        shadow[15:145, 20:140] = 0.15
        light = (1 - cv2.GaussianBlur(shadow, (0, 0), 4)) * (1 - cv2.GaussianBlur(inner, (0, 0), 5))
        frame = composed(cv2.GaussianBlur(leg, (0, 0), 0.5), 0 * scene, scene * light[..., None], 1.0)
        shade = shaded(frame, scene.astype(np.uint8), 1.0)
        assert shade[leg > 0].mean() < 0.2
        assert shade[30:90, 100:130].mean() > 0.95
        assert shade[inner > 0].mean() > 0.95

    def test_fur_that_is_as_dark_as_the_soft_shadow_around_is_no_shade(self):
        rng = np.random.default_rng(7)
        scene = np.full((160, 200, 3), 150.0)
        shadow, tail = (np.zeros((160, 200), np.float32) for _ in range(2))
        cv2.circle(shadow, (110, 90), 45, 1, -1)
        dark = 1 - 0.4 * cv2.GaussianBlur(shadow, (0, 0), 9)
        cv2.ellipse(tail, (110, 80), (60, 30), 0, 40, 140, 1, 14)
        fur = cv2.GaussianBlur(rng.normal(0, 1, (160, 200)), (0, 0), 2)
        frame = np.where((tail > 0)[..., None], (95 + 9 * fur / fur.std())[..., None], scene * dark[..., None])
        frame = np.clip(frame + rng.normal(0, 1, scene.shape), 0, 255).astype(np.uint8)
        shade = shaded(frame, scene.astype(np.uint8), 1.0)
        inner = (dark < 0.8) & (cv2.dilate(tail, np.ones((9, 9))) == 0)
        assert shade[cv2.erode(tail, np.ones((5, 5))) > 0].mean() < 0.35
        assert shade[inner].mean() > 0.95

    def test_a_hard_shadow_on_rippled_sand_is_shade_although_it_is_not_even(self):
        rng = np.random.default_rng(8)
        sand = texture(160, 200, (170, 150, 120), 2, 20)
        shadow = np.ones((160, 200), np.float32)
        cv2.fillPoly(shadow, [np.array([[30, 60], [170, 50], [180, 100], [60, 120]])], 0.55)
        ripples = (
            1 + 0.03 * cv2.GaussianBlur(rng.normal(0, 1, (160, 200)), (0, 0), 2) / 0.14
        )  # light from one side only
        frame = sand * (shadow * np.where(shadow < 1, ripples, 1))[..., None]
        shade = shaded(np.clip(frame, 0, 255).astype(np.uint8), np.clip(sand, 0, 255).astype(np.uint8), 2.0)
        inner = cv2.erode((shadow < 1).astype(np.uint8), np.ones((9, 9))) > 0
        assert shade[inner].mean() > 0.9
        assert shade[cv2.dilate((shadow < 1).astype(np.uint8), np.ones((9, 9))) == 0].mean() < 0.05

    @pytest.mark.parametrize("across", [0.0, 0.004])
    def test_darkness_that_grows_slowly_is_even_and_folds_are_not(self, across):
        y, x = np.mgrid[0:80, 0:100].astype(np.float32)
        slow = 0.6 + across * x
        folds = slow + 0.04 * np.sin(0.7 * x)
        place = np.full((80, 100, 3), 150, np.uint8)
        everywhere = np.ones((80, 100), bool)
        even, uneven = _even(slow, 1.0, place, everywhere, ShadeSettings())
        assert even.all()
        assert not uneven.any()
        even, uneven = _even(folds, 1.0, place, everywhere, ShadeSettings())
        assert not even.any()
        assert uneven.mean() > 0.8

    def test_something_finer_than_the_place_is_no_shade(self):
        rng = np.random.default_rng(1)
        frame, fur = np.full((160, 160, 3), 120, np.uint8), rng.normal(84, 7, (60, 60, 1)) + np.zeros(3)
        scene = frame.copy()
        frame[20:80, 20:80] = np.clip(fur, 60, 112)
        frame[90:150, 90:150] = 84
        noisy = np.clip(frame + rng.normal(0, 1, frame.shape), 0, 255).astype(np.uint8)
        shade = shaded(noisy, scene, 1.0)
        assert shade[28:72, 28:72].mean() < 0.1
        assert shade[98:142, 98:142].mean() > 0.95

    def test_small_parts_are_kept_beside_the_largest_only(self):
        found = np.zeros((200, 200), np.float32)
        found[40:140, 40:100] = 1
        found[145:153, 60:75] = 1  # a foot below
        found[20:28, 180:195] = 1  # a bird far away
        strong, still = np.full((200, 200), 3, np.float32), np.zeros((200, 200), np.float32)
        kept = worthy(found, strong, still, LINK)
        assert kept[148, 65] == 1
        assert kept[24, 188] == 0
        assert kept[100, 70] == 1
        sways = still.copy()
        sways[142:160, 50:80] = 1  # a leaf, not a foot
        kept = worthy(found, strong, sways, LINK)
        assert kept[148, 65] == 0
        assert kept[100, 70] == 1

    def test_a_leg_that_is_found_in_pieces_is_kept_as_far_as_they_are_in_a_chain(self):
        found = np.zeros((400, 300), np.float32)
        found[40:160, 100:200] = 1
        for top in range(164, 300, 12):
            found[top : top + 8, 140:145] = 1
        found[330:338, 240:245] = 1  # by itself
        kept = worthy(found, np.full((400, 300), 3, np.float32), np.zeros((400, 300), np.float32), LINK)
        assert kept[290, 142] == 1
        assert kept[334, 242] == 0

    def test_textures_differ_or_go_on_in_the_shade(self):
        def gravel(seed):
            grain = cv2.GaussianBlur(np.random.default_rng(seed).normal(0, 1, (80, 80)), (0, 0), 1.5)
            grey = np.clip(120 + 30 * grain / grain.std(), 0, 255).astype(np.uint8)
            return np.repeat(grey[..., None], 3, -1)

        scene = gravel(2)
        frame = scene.copy()
        frame[10:40, 10:40] = gravel(5)[10:40, 10:40]
        frame[45:75, 45:75] = (scene[45:75, 45:75] * 0.7).astype(np.uint8)
        says = textures_apart(frame, scene, np.ones((80, 80), np.float32))
        assert says[16:34, 16:34].mean() > 0.3
        assert says[51:69, 51:69].mean() < -0.5
        flat = np.full((80, 80, 3), 90, np.uint8)
        assert not textures_apart(flat, flat + 30, np.ones((80, 80), np.float32)).any()

    def test_people_where_nothing_differs_are_not_believed(self):
        frames, alphas, scenes = passing(10)
        shape = alphas[5].shape
        quiet, known = np.full(shape, 1.5, np.float32), np.full(shape, 9, np.float32)
        nobody = np.zeros(shape, np.float32)
        nobody[5:45, 5:25] = 1
        assert contradicted(nobody, scenes[5].copy(), scenes[5], quiet, known)
        assert not contradicted(alphas[5], frames[5], scenes[5], quiet, known)
        assert not contradicted(nobody, scenes[5].copy(), scenes[5], quiet, np.zeros(shape, np.float32))

    def test_people_count_only_if_the_whole_shot_has_some(self):
        frames, alphas, _ = passing(10)
        stack = still_stack(frames)
        shape = frames[0].shape[:2]

        def found(answer):
            return people_in(stack, [np.zeros(shape, np.float32), *[answer] * 9])

        assert found(None) is None
        assert found(np.zeros(shape, np.float32)) is None
        assert found(np.ones(shape, np.float32)) is None
        assert people_in(stack, alphas).shape == stack.moving.shape

    def test_working_sizes_keep_the_shape_and_never_enlarge(self):
        assert working_size(200, 100) == (200, 100)
        w, h = working_size(1080, 1920)
        assert w * h == pytest.approx(PIXELS, rel=0.01)
        assert w / h == pytest.approx(1080 / 1920, rel=0.01)

    def test_the_person_finder_looks_closer_at_the_largest_find(self):
        guide = np.zeros((100, 80), np.float32)
        guide[20:70, 30:50] = 0.9
        guide[80:84, 5:9] = 0.9
        x, y, long = prior._box(guide)
        assert (x, y) == (40, 45)
        assert long == 50
        assert prior._box(np.zeros((10, 10), np.float32)) is None
        window = prior._window(40, 30)
        assert window.max() == 1
        assert window[0, 0] < 0.1

    def test_a_blob_is_where_the_tests_say(self):
        alpha = blob(100, 80, 40, 50, 20)
        assert alpha[50, 40] == pytest.approx(1, abs=1e-3)
        assert alpha[5, 5] == 0


class TestLingering:
    """Somebody who comes in, and stays for most of the shot."""

    def shot(self, stays_from: int = 5, count: int = 16):
        rng = np.random.default_rng(11)
        scene = np.clip(texture(160, 120, (150, 140, 120), 3, 10), 0, 255).astype(np.uint8)
        cloth = texture(160, 120, (60, 80, 160), 4, 10)
        frames, alphas = [], []
        for number in range(count):
            x = 60 + rng.uniform(-1, 1) if number >= stays_from else 60 - 22 * (stays_from - number)
            alpha = blob(160, 120, x, 88, 30, 0.9)
            frames.append(composed(alpha, cloth, scene.astype(np.float32), 2.0, number))
            alphas.append(alpha)
        return frames, alphas, scene

    def test_a_clean_plate_is_without_them(self):
        frames, alphas, scene = self.shot()
        plate, guess = clean_plate(frames, 12)
        behind = alphas[12] > 0.9
        assert np.abs(plate.astype(int) - scene)[behind].mean() < 12
        assert guess[behind].mean() < 0.05
        assert np.abs(plate.astype(int) - scene)[alphas[12] < 0.01].mean() < 4

    def test_nothing_is_turned_where_the_plate_is_right(self):
        frames, alphas, scene = self.shot(stays_from=14)
        stack = lay(frames, 8)
        first = weighed(stack, None)
        assert not first.shown.any()
        assert np.abs(first.plate.astype(int) - scene).mean() < 3
        assert first.noise[alphas[15] > 0.9].mean() < 6

    def test_a_plate_is_built_anew_only_where_frames_show_the_scene(self):
        frames, _, _ = self.shot()
        stack = lay(frames, 12)
        before = plate_of(stack)
        shown = np.zeros(stack.valid.shape, bool)
        shown[1, 60:100, 40:80] = True
        elsewhere = ~shown.any(0)
        plate, support = plate_of(stack, None, shown, (*before, ~elsewhere))
        assert (plate[elsewhere] == before[0][elsewhere]).all()
        assert (support[elsewhere] == before[1][elsewhere]).all()
        assert np.abs(plate[65:95, 45:75].astype(int) - stack.frames[1, 65:95, 45:75]).mean() < 4

    def test_a_finder_that_sees_nobody_there_does_not_spoil_the_scene(self):
        frames, alphas, scene = self.shot(stays_from=14)
        ghost = np.zeros((160, 120), np.float32)
        ghost[10:60, 85:115] = 0.9

        def person(frame, quick):
            return ghost + (0.01 if quick else 0)

        found = scene_of(frames, 12, person)
        assert found.people is None
        proposal, _ = mover.pick_mover(frames, 12, person)
        assert proposal.found[15:55, 90:110].max() < 0.5
        assert np.abs(found.behind.plate.astype(int) - scene)[15:55, 90:110].mean() < 4


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000), st.integers(2, 9), st.sampled_from([0.0, 0.3]))
def test_frames_that_are_alike_all_count_for_the_plate(seed, count, share):
    rng = np.random.default_rng(seed)
    frames = (120 + rng.integers(-7, 8, (count, 12, 10, 3))).astype(np.uint8)
    moving = rng.random((count, 12, 10)) < share
    plate, support = plate_of(Stack(frames, np.ones(moving.shape, bool), moving, True))
    assert (plate >= frames.min(0)).all()
    assert (plate <= frames.max(0)).all()
    if not share:
        assert np.abs(plate - frames.mean(0)).max() <= 0.51
    # What seems to move counts a little, and more the more it is like the rest.
    least, most = (np.where(moving, own, 1.0).sum(0) for own in (0.08, 0.25))
    assert (support > least - 1e-3).all()
    assert (support < most + 1e-3).all()


def test_a_frame_that_differs_does_not_count_for_the_plate():
    frames = np.full((5, 12, 10, 3), 120, np.uint8)
    frames[0, 4:8] = 220
    none = np.zeros(frames.shape[:3], bool)
    plate, support = plate_of(Stack(frames, ~none, none, True))
    assert (plate == 120).all()
    assert support[5, 5] == pytest.approx(4, abs=1e-3)
    assert support[0, 0] == pytest.approx(5, abs=1e-3)
