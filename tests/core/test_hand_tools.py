"""Tools of the hand: outlines and SVG, the cling line, strokes that correct, doubt, and the edge's properties."""

import cv2
import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from nervykite.core.common.errors import Refusal
from nervykite.core.piece.model import Matte, Node, Shape
from nervykite.core.see.find.correct import correct
from nervykite.core.see.find.marks import Stroke, draw
from nervykite.core.see.matte import svg_mattes
from nervykite.core.see.matte.cling import Cling
from nervykite.core.see.matte.combine import grow, matte_alpha, smooth, soften
from nervykite.core.see.matte.doubt import doubt
from nervykite.core.see.matte.outline import even_chain, fitted, outlines

from ..conftest import box
from .scenes import blob, composed, overlap, picture, texture


def stroke(*points: tuple[float, float], width: float = 6) -> Stroke:
    return Stroke(np.array(points, float), width)


def ring(height: int = 160, width: int = 140) -> np.ndarray:
    """A disc with a hole: float32 (height, width), 0…1."""
    y, x = np.mgrid[0:height, 0:width] + 0.5
    far = np.hypot(x - 70, y - 80)
    return (np.clip(50.5 - far, 0, 1) * np.clip(far - 19.5, 0, 1)).astype(np.float32)


class TestOutlines:
    def test_a_gap_is_cut_away_and_the_area_stays(self):
        shapes = outlines(ring(), tolerance=0.5)
        assert [(s.name, s.combine) for s in shapes] == [("Outline", "add"), ("Gap", "cut away")]
        drawn = matte_alpha(Matte(pieces=shapes), 160, 140)
        assert overlap(drawn, ring()) > 0.99
        assert max(len(s.nodes) for s in shapes) <= 14  # a circle needs few points

    def test_corners_stay_corners(self):
        square = np.zeros((100, 100), np.float32)
        square[20:80, 30:70] = 1
        (shape,) = outlines(square)
        assert len(shape.nodes) <= 8
        for x, y in ((30, 20), (70, 20), (70, 80), (30, 80)):
            assert min(np.hypot(n.x - x, n.y - y) for n in shape.nodes) < 1.2

    def test_nothing_has_no_outline(self):
        assert outlines(np.zeros((40, 40), np.float32)) == []
        assert outlines(np.full((40, 40), 0.3, np.float32)) == []

    @pytest.mark.parametrize("tolerance", [0.4, 1.0, 3.0])
    def test_fitted_paths_stay_within_their_tolerance(self, tolerance):
        t = np.linspace(0, 2 * np.pi, 80, endpoint=False)
        line = np.stack([100 + (60 + 12 * np.sin(5 * t)) * np.cos(t), 100 + (60 + 12 * np.sin(5 * t)) * np.sin(t)], 1)
        nodes = fitted(even_chain(line), tolerance)
        alpha = matte_alpha(Matte(pieces=[Shape(nodes=nodes)]), 200, 200)
        truth = cv2.fillPoly(np.zeros((200, 200), np.uint8), [np.round((line - 0.5) * 16).astype(np.int32)], 1, shift=4)
        edge = cv2.distanceTransform((cv2.Canny(truth * 255, 50, 100) == 0).astype(np.uint8), cv2.DIST_L2, 5)
        off = (alpha > 0.5) != (truth > 0)
        assert edge[off].max(initial=0) <= tolerance + 1.6


class TestSvg:
    def test_pen_pieces_come_back_as_they_were(self):
        curve = Shape(
            name="Body",
            nodes=[
                Node(x=10, y=12, leave=(8.5, -3)),
                Node(x=60.25, y=20, arrive=(-9, -9), leave=(4, 4)),
                Node(x=40, y=70),
            ],
        )
        hole = box(20, 20, 30, 30, name="Hole", combine="cut away")
        back = svg_mattes.pieces(svg_mattes.document([curve, hole], 100, 80))
        assert [(p.name, p.combine) for p in back] == [("Body", "add"), ("Hole", "cut away")]
        for before, after in zip((curve, hole), back, strict=True):
            assert len(after.nodes) == len(before.nodes)
            for a, b in zip(before.nodes, after.nodes, strict=True):
                assert (a.x, a.y) == pytest.approx((b.x, b.y), abs=1e-3)
                assert a.leave == pytest.approx(b.leave, abs=1e-3)
                assert a.arrive == pytest.approx(b.arrive, abs=1e-3)

    def test_what_is_no_svg_is_said(self):
        with pytest.raises(Refusal):
            svg_mattes.pieces("no svg at all")
        with pytest.raises(Refusal):
            svg_mattes.pieces('<svg xmlns="http://www.w3.org/2000/svg"></svg>')


class TestCling:
    def test_the_line_hugs_an_edge_between_two_clicks(self):
        frame = np.full((200, 200, 3), 60, np.uint8)
        cv2.circle(frame, (100, 100), 60, (210, 190, 60), -1, cv2.LINE_AA)
        line = Cling(frame, 40, 100).to(100, 40)
        assert (line[0] == (40, 100)).all()
        assert (line[-1] == (100, 40)).all()
        assert np.abs(np.hypot(line[:, 0] - 100, line[:, 1] - 100) - 60).max() < 4
        straight = np.hypot(*((line[0] + line[-1]) / 2 - 100))
        assert straight < 45  # the straight way would have cut the corner

    def test_beginning_beside_the_picture_is_said(self):
        with pytest.raises(Refusal, match="begin on the picture"):
            Cling(np.zeros((50, 50, 3), np.uint8), -5, 20)

    def test_far_beyond_its_reach_it_goes_straight(self):
        frame = np.zeros((1400, 60, 3), np.uint8)
        assert len(Cling(frame, 30, 5).to(30, 1390)) == 2


class TestCorrect:
    def test_a_stroke_adds_what_is_missing_and_leaves_the_rest(self):
        frame, alpha = picture()
        before = alpha.copy()
        before[150:] = 0  # the legs are missing
        after = correct(frame, before, [stroke((78, 158), (70, 180)), stroke((104, 160), (112, 182))], [])
        assert overlap(after, alpha) > overlap(before, alpha) + 0.1
        assert np.abs(after - before)[:100].max() < 0.02

    def test_a_drop_stroke_takes_a_part_away(self):
        frame, alpha = picture()
        before = np.maximum(alpha, blob(240, 180, 140, 60, 16))
        after = correct(frame, before, [], [stroke((134, 50), (146, 70), width=10)])
        aside = (blob(240, 180, 140, 60, 16) > 0.5) & (alpha < 0.01)
        assert after[aside].mean() < 0.35
        assert overlap(after, alpha) > overlap(before, alpha)

    def test_a_strokes_own_side_always_wins(self):
        frame, alpha = picture()
        keep, drop = stroke((20, 20), (40, 40)), stroke((88, 100), (92, 140))
        after = correct(frame, alpha, [keep], [drop])
        assert after[draw([keep], 240, 180)].min() == 1
        assert after[draw([drop], 240, 180) & ~draw([keep], 240, 180)].max() == 0

    def test_older_strokes_stay_until_a_newer_one_is_drawn_over_them(self):
        frame, alpha = picture()
        old, across = stroke((88, 90), (92, 150), width=10), stroke((70, 120), (110, 120), width=10)
        after = correct(frame, alpha, [old], [across], newest="drop")
        under = draw([across], 240, 180)
        assert after[under].max() == 0
        assert after[draw([old], 240, 180) & ~under].min() == 1
        other = correct(frame, after, [old, stroke((100, 60), (100, 66))], [across], newest="keep")
        assert other[under].max() == 0  # which of the two was drawn first is not forgotten

    def test_strokes_outside_are_said_and_change_nothing(self):
        frame, alpha = picture()
        with pytest.raises(Refusal, match="outside"):
            correct(frame, alpha, [stroke((500, 500), (510, 510))], [])
        with pytest.raises(Refusal, match="outside"):
            correct(frame, alpha, [stroke((88, 90), (92, 150)), stroke((500, 500), (510, 510))], [], newest="keep")


class TestDoubt:
    def test_is_where_both_sides_look_alike(self):
        alpha = blob(240, 180, 90, 120, 50)
        scene, cloth = texture(240, 180, (120, 150, 90), 1, 6), texture(240, 180, (200, 80, 60), 3, 6)
        cloth[120:] = scene[120:]  # below, the subject is dressed like the place
        unsure = doubt(composed(alpha, cloth, scene), alpha)
        edge = (alpha > 0.2) & (alpha < 0.8)
        assert unsure[130:][edge[130:]].mean() > 3 * unsure[:100][edge[:100]].mean() + 0.1

    def test_a_clear_edge_has_none(self):
        alpha = blob(240, 180, 90, 120, 50)
        white, black = (np.full((240, 180, 3), v, np.float32) for v in (240, 15))
        assert doubt(composed(alpha, white, black), alpha).max() < 0.05


boxes = st.tuples(st.integers(8, 30), st.integers(8, 30), st.integers(34, 56), st.integers(34, 56))


class TestProperties:
    @settings(max_examples=30, deadline=None)
    @given(boxes, st.floats(-4, 4), st.floats(0, 6), st.floats(0, 6), st.floats(0, 5))
    @example((8, 8, 40, 40), 0.0, 5e-324, 0.0, 5e-324)
    def test_a_matte_is_within_0_and_1(self, corners, by, inside, outside, smoothed):
        matte = Matte(pieces=[box(*corners)], grow=by, soften_in=inside, soften_out=outside, smooth=smoothed)
        alpha = matte_alpha(matte, 64, 64)
        assert 0 <= alpha.min() <= alpha.max() <= 1

    @settings(max_examples=30, deadline=None)
    @given(boxes)
    def test_the_inverse_of_the_inverse_is_itself(self, corners):
        plain = matte_alpha(Matte(pieces=[box(*corners)]), 64, 64)
        twice = matte_alpha(Matte(pieces=[box(*corners, invert=True)], invert=True), 64, 64)
        assert np.abs(plain - twice).max() < 1e-6

    @settings(max_examples=30, deadline=None)
    @given(boxes, st.floats(0, 5))
    def test_what_is_cut_away_from_itself_is_gone(self, corners, soft):
        pieces = [box(*corners, soften_out=soft), box(*corners, soften_out=soft, combine="cut away")]
        assert matte_alpha(Matte(pieces=pieces), 64, 64).max() == 0

    @settings(max_examples=30, deadline=None)
    @given(st.floats(20, 40), st.floats(0.5, 6))
    def test_growing_and_shrinking_keeps_the_area_of_a_big_shape_within_two_percent(self, radius, by):
        y, x = np.mgrid[0:120, 0:120] + 0.5
        disc = np.clip(radius + 0.5 - np.hypot(x - 60, y - 60), 0, 1).astype(np.float32)
        assert grow(grow(disc, by), -by).sum() == pytest.approx(disc.sum(), rel=0.02)

    @settings(max_examples=20, deadline=None)
    @given(st.floats(0, 8), st.floats(0, 8))
    def test_softening_both_sides_alike_keeps_the_edge_in_place(self, inside, outside):
        step = np.zeros((40, 80), np.float32)
        step[:, 40:] = 1
        soft = soften(step, inside, outside)[20]
        crossing = np.interp(0.5, soft, np.arange(80))
        assert crossing == pytest.approx(39.5 - (outside - inside) / 2, abs=0.6)
        assert (np.diff(soft) >= -1e-6).all()

    @settings(max_examples=15, deadline=None)
    @given(boxes)
    def test_half_the_size_is_half_the_picture(self, corners):
        whole = matte_alpha(Matte(pieces=[box(*(2 * c for c in corners))], smooth=2.0), 128, 128)
        half = matte_alpha(Matte(pieces=[box(*corners)], smooth=1.0), 64, 64)
        assert np.abs(cv2.resize(whole, (64, 64), interpolation=cv2.INTER_AREA) - half).mean() < 0.02

    def test_smoothing_takes_away_bumps_and_keeps_the_body(self):
        disc = np.zeros((120, 120), np.float32)
        cv2.circle(disc, (60, 60), 40, 1.0, -1, cv2.LINE_AA)
        bumpy = disc.copy()
        bumpy[58:62, 98:106] = 1
        assert smooth(bumpy, 12)[60, 104] < 0.2
        assert overlap(smooth(bumpy, 12), disc) > 0.97
