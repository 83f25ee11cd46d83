"""Easing, springs, paths and keys."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nervykite.core.common.errors import Refusal
from nervykite.core.piece.model import Bezier, Key, Layer, Pose, Spring, Stay, Steps, Way
from nervykite.core.piece.motion.channels import POSE
from nervykite.core.piece.motion.easing import PRESETS, ease
from nervykite.core.piece.motion.hashed import noise, wander
from nervykite.core.piece.motion.keyed import Keyed, KeyTrack
from nervykite.core.piece.motion.motion_path import PathSegment
from nervykite.core.piece.motion.placing import Placement
from nervykite.core.piece.timeline.timeline import Ties

TIES = Ties(10, 30, 50)


def test_css_values():
    """Points of the CSS curves, as the specification's parametric form gives them."""
    both = Bezier(x1=0.42, y1=0, x2=0.58, y2=1)
    assert ease(both, 0.5) == pytest.approx(0.5, abs=1e-7)
    for t in (0.1, 0.35, 0.8):
        x = 3 * (1 - t) ** 2 * t * 0.25 + 3 * (1 - t) * t * t * 0.25 + t**3
        y = 3 * (1 - t) ** 2 * t * 0.1 + 3 * (1 - t) * t * t * 1.0 + t**3
        assert ease(Bezier(x1=0.25, y1=0.1, x2=0.25, y2=1.0), x) == pytest.approx(y, abs=1e-7)


@given(st.floats(0, 1), st.floats(-2, 3), st.floats(0, 1), st.floats(-2, 3), st.floats(0, 1))
@settings(max_examples=200)
def test_solution_lies_on_the_curve(x1, y1, x2, y2, u):
    value = ease(Bezier(x1=x1, y1=y1, x2=x2, y2=y2), u)
    if u in (0, 1):
        assert value == u
    low, high = min(0, y1, y2) - 1e-6, max(1, y1, y2) + 1e-6
    assert low <= value <= high


def test_presets_begin_and_end_where_they_should():
    for numbers in PRESETS.values():
        curve = Bezier(**dict(zip(("x1", "y1", "x2", "y2"), numbers, strict=True)))
        assert ease(curve, 0) == 0
        assert ease(curve, 1) == 1


def at(keys, channel, frame):
    source = {"kind": "hold", "hold": "0" * 16}
    layer = Layer(name="x", source=source, over="0" * 16, arrangement="trail", keys=keys, pose=Pose(position=(3, 4)))
    return Keyed(layer, TIES).value(channel, frame)


def key(tie, offset, value, **easing):
    curve = Stay() if easing.get("kind") == "stay" else Bezier()
    return Key(channel="rotation", tie=tie, offset=offset, value=[value], easing=curve)


def test_values_between_before_and_after_keys():
    keys = [key("start", 0, 10), key("landing", 0, 30), key("end", -5, 0, kind="stay"), key("end", 0, 90)]
    read = {f: at(keys, "rotation", f)[0] for f in (0, 10, 20, 30, 45, 49, 50, 99)}
    assert read == {0: 10, 10: 10, 20: 20, 30: 30, 45: 0, 49: 0, 50: 90, 99: 90}


def test_the_pose_counts_without_keys():
    assert at([], "scale", 5) == [1]
    assert at([key("start", 0, 4)], "position", 5) == [3, 4]


def test_the_later_of_two_keys_on_one_frame_counts():
    keys = [key("start", 20, 1), key("landing", 0, 2)]
    assert at(keys, "rotation", 30) == [2]


@pytest.mark.parametrize(
    ("channel", "value"), [("position", [1.0]), ("scale", [1.0, 2.0]), ("opacity", [1.5]), ("scale", [-1.0])]
)
def test_impossible_values_are_refused(channel, value):
    with pytest.raises(Refusal, match=channel.capitalize()):
        POSE[channel].checked(value)


class TestSteps:
    @pytest.mark.parametrize(
        ("jump", "values"),
        [
            ("end", [0, 0.25, 0.5, 0.75, 1]),
            ("start", [0.25, 0.5, 0.75, 1, 1]),
            ("none", [0, 1 / 3, 2 / 3, 1, 1]),
            ("both", [0.2, 0.4, 0.6, 0.8, 1]),
        ],
    )
    def test_as_css_defines_them(self, jump, values):
        steps = Steps(count=4, jump=jump)
        assert [ease(steps, u) for u in (0, 0.25, 0.5, 0.75, 1)] == pytest.approx(values)
        assert ease(steps, 0.49) == ease(steps, 0.26)

    def test_without_a_jump_at_either_end_there_are_two(self):
        with pytest.raises(ValueError, match="at least two"):
            Steps(count=1, jump="none")


class TestSprings:
    @pytest.mark.parametrize(("stiffness", "damping", "mass"), [(170, 14, 1), (90, 40, 2), (100, 20, 1), (300, 4, 0.5)])
    def test_it_obeys_the_equation(self, stiffness, damping, mass):
        """m·x'' + c·x' + k·(x − 1) = 0, by differences, until the last quarter."""
        spring, seconds, h = Spring(stiffness=stiffness, damping=damping, mass=mass), 2.0, 1e-4

        def x(t):
            return ease(spring, t / seconds, seconds)

        for t in np.linspace(0.05, 1.4, 12):
            pull = mass * (x(t + h) - 2 * x(t) + x(t - h)) / h**2 + damping * (x(t + h) - x(t - h)) / (2 * h)
            assert pull + stiffness * (x(t) - 1) == pytest.approx(0, abs=0.02 * stiffness / 100 + 1e-2)
        assert (x(0), x(seconds)) == (0, 1)
        assert x(h) == pytest.approx(0, abs=1e-4)

    @given(st.floats(1, 900), st.floats(0, 60), st.floats(0.1, 9), st.floats(0.05, 5))
    @settings(max_examples=100)
    def test_it_rests_on_its_last_frame_whatever_it_is(self, stiffness, damping, mass, seconds):
        spring = Spring(stiffness=stiffness, damping=damping, mass=mass)
        assert ease(spring, 1, seconds) == 1
        assert abs(ease(spring, 1 - 1e-6, seconds) - 1) < 1e-3


class TestPaths:
    def test_a_straight_stretch_is_as_long_as_it_is(self):
        line = PathSegment((0, 0), (10, 0), (80, 0), (300, 0))
        assert line.length == pytest.approx(300, abs=1e-6)
        # Handles lie unevenly, and yet it is gone along evenly.
        assert [line.at(s)[0] for s in (0, 0.25, 0.5, 1)] == pytest.approx([0, 75, 150, 300], abs=1e-4)

    def test_a_parabola_is_as_long_as_the_integral_says(self):
        """The quadratic (0,0) (1,2) (2,0), raised to a cubic: y = 2x − x², of length √5 + asinh(2)/2."""
        curve = PathSegment((0, 0), (2 / 3, 4 / 3), (4 / 3, 4 / 3), (2, 0))
        assert curve.length == pytest.approx(math.sqrt(5) + math.asinh(2) / 2, abs=1e-7)
        x, y = curve.at(0.5)
        assert (x, y) == pytest.approx((1, 1), abs=1e-6)

    def test_a_quarter_of_a_circle(self):
        k = 4 / 3 * (math.sqrt(2) - 1) * 100
        arc = PathSegment((100, 0), (100, k), (k, 100), (0, 100))
        assert arc.length == pytest.approx(50 * math.pi, rel=3e-4)
        for share in np.linspace(0, 1, 9):
            x, y = arc.at(share)
            assert math.atan2(y, x) == pytest.approx(share * math.pi / 2, abs=1.5e-3)
        assert arc.heading(0) == pytest.approx(math.pi / 2)
        assert arc.heading(1) == pytest.approx(math.pi)

    def test_beyond_its_ends_it_goes_straight_on(self):
        arc = PathSegment((0, 0), (0, 50), (50, 100), (100, 100))
        x, y = arc.at(1.1)
        assert (x, y) == pytest.approx((100 + 0.1 * arc.length, 100))

    def test_where_a_handle_lies_on_its_key_the_way_is_still_known(self):
        arc = PathSegment((0, 0), (0, 0), (60, 80), (60, 80))
        assert arc.heading(0) == pytest.approx(math.atan2(80, 60), abs=1e-6)


def place(frame, x, y, bend=None, **easing):
    return Key(channel="position", tie="start", offset=frame, value=[x, y], bend=bend, easing=Bezier(**easing))


class TestTracks:
    def test_a_bent_path_is_gone_along_evenly(self):
        track = KeyTrack([place(0, 0, 0, (0, 0, 0, 90)), place(20, 100, 100, (-90, 0, 0, 0))], Ties(0, 0, 20))
        steps = [math.dist(track.value(f), track.value(f + 1)) for f in range(20)]
        assert max(steps) / min(steps) < 1.01
        assert sum(steps) == pytest.approx(track.length, rel=3e-3)

    def test_one_journey_passes_the_keys_between_when_their_length_comes(self):
        keys = [place(0, 0, 0), place(2, 30, 0), place(20, 120, 0)]
        apart, whole = KeyTrack(keys, Ties(0, 0, 20)), KeyTrack(keys, Ties(0, 0, 20), way=Way(whole=True))
        assert apart.value(2) == [30, 0]
        assert [whole.value(f)[0] for f in (0, 5, 10, 20)] == pytest.approx([0, 30, 60, 120])

    def test_a_spring_goes_by_seconds(self):
        keys = [
            Key(channel="scale", tie="start", offset=0, value=[0.0], easing=Spring()),
            Key(channel="scale", tie="start", offset=60, value=[1.0]),
        ]
        slow, fast = KeyTrack(keys, Ties(0, 0, 60), rate=30), KeyTrack(keys, Ties(0, 0, 60), rate=60)
        assert slow.value(6)[0] == pytest.approx(fast.value(12)[0])
        assert slow.value(60) == [1.0]

    def test_turning_along_its_path_it_is_upright_where_it_lands(self):
        keys = [place(0, 0, 0, (0, 0, 0, 90)), place(20, 100, 100, (-90, 0, 0, 0))]
        source = {"kind": "hold", "hold": "0" * 16}
        layer = Layer(name="x", source=source, over="0" * 16, arrangement="arrival", keys=keys, way=Way(turns=True))
        keyed = Keyed(layer, Ties(0, 20, 20))
        assert keyed.placement(20).turn == pytest.approx(0, abs=1e-9)
        assert keyed.placement(0).turn == pytest.approx(90)


class TestPlacing:
    @given(
        st.tuples(st.floats(-300, 300), st.floats(-300, 300)), st.floats(0.05, 9), st.floats(-9, 9),
        st.floats(-179, 179), st.floats(-70, 70), st.tuples(st.floats(-500, 500), st.floats(-500, 500)),
    )  # fmt: skip
    @settings(max_examples=200)
    def test_there_and_back(self, position, width, height, turn, shear, anchor):
        if abs(height) < 0.05:
            height = 0.05
        matrix = Placement(position, width, height, turn, shear).matrix(anchor)
        again = Placement.of(matrix, anchor).matrix(anchor)
        assert np.abs(matrix - again).max() < 1e-6

    def test_upright_lines_lean_to_the_left(self):
        matrix = Placement(shear=45).matrix((0, 0))
        assert (matrix @ [0, -10, 1])[:2] == pytest.approx([-10, -10])


class TestChance:
    def test_the_same_each_time_in_any_order(self):
        times = np.linspace(-40, 90, 500)
        backwards = np.array([noise(times[n : n + 1], 7)[0] for n in reversed(range(500))])[::-1]
        assert (noise(times, 7) == backwards).all()
        assert np.abs(noise(times, 7) - noise(times, 8)).max() > 0.2

    def test_it_is_smooth_and_stays_within_its_bounds(self):
        times = np.linspace(0, 400, 80_001)
        for values in (noise(times, 3), wander(times, 3, 1)):
            assert np.abs(values).max() <= 1
            assert np.abs(values).max() > 0.4
            assert np.abs(np.diff(values)).max() < 0.1
            assert abs(values.mean()) < 0.05
