"""The tracer of edges, and the outlines that it learned from."""

import ast
from pathlib import Path

import cv2
import numpy as np
import pytest

from nervykite.core.see.matte import tracer
from nervykite.core.see.matte.fine import fine_edge
from nervykite.core.see.matte.matting import with_edge
from tools import learn
from tools.learn import camera, traces

from .scenes import picture
from .test_judge import made_up

pytestmark = pytest.mark.learn


@pytest.fixture(scope="module")
def scenes():
    return made_up(10, (480, 270))


def missed(found: np.ndarray, alpha: np.ndarray) -> float:
    """The part of what either covers that only one of them does."""
    one, other = found > 0.5, alpha > 0.5
    return float((one != other).sum() / max(1, (one | other).sum()))


class TestSquares:
    @pytest.mark.parametrize("size", [(64, 64), (65, 200), (300, 70), (200, 200)])
    def test_they_cover_the_line_and_lie_in_the_picture(self, size):
        line = np.zeros(size, bool)
        line[3, :] = line[:, -1] = line[-1, 5] = True
        covered = np.zeros(size, bool)
        for rows, columns in tracer.squares(line):
            assert covered[rows, columns].shape == (tracer.SIDE, tracer.SIDE)
            covered[rows, columns] = True
        assert covered[line].all()

    def test_nothing_is_looked_at_far_from_the_line(self):
        line = np.zeros((400, 400), bool)
        line[200, 200] = True
        assert len(tracer.squares(line)) == 1

    def test_how_far_inside_an_outline_pixels_are(self):
        hard = np.zeros((80, 80), np.uint8)
        hard[20:60, 20:60] = 1
        away = tracer.signed_distance(hard)
        assert away[40, 30] == pytest.approx(11, abs=0.6)
        assert away[40, 15] == pytest.approx(-5, abs=0.6)
        assert away[0, 0] == -tracer.BEYOND
        assert away[40, 40] == tracer.BEYOND


class TestTracing:
    def test_an_outline_that_is_off_comes_nearer_to_the_edge(self, scenes):
        rng, before, after = np.random.default_rng(4), [], []
        for shown, alpha, _ in scenes:
            hard = traces.off(rng, shown, alpha).astype(np.float32)
            seen = tracer.traced(shown, hard)
            assert seen is not None
            before.append(missed(hard, alpha))
            after.append(missed(seen, alpha))
        assert np.mean(after) < 0.75 * np.mean(before)

    def test_the_matte_is_nearer_to_the_truth_than_without(self, scenes):
        rng, without, with_it = np.random.default_rng(5), [], []
        for shown, alpha, _ in scenes:
            hard = traces.off(rng, shown, alpha).astype(np.float32)
            without.append(np.abs(fine_edge(shown, hard) - alpha).sum() / alpha.sum())
            with_it.append(np.abs(with_edge(shown, hard, 10) - alpha).sum() / alpha.sum())
        assert np.mean(with_it) < np.mean(without)

    def test_it_stays_within_bounds_and_near_the_outline(self):
        shown, alpha = picture()
        hard = (cv2.GaussianBlur(alpha, (0, 0), 3) > 0.4).astype(np.float32)
        seen = tracer.traced(shown, hard)
        assert seen is not None
        assert seen.dtype == np.float32
        assert 0 <= seen.min() <= seen.max() <= 1
        far = np.abs(tracer.signed_distance(hard.astype(np.uint8))) > tracer.TRUSTED + 1
        assert np.array_equal(seen[far], hard[far])

    def test_a_large_picture_is_looked_at_smaller(self):
        shown, alpha = (cv2.resize(v, None, fx=6, fy=6) for v in picture())
        seen = tracer.traced(shown, (alpha > 0.5).astype(np.float32))
        assert seen is not None
        assert seen.shape == alpha.shape
        assert missed(seen, alpha) < 0.02

    @pytest.mark.parametrize("size", [(64, 64), (70, 400), (300, 66)])
    @pytest.mark.parametrize("corner", [(0, 0), (-1, -1)])
    def test_a_subject_in_a_corner_is_traced_in_pictures_hardly_larger_than_a_square(self, size, corner):
        shown = np.random.default_rng(8).integers(0, 90, (*size, 3)).astype(np.uint8)
        outline = np.zeros(size, np.float32)
        rows, columns = (slice(0, 22) if at == 0 else slice(-22, None) for at in corner)
        outline[rows, columns] = 1
        shown[rows, columns] += np.uint8(150)
        seen = tracer.traced(shown, outline)
        assert seen is not None
        assert missed(seen, outline) < 0.1

    def test_a_square_is_shown_in_its_own_light_and_contrast(self):
        rng = np.random.default_rng(2)
        square, away = rng.integers(40, 200, (64, 64, 3)).astype(np.uint8), rng.uniform(-16, 16, (64, 64))
        values = tracer.shown(square, away.astype(np.float32))
        plain = (square - square.mean((0, 1))) / (square.astype(float).std() + 8)
        assert values[..., :3] == pytest.approx(plain, abs=0.02)
        assert values[..., 3] == pytest.approx(away / tracer.BEYOND, abs=1e-5)

    @pytest.mark.parametrize("size", [(20, 20), (40, 300)])
    def test_a_picture_smaller_than_a_square_is_solved_as_before(self, size):
        shown = np.random.default_rng(8).integers(0, 255, (*size, 3)).astype(np.uint8)
        outline = np.zeros(size, np.float32)
        outline[5:15, 5:15] = 1
        assert tracer.traced(shown, outline) is None
        assert np.array_equal(with_edge(shown, outline, 10), fine_edge(shown, outline, 10))

    @pytest.mark.parametrize("value", [0.0, 1.0])
    def test_without_an_edge_there_is_nothing_to_trace(self, value):
        shown, outline = np.zeros((90, 90, 3), np.uint8), np.full((90, 90), value, np.float32)
        assert tracer.traced(shown, outline) is None
        assert np.array_equal(with_edge(shown, outline, 10), outline)

    def test_without_the_network_the_edge_is_solved_as_before(self, monkeypatch):
        shown, alpha = picture()
        hard = (alpha > 0.5).astype(np.float32)
        monkeypatch.setattr(tracer, "shipped", lambda file: None)
        assert np.array_equal(with_edge(shown, hard, 10), fine_edge(shown, hard, 10))

    def test_no_fine_edge_is_the_bare_outline(self):
        shown, alpha = picture()
        assert np.array_equal(with_edge(shown, alpha, 0), (alpha > 0.5).astype(np.float32))


class TestTraces:
    def test_squares_lie_along_outlines_that_are_off(self, scenes):
        rng = np.random.default_rng(6)
        shown, alpha, _ = scenes[0]
        made = traces.traces_on(rng, shown, alpha)
        assert len(made) >= traces.FEWEST
        for trace in made:
            assert trace.picture.shape == (tracer.SIDE, tracer.SIDE, 3)
            assert trace.away.dtype == np.int8
            assert np.abs(trace.away).min() <= 2 * traces.UNIT
        assert any(missed(t.away / traces.UNIT + 0.5, t.truth / 255) > 0.02 for t in made)

    def test_what_moves_keeps_its_mass_and_stays_premultiplied(self):
        rng = np.random.default_rng(7)
        alpha = np.zeros((120, 90), np.float32)
        alpha[40:80, 30:60] = 1
        for _ in range(12):
            moved = camera.moved(rng, np.dstack([alpha * 0.5] * 3 + [alpha]))
            assert moved[..., 3].sum() == pytest.approx(alpha.sum(), rel=0.02)
            assert np.allclose(moved[..., 0], 0.5 * moved[..., 3], atol=1e-4)

    def test_the_training_is_for_what_the_tracer_is_shown(self):
        tree = ast.parse((Path(learn.__file__).parent / "train_tracer.py").read_text())
        assigned = {ast.unparse(n.targets[0]): n.value for n in tree.body if isinstance(n, ast.Assign)}
        told = ast.literal_eval(assigned["(SIDE, UNIT, BEYOND)"])
        assert told == (tracer.SIDE, traces.UNIT, tracer.BEYOND)
