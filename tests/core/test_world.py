"""The pieces of the demo world: noise, solids, gait, camera, film."""

import math

import numpy as np
import pytest

from nervykite.demo.world import film, gait, noise, place, props
from nervykite.demo.world.figure import Runner
from nervykite.demo.world.solids import Solid, bounding_sphere, capsule, distance, mask_near, mask_of_ray, sunlight


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


class TestGait:
    def test_mirrored_twice_is_the_pose(self):
        assert gait.mirrored(gait.mirrored(gait.PUSH)) == gait.PUSH
        assert gait.mirrored(gait.LEAP)["hipF"] == gait.LEAP["hipN"]

    def test_nothing_jumps(self):
        times = np.arange(-0.9, 0.9, 0.002)
        poses = [gait.pose_at(t) for t in times]
        rise = np.array([p["rise"] for p in poses])
        assert np.abs(np.diff(rise)).max() < 0.02
        for limb in ("hipN", "kneeN", "hipF", "kneeF", "shoulderN", "elbowF"):
            assert np.abs(np.diff([p[limb] for p in poses])).max() < 9

    def test_in_the_air_only_gravity_acts(self):
        rise = np.array([gait.pose_at(t)["rise"] for t in np.arange(-0.25, 0.0, 0.01)])
        fall = np.diff(rise, 2) / 0.01**2
        assert fall == pytest.approx(np.full(len(fall), -9.95), abs=0.1)

    def test_feet_stay_above_the_ground(self, tex):
        for time in np.linspace(-0.8, 0.8, 30):
            runner = Runner(time, lambda x, z: 0.0)
            rows, *_ = runner.solid.pack()
            low = min((rows[:, 1] - rows[:, 13]).min(), (rows[:, 1] + rows[:, 7] * rows[:, 12] - rows[:, 14]).min())
            assert low > -0.12


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
        assert means[-5] > 200


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

    def test_things_move_and_grass_bends(self, tex):
        camera = film.look_at()
        points, colours = props.moving_things(tex, 0.0, camera)
        later, _ = props.moving_things(tex, 0.4, camera)
        assert points.shape == colours.shape == later.shape
        assert 0.01 < np.abs(points - later).max() < 1.5
        assert colours.min() >= 0
        grass = props.Grass(tex)
        first, second = grass.spines(0.0), grass.spines(0.5)
        assert np.abs(first[:, 0] - second[:, 0]).max() == 0  # rooted
        assert np.abs(first[:, -1] - second[:, -1]).max() > 0.01
        shade = grass.shade()
        assert shade.min() >= 0
        assert shade.max() <= 1
