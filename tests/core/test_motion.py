"""Easing and keys."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nervykite.core.errors import Refusal
from nervykite.core.model import Easing, Key, Layer, Pose
from nervykite.core.motion.channels import POSE
from nervykite.core.motion.easing import PRESETS, ease
from nervykite.core.motion.keys import Keyed

TIES = {"start": 10, "landing": 30, "end": 50}


def test_css_values():
    """Points of the CSS curves, as the specification's parametric form gives them."""
    both = Easing(x1=0.42, y1=0, x2=0.58, y2=1)
    assert ease(both, 0.5) == pytest.approx(0.5, abs=1e-7)
    for t in (0.1, 0.35, 0.8):
        x = 3 * (1 - t) ** 2 * t * 0.25 + 3 * (1 - t) * t * t * 0.25 + t**3
        y = 3 * (1 - t) ** 2 * t * 0.1 + 3 * (1 - t) * t * t * 1.0 + t**3
        assert ease(Easing(x1=0.25, y1=0.1, x2=0.25, y2=1.0), x) == pytest.approx(y, abs=1e-7)


@given(st.floats(0, 1), st.floats(-2, 3), st.floats(0, 1), st.floats(-2, 3), st.floats(0, 1))
@settings(max_examples=200)
def test_solution_lies_on_the_curve(x1, y1, x2, y2, u):
    value = ease(Easing(x1=x1, y1=y1, x2=x2, y2=y2), u)
    if u in (0, 1):
        assert value == u
    low, high = min(0, y1, y2) - 1e-6, max(1, y1, y2) + 1e-6
    assert low <= value <= high


def test_presets_begin_and_end_where_they_should():
    for numbers in PRESETS.values():
        curve = Easing(**dict(zip(("x1", "y1", "x2", "y2"), numbers, strict=True)))
        assert ease(curve, 0) == 0
        assert ease(curve, 1) == 1


def at(keys, channel, frame):
    source = {"kind": "hold", "hold": "0" * 16}
    layer = Layer(name="x", source=source, over="0" * 16, arrangement="trail", keys=keys, pose=Pose(position=(3, 4)))
    return Keyed(layer, TIES).value(channel, frame)


def key(tie, offset, value, **easing):
    return Key(channel="rotation", tie=tie, offset=offset, value=[value], easing=Easing(**easing))


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
