"""The matte rasteriser is exact: its areas against analytic ones, its pixels against a fine grid."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nervykite.core.piece.model import Matte, Node
from nervykite.core.see.matte import pen_path
from nervykite.core.see.matte.combine import grow, matte_alpha, soften
from nervykite.core.see.matte.coverage import coverage
from nervykite.core.see.matte.distance import distance_outside

from ..conftest import box

places = st.floats(-15, 75, allow_nan=False)
handles = st.tuples(st.floats(-60, 60), st.floats(-60, 60))


def shoelace(points) -> float:
    x, y = np.asarray(points).T
    return abs(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2


@given(st.lists(st.tuples(places, places), min_size=3, max_size=3))
@settings(max_examples=150, deadline=None)
def test_triangle_inside_has_its_analytic_area(corners):
    inside = [(min(max(x, 0), 60), min(max(y, 0), 60)) for x, y in corners]
    assert coverage(np.array(inside), 60, 60).sum() == pytest.approx(shoelace(inside), abs=2e-3)


@given(st.floats(2.3, 25), st.floats(20, 40), st.floats(20, 40), st.integers(3, 60))
@settings(max_examples=60, deadline=None)
def test_regular_polygon_anywhere(radius, cx, cy, n):
    turn = 2 * np.pi * np.arange(n) / n
    points = np.stack([cx + radius * np.cos(turn), cy + radius * np.sin(turn)], -1)
    clipped_free = points.min() >= 0 and points.max() <= 64
    area = n / 2 * radius**2 * math.sin(2 * math.pi / n)
    if clipped_free:
        assert coverage(points, 64, 64).sum() == pytest.approx(area, abs=2e-3)


def test_each_pixel_against_a_fine_grid():
    rng = np.random.default_rng(3)
    for _ in range(6):
        points = rng.uniform(-6, 26, (3, 2))
        fine = 40
        step = (np.arange(20 * fine) + 0.5) / fine
        x, y = np.meshgrid(step, step)
        sides = []
        for (ax, ay), (bx, by) in zip(points, np.roll(points, -1, 0), strict=True):
            sides.append((bx - ax) * (y - ay) - (by - ay) * (x - ax) > 0)
        inside = np.all(sides, 0) | ~np.any(sides, 0)
        expected = inside.reshape(20, fine, 20, fine).mean((1, 3))
        assert np.abs(coverage(points, 20, 20) - expected).max() < 0.03


def test_box_with_parts_of_pixels():
    alpha = coverage(np.array([[2.25, 1.5], [5.75, 1.5], [5.75, 3.5], [2.25, 3.5]]), 6, 8)
    assert alpha[2, 3] == 1
    assert alpha[1, 3] == pytest.approx(0.5)
    assert alpha[1, 2] == pytest.approx(0.375)
    assert alpha[2, 5] == pytest.approx(0.75)
    assert alpha.sum() == pytest.approx(3.5 * 2)


def test_outside_the_frame_is_cut_off_and_covers_what_lies_right_of_it():
    assert coverage(np.array([[-50.0, -50], [100, -50], [100, 100], [-50, 100]]), 12, 10).min() == 1
    assert coverage(np.array([[20.0, 0], [30, 0], [30, 12]]), 12, 10).max() == 0


def test_curve_is_as_round_as_a_circle():
    k = 0.5522847498 * 20
    nodes = [
        Node(x=50, y=30, arrive=(-k, 0), leave=(k, 0)),
        Node(x=70, y=50, arrive=(0, -k), leave=(0, k)),
        Node(x=50, y=70, arrive=(k, 0), leave=(-k, 0)),
        Node(x=30, y=50, arrive=(0, k), leave=(0, -k)),
    ]
    area = coverage(pen_path.flatten(nodes), 100, 100).sum()
    assert area == pytest.approx(math.pi * 400, rel=5e-4)
    assert pen_path.bounds(nodes) == pytest.approx((30, 30, 70, 70), abs=0.05)

    assert pen_path.svg_path(nodes).startswith("M50 30 C")
    assert pen_path.svg_path(nodes).endswith("Z")


@given(st.lists(st.tuples(places, places), min_size=3, max_size=7), st.floats(-4, 4), st.floats(0, 9), st.booleans())
@settings(max_examples=40, deadline=None)
def test_matte_stays_within_bounds(corners, by, soft, invert):
    from nervykite.core.piece.model import Shape

    piece = Shape(nodes=[Node(x=x, y=y) for x, y in corners])
    matte = Matte(pieces=[piece], grow=by, soften_in=soft, soften_out=soft, invert=invert)
    alpha = matte_alpha(matte, 60, 60)
    assert alpha.dtype == np.float32
    assert alpha.min() >= 0
    assert alpha.max() <= 1
    nothing = Matte(pieces=[piece, piece.model_copy(update={"combine": "cut away"})])
    assert matte_alpha(nothing, 60, 60).max() == 0


def test_grow_and_shrink_move_the_edge_by_what_they_say():
    alpha = matte_alpha(Matte(pieces=[box(20, 20, 60, 60)]), 80, 80)
    for by in (3, 2.5, -4):
        moved = grow(alpha, by)
        assert moved[40].sum() == pytest.approx(40 + 2 * by, abs=0.01)
    back = grow(grow(alpha, 6), -6)
    assert back.sum() == pytest.approx(alpha.sum(), rel=0.01)


def test_soften_keeps_the_middle_of_the_edge():
    alpha = matte_alpha(Matte(pieces=[box(-50, -50, 40, 150)]), 80, 80)
    soft = soften(alpha, 12, 12)
    assert soft[40, 39] + soft[40, 40] == pytest.approx(1, abs=0.02)
    assert soft[40, 30] > 0.97
    assert 0.6 < soft[40, 37] < 0.95


def test_distance_is_finer_than_a_pixel():
    for edge in (20.0, 20.25, 20.6):
        alpha = matte_alpha(Matte(pieces=[box(-9, -9, edge, 99)]), 60, 60)
        far = distance_outside(alpha)
        assert far[30, 35] == pytest.approx(35.5 - edge, abs=0.06)
    assert distance_outside(np.zeros((4, 4))).min() > 1e5


@given(
    st.lists(
        st.builds(Node, x=places, y=places, arrive=st.just((0.0, 0.0)) | handles, leave=st.just((0.0, 0.0)) | handles),
        min_size=2,
        max_size=6,
    )
)
@settings(max_examples=80)
def test_bounds_touch_the_curve(nodes):
    points = pen_path.flatten(nodes, 0.002)
    assert pen_path.bounds(nodes) == pytest.approx((*points.min(0), *points.max(0)), abs=0.01)
