"""People close together: a detector sees one of them, and the next with that one painted over."""

import cv2
import numpy as np
import pytest

from nervykite.core.see.find import crowd, figures, prior
from nervykite.core.see.find.figures import DrawnFigure, Figure

pytestmark = pytest.mark.network

HIGH, WIDE = 240, 320
ONE, OTHER, THIRD = (
    cv2.ellipse(np.zeros((HIGH, WIDE), np.float32), (x, 130), (18, 52), 0, 0, 360, 1, -1) for x in (120, 165, 214)
)
BRIGHT = 250


def picture_of(*people: np.ndarray) -> np.ndarray:
    """People, bright, before a dark place: uint8 RGB."""
    grey = np.uint8(30 + (BRIGHT - 30) * np.max(people, 0))
    return np.repeat(grey[..., None], 3, 2)


def component(picture: np.ndarray, hips: np.ndarray) -> np.ndarray:
    labels = cv2.connectedComponents((picture[..., 0] > 200).astype(np.uint8))[1]
    return ((labels == labels[int(hips[1]), int(hips[0])]) & (picture[..., 0] > 200)).astype(np.float32)


@pytest.fixture
def one_at_a_time(monkeypatch):
    """A detector that sees only the first of those who are bright, from the left, and draws them as they are."""
    asked = []

    def figures_in(picture, windows, settings):
        asked.append(picture)
        count, _, stats, middles = cv2.connectedComponentsWithStats((picture[..., 0] > 200).astype(np.uint8))
        large = [m for m, s in zip(middles[1:], stats[1:], strict=True) if s[cv2.CC_STAT_AREA] > 400]
        return [Figure(m, m - [0, 50], 0.95) for m in sorted(large, key=lambda m: m[0])[:1]]

    def silhouette(picture, figure, careful=False, settings=None):
        return DrawnFigure(component(picture, figure.hips), np.ones((HIGH, WIDE), np.float32), figure)

    monkeypatch.setattr(crowd, "figures_in", figures_in)
    monkeypatch.setattr(figures, "silhouette", silhouette)
    return asked


class TestPaintedOver:
    def test_nothing_of_who_is_known_is_left_and_nothing_else_is_changed(self):
        picture = picture_of(ONE, OTHER)
        left = crowd.without(picture, ONE)
        assert left[ONE > 0].mean() < 80
        far = cv2.dilate(ONE, np.ones((9, 9), np.uint8)) == 0
        assert (left[far] == picture[far]).all()

    def test_it_is_as_bright_as_what_is_around(self):
        picture = np.full((HIGH, WIDE, 3), 90, np.uint8)
        picture[ONE > 0] = 255
        assert np.abs(crowd.without(picture, ONE).astype(int) - 90)[ONE > 0].max() < 12

    def test_if_all_is_painted_over_it_still_answers(self):
        assert crowd.without(picture_of(ONE), np.ones((HIGH, WIDE), np.float32)).shape == (HIGH, WIDE, 3)


class TestHidden:
    @pytest.mark.usefixtures("one_at_a_time")
    def test_somebody_whom_another_one_hid_is_drawn(self):
        likely = np.maximum(0.9 * ONE, 0.45 * OTHER).astype(np.float32)
        (hidden,) = crowd.hidden(picture_of(ONE, OTHER), likely, ONE)
        assert hidden[OTHER > 0].mean() > 0.9
        assert hidden[OTHER == 0].max() == 0

    @pytest.mark.usefixtures("one_at_a_time")
    def test_what_no_detector_sees_is_not(self):
        likely = np.maximum(0.9 * ONE, 0.45 * OTHER).astype(np.float32)
        assert list(crowd.hidden(picture_of(ONE), likely, ONE)) == []

    def test_where_nobody_is_likely_nobody_is_looked_for(self, one_at_a_time):
        assert list(crowd.hidden(picture_of(ONE, OTHER), (0.9 * ONE).astype(np.float32), ONE)) == []
        assert one_at_a_time == []


class TestMeant:
    """Somebody hidden is only meant if a stroke lies on them."""

    @pytest.mark.usefixtures("one_at_a_time")
    @pytest.mark.parametrize("kept", [ONE, OTHER])
    def test_strokes_say_which_of_two_is_meant(self, monkeypatch, kept):
        monkeypatch.setattr(prior, "likelihood", lambda crop: np.float32(0.5) * (crop[..., 0] > 200))
        monkeypatch.setattr(prior, "figures_in", crowd.figures_in)
        wanted = (cv2.erode(kept, np.ones((21, 21), np.uint8)) > 0).astype(np.int8)
        found = prior.prior(picture_of(ONE, OTHER), None, wanted)
        for somebody in (ONE, OTHER):
            assert (found[somebody > 0].mean() > 0.7) == (somebody is kept)


class TestOneMore:
    MOVES = cv2.dilate(np.max([ONE, OTHER, THIRD], 0), np.ones((25, 25), np.uint8)) > 0

    @pytest.mark.usefixtures("one_at_a_time")
    def test_three_who_move_as_one_are_found_one_after_the_other(self):
        picture, known = picture_of(ONE, OTHER, THIRD), np.zeros((HIGH, WIDE), np.float32)
        for somebody in (ONE, OTHER, THIRD):
            _, (alpha, _, _) = crowd.one_more(picture, self.MOVES, known)
            assert (alpha > 0.5)[somebody > 0].mean() > 0.9
            known = np.maximum(known, alpha)
        assert crowd.one_more(picture, self.MOVES, known) is None

    def test_what_moves_around_somebody_is_theirs(self, one_at_a_time):
        moves = cv2.dilate(ONE, np.ones((9, 9), np.uint8)) > 0
        assert crowd.one_more(picture_of(ONE, OTHER), moves, ONE) is None
        assert one_at_a_time == []

    @pytest.mark.usefixtures("one_at_a_time")
    def test_somebody_beside_what_moves_is_not_in_it(self):
        moves = np.zeros((HIGH, WIDE), bool)
        moves[60:200, 250:300] = True
        assert crowd.one_more(picture_of(ONE), moves, np.zeros((HIGH, WIDE), np.float32)) is None
