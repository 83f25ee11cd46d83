"""The pieces of the demo world: noise, solids, gait, camera, film."""

import math

import numpy as np
import pytest

from tools.world import film, noise, place, poses
from tools.world.acts import DUNE_RUN, GRAVITY, SHIN, THIGH, Act, Flight, Gesture, Stance, strides
from tools.world.body import JUNO, TEO, Figure
from tools.world.solids import (
    Solid,
    bounding_sphere,
    capsule,
    distance,
    mask_near,
    mask_of_ray,
    span_of_ray,
    sunlight,
)  # fmt: skip
from tools.world.spots import Dunes, Groyne, HutFront, Shallows
from tools.world.water import Splash

pytestmark = pytest.mark.world


@pytest.fixture(scope="module")
def tex():
    return noise.textures()


class TestNoise:
    def test_tiles_without_a_seam(self, tex):
        for layer in (0, 1):
            for u, v in ((3.3, 7.7), (500.25, 1020.5)):
                here = noise.lookup(tex, layer, u, v)
                assert noise.lookup(tex, layer, u + noise.SIZE, v - noise.SIZE) == pytest.approx(here, abs=1e-6)
        steps = np.abs(np.diff(np.concatenate([tex[1], tex[1][:, :2]], 1), axis=1))
        assert steps[:, -2:].max() <= steps.max()

    def test_is_smooth_and_centred(self, tex):
        assert tex.shape == (2, noise.SIZE, noise.SIZE)
        assert np.abs(tex.mean((1, 2))).max() < 0.1
        assert np.abs(np.diff(tex[0], axis=0)).max() < 0.4

    def test_steps(self):
        assert [noise.smooth(2, 4, x) for x in (1, 2, 3, 4, 9)] == [0, 0, 0.5, 1, 1]
        assert [noise.clamp(x, -1, 1) for x in (-5, 0.5, 5)] == [-1, 0.5, 1]


class TestSolids:
    def one(self, *arguments, **more):
        solid = Solid()
        solid.add(*arguments, **more)
        return solid.pack()

    def test_distance_to_a_round_capsule(self):
        rows, *_ = self.one(0, 0, (0, 0, 0), (0, 2, 0), 0.5, 0.5, (1, 0, 0))
        for point, expected in (((2, 1, 0), 1.5), ((0, 3, 0), 0.5), ((0, -1.5, 0), 1.0), ((0, 1, 0), -0.5)):
            assert capsule(rows, 0, *point) == pytest.approx(expected, abs=1e-6)

    def test_a_tapered_one_is_thicker_at_its_beginning(self):
        rows, *_ = self.one(0, 0, (0, 0, 0), (0, 2, 0), 0.6, 0.2, (1, 0, 0))
        assert capsule(rows, 0, 1, 0.2, 0) < capsule(rows, 0, 1, 1.8, 0)

    def test_one_material_melts_and_two_do_not(self):
        def middle(second: int) -> float:
            solid = Solid()
            solid.add(0, 0, (-0.3, 0, 0), (-0.3, 0.01, 0), 0.3, 0.3, (1, 0, 0), melt=0.2)
            solid.add(second, 0, (0.3, 0, 0), (0.3, 0.01, 0), 0.3, 0.3, (1, 0, 0), melt=0.2)
            rows, segments, spheres, _ = solid.pack()
            return distance(rows, segments, spheres, -1, 0, 0.3, 0, 1e3)[0]

        assert middle(0) < middle(1) - 0.02

    def test_masks_leave_out_only_what_cannot_be_met(self):
        rng = np.random.default_rng(1)
        solid = Solid()
        for limb in range(8):
            a = rng.uniform(-2, 2, 3)
            solid.add(0, limb, a, a + rng.uniform(-0.5, 0.5, 3), 0.2, 0.1, (0.3, 0.9, 0.2))
        rows, segments, spheres, _ = solid.pack()
        for _ in range(40):
            origin, direction = rng.uniform(-4, 4, 3), rng.normal(size=3)
            direction /= np.linalg.norm(direction)
            mask = mask_of_ray(spheres, *origin, *direction, 0.05)
            for t in np.linspace(0, 8, 120):
                point = origin + direction * t
                exact = distance(rows, segments, spheres, -1, *point, 1e3)[0]
                if exact < 0:
                    assert distance(rows, segments, spheres, mask, *point, 1e3)[0] == pytest.approx(exact, abs=1e-9)
                    assert mask_near(spheres, *point, 0.0)

    def test_a_ray_meets_everything_within_its_span(self):
        rng = np.random.default_rng(2)
        solid = Solid()
        for limb in range(6):
            a = rng.uniform(-1, 1, 3)
            solid.add(0, limb, a, a + rng.uniform(-0.4, 0.4, 3), 0.15, 0.1, (0.3, 0.9, 0.2))
        rows, segments, spheres, _ = solid.pack()
        for _ in range(30):
            direction = -np.array([3.0, 0, 0]) + rng.uniform(-1, 1, 3)
            direction /= np.linalg.norm(direction)
            mask, first, last = span_of_ray(spheres, 3.0, 0.0, 0.0, *direction)
            for t in np.linspace(0.1, 6, 200):
                if distance(rows, segments, spheres, -1, *(np.array([3.0, 0, 0]) + direction * t), 1e3)[0] < 0:
                    assert mask
                    assert first <= t <= last

    def test_bounding_sphere_holds_every_end(self):
        rows, *_ = self.one(0, 0, (1, 2, 3), (2, 2, 5), 0.4, 0.1, (0, 1, 0))
        x, y, z, radius = bounding_sphere(rows)
        assert math.dist((x, y, z), (1, 2, 3)) + 0.4 <= radius + 1e-9
        assert math.dist((x, y, z), (2, 2, 5)) + 0.1 <= radius + 1e-9

    def test_shade_lies_behind(self):
        rows, segments, spheres, around = self.one(0, 0, (0, 2, 0), (0.01, 2, 0), 0.5, 0.5, (0, 1, 0))
        sun = (0.0, 1.0, 0.0)
        assert sunlight(rows, segments, spheres, around, 0.0, 0.0, 0.0, *sun, 20.0) == 0
        assert sunlight(rows, segments, spheres, around, 3.0, 0.0, 0.0, *sun, 20.0) == 1
        edge = [sunlight(rows, segments, spheres, around, x, 0.0, 0.0, *sun, 20.0) for x in np.linspace(0.3, 0.8, 12)]
        assert all(b >= a - 1e-9 for a, b in zip(edge, edge[1:], strict=False))


class TestPoses:
    def test_mirrored_twice_is_the_pose(self):
        assert poses.mirrored(poses.mirrored(poses.PUSH)) == poses.PUSH
        assert poses.mirrored(poses.LEAP)["hipF"] == poses.LEAP["hipN"]

    def test_every_pose_says_everything(self):
        for pose in (poses.LEAP, poses.PUSH, poses.FLIGHT, poses.LAND, poses.PASS, poses.mirrored(poses.PASS)):
            assert pose.keys() == poses.STAND.keys()


def rise_of(times, act=DUNE_RUN):
    return np.array([act.pose_at(t)["rise"] for t in times])


class TestActs:
    def test_nothing_jumps(self):
        times = np.arange(-0.9, 0.9, 0.002)
        made = [DUNE_RUN.pose_at(t) for t in times]
        assert np.abs(np.diff(rise_of(times))).max() < 0.02
        for limb in ("hipN", "kneeN", "hipF", "kneeF", "shoulderN", "elbowF"):
            assert np.abs(np.diff([p[limb] for p in made])).max() < 9

    def test_in_the_air_only_gravity_acts(self):
        fall = np.diff(rise_of(np.arange(-0.25, 0.0, 0.01)), 2) / 0.01**2
        assert fall == pytest.approx(np.full(len(fall), -GRAVITY), abs=0.1)

    def test_a_flight_ends_where_it_says(self):
        act = Act(score=((0.0, poses.STAND), (1.0, poses.STAND)), flights=(Flight(0.3, 0.5, 0.7, 1.4),))
        assert act.pose_at(0.5)["rise"] == pytest.approx(1.4)
        assert act.pose_at(0.2)["rise"] == act.pose_at(0.8)["rise"] == poses.STAND["rise"]

    @pytest.mark.parametrize("act", [DUNE_RUN, Act(*(tuple(part) for part in strides(-1.2, 6)))])
    def test_standing_feet_stay_where_they_landed(self, act):
        for stance in act.stances:
            places = []
            for u in np.linspace(0.25, 0.45, 5):
                time = stance.first + u * (stance.last - stance.first)
                pose = act.pose_at(time)
                hip = np.radians(pose["hip" + stance.side])
                knee = hip - np.radians(pose["knee" + stance.side])
                places.append(act.gone(time) + THIGH * np.sin(hip) + SHIN * np.sin(knee))
            assert np.ptp(places) < 0.012

    def test_a_foot_that_does_not_peel_stays_flat(self):
        act = Act(
            score=((0.0, poses.STAND), (1.0, poses.STAND | {"rise": 0.7})),
            stances=(Stance("N", -1, 9, 0.2, peels=False),), gone=lambda time: 0.0,
        )  # fmt: skip
        for time in (0.2, 0.6, 0.9):
            pose = act.pose_at(time)
            sole = pose["hipN"] - pose["kneeN"] + 90 - pose["ankleN"]
            assert sole == pytest.approx(90, abs=0.5)

    def test_a_gesture_comes_and_goes(self):
        wave = Gesture({"shoulderF": 150.0}, 0.2, 0.4, 0.6, 0.8)
        act = Act(score=((0.0, poses.STAND), (1.0, poses.STAND)), gestures=(wave,))
        assert [act.pose_at(t)["shoulderF"] for t in (0.1, 0.5, 0.9)] == [4, 150, 4]
        assert 4 < act.pose_at(0.3)["shoulderF"] < 150


class TestFigures:
    def packed(self, **more):
        solid = Solid()
        figure = Figure(solid, DUNE_RUN.pose_at(0.0), (0, 0, 0), 16, 0.0, **more)
        return figure, solid.pack()

    def test_feet_stay_above_the_ground(self):
        for time in np.linspace(-0.8, 0.8, 30):
            solid = Solid()
            Figure(solid, DUNE_RUN.pose_at(time), (0, 0, 0), 16, time)
            rows, *_ = solid.pack()
            low = min((rows[:, 1] - rows[:, 13]).min(), (rows[:, 1] + rows[:, 7] * rows[:, 12] - rows[:, 14]).min())
            assert low > -0.12

    def test_is_in_one_piece_of_finite_parts_that_the_mask_has_room_for(self):
        for costume in (JUNO, TEO):
            for carried in (None, "streamer", "reel"):
                _, (rows, segments, _, around) = self.packed(costume=costume, carries=carried)
                assert np.isfinite(rows).all()
                assert len(segments) < 31  # two figures share the 62 bits
                assert 0.7 < around[3] < 1.6

    def test_limbs_keep_their_length(self):
        for time in (-0.6, 0.0, 0.4):
            joints = Figure(Solid(), DUNE_RUN.pose_at(time), (1, 2, 3), 40, time).joints
            for side in "NF":
                assert np.linalg.norm(joints["knee" + side] - joints["ankle" + side]) == pytest.approx(SHIN)
                assert np.linalg.norm(joints["elbow" + side] - joints["wrist" + side]) == pytest.approx(0.245)

    def test_what_is_carried_is_in_the_hand(self):
        free, without = self.packed(carries=None)
        for grip in "NF":
            figure, (rows, *_) = self.packed(carries="streamer", grip=grip)
            assert len(rows) > len(without[0])
            hand = figure.joints["hand" + grip]
            assert np.linalg.norm(rows[:, :3] - hand, axis=1).min() < 0.1
        assert (free.joints["handF"] == figure.joints["handF"]).all()

    def test_heading_turns_the_whole_figure(self):
        ahead = [Figure(Solid(), poses.STAND, (0, 0, 0), h, 0.0).ahead for h in (0, 90)]
        assert ahead[0] == pytest.approx([1, 0, 0])
        assert ahead[1] == pytest.approx([0, 0, -1])


class TestWater:
    def test_rises_and_falls_back_into_the_sea(self):
        water, camera = Splash(0, 0), film.look_at((0, 0, -5))
        highest = [water.triangles(t, 0, camera)[0][..., 1].max() for t in (0.02, 0.15, 0.3)]
        assert highest[0] < highest[1] < highest[2]
        early, late = (len(water.triangles(t, 0, camera)[0]) for t in (0.15, 1.4))
        assert late < early / 3
        assert water.triangles(0.3, 0, camera)[0][..., 1].min() > place.SEA_LEVEL - 0.1

    def test_is_always_the_same_water_and_glassy_between_samples(self):
        camera = film.look_at()
        first, again, other = (Splash(0, 0).triangles(0.1, sample, camera)[0] for sample in (1, 1, 2))
        assert np.array_equal(first, again)
        assert not np.array_equal(first, other)


class TestCamera:
    def test_projects_the_middle_and_the_edges(self):
        camera = film.look_at(position=(0, 1, -5), pitch=0, field=40)
        assert film.project(camera, [0, 1, 3], 720, 1280) == pytest.approx([360, 640, 8])
        top = film.project(camera, [0, 1 + 8 * math.tan(math.radians(20)), 3], 720, 1280)
        assert top == pytest.approx([360, 0, 8], abs=1e-6)

    def test_yaw_pitch_and_roll_keep_the_axes_square(self):
        camera = film.look_at(yaw=20, pitch=-7, roll=11)
        axes = camera[3:12].reshape(3, 3)
        assert axes @ axes.T == pytest.approx(np.eye(3), abs=1e-12)

    def test_ground_homography_carries_the_sand_from_one_camera_to_another(self):
        first, other = film.look_at(), film.look_at((0.3, 1.3, -5.5), yaw=5, pitch=1, roll=2, field=35)
        mapping = film.ground_homography(first, other, 720, 1280, level=0.2)
        for point in ([0.7, 0.2, 2.0], [-1, 0.2, 5.0]):
            x, y, _ = film.project(first, point, 720, 1280)
            seen = mapping @ [x, y, 1]
            assert seen[:2] / seen[2] == pytest.approx(film.project(other, point, 720, 1280)[:2])

    def test_samples_are_even(self):
        points = np.array([(film.halton(i, 2), film.halton(i, 3)) for i in range(1, 65)])
        counts, *_ = np.histogram2d(*points.T, bins=4, range=[[0, 1], [0, 1]])
        assert counts.min() >= 2
        assert counts.max() <= 6


class TestFilm:
    def test_lens_blur_keeps_the_light_and_what_is_in_focus(self):
        light = np.zeros((640, 360, 3), np.float32)
        light[320, 180] = 100
        sharp = film.lens_blur(light, np.full((640, 360), 6.0, np.float32))
        soft = film.lens_blur(light, np.full((640, 360), 1.0, np.float32))
        assert sharp[320, 180, 0] == pytest.approx(100)
        assert soft[320, 180, 0] < 20
        assert soft.sum() == pytest.approx(light.sum(), rel=0.02)

    def test_development_is_repeatable_and_brighter_light_is_brighter(self):
        ramp = np.repeat(np.linspace(0, 2, 90, dtype=np.float32)[None], 160, 0)[..., None].repeat(3, 2)
        first, again, other = film.develop(ramp, 5), film.develop(ramp, 5), film.develop(ramp, 6)
        assert (first == again).all()
        assert (first != other).any()
        means = first[60:100].mean((0, 2))
        assert (np.diff(means[5:85:8]) > 0).all()
        assert means[-5] > 0.78
        assert first.min() >= 0
        assert first.max() <= 1

    def test_a_noisy_stock_is_noisier(self):
        grey = np.full((160, 90, 3), 0.3, np.float32)
        quiet, noisy = film.develop(grey, 1), film.develop(grey, 1, film.Stock(grain=0.05, speckle=0.03))
        assert noisy[40:120, 20:70].std() > 3 * quiet[40:120, 20:70].std()


class TestPlace:
    def test_the_dunes_fall_to_the_sea(self, tex):
        heights = [place.height(tex, 0.0, z) for z in (0.0, 12.0, 24.0)]
        assert heights[0] > heights[1] > heights[2]
        assert heights[0] > place.SEA_LEVEL > heights[2] - 0.2

    def test_a_ray_down_meets_the_sand_and_one_up_does_not(self, tex):
        t = place.march_ground(tex, 0.0, 1.2, -6.0, 0.0, -0.2, 0.98, 40.0)
        assert 3 < t < 12
        assert abs(1.2 - 0.2 * t - place.height(tex, 0.0, -6 + 0.98 * t)) < 0.05
        assert place.march_ground(tex, 0.0, 1.2, -6.0, 0.0, 0.5, 0.86, 40.0) > 1e8

    @pytest.mark.parametrize("kind", [Dunes, Groyne, Shallows, HutFront])
    def test_things_move_and_what_stands_stays(self, tex, kind):
        spot, camera = kind(tex), film.look_at()
        points, colours = spot.triangles(0.0, camera)
        later, _ = spot.triangles(0.4, camera)
        assert points.shape == colours.shape == later.shape
        moved = np.abs(points - later).max((1, 2))
        assert 0.01 < moved.max() < 1.5
        assert (moved == 0).any()
        assert np.isfinite(colours).all()
        assert colours.min() >= 0
        assert np.isfinite(spot.wood[0]).all()
        assert len(spot.wood[1]) < 63

    def test_grass_bends_from_its_root_and_shades(self, tex):
        grass = Dunes(tex).grass
        first, second = grass.spines(0.0), grass.spines(0.5)
        assert np.abs(first[:, 0] - second[:, 0]).max() == 0
        assert np.abs(first[:, -1] - second[:, -1]).max() > 0.01
        shade = grass.shade([np.array([(-1.0, 9.0), (1.0, 9.0), (1.0, 11.0), (-1.0, 11.0)])])
        assert shade.min() >= 0
        assert shade.max() <= 1
        x0, z0 = grass.corner
        assert shade[int((10 - z0) * 70), int((0 - x0) * 70), 0] > 0.85
