"""What moves as a help for marks."""

import numpy as np
import pytest

from nervykite.core.see.find import marks, motion_cue
from nervykite.core.see.scene.stirring import stirring

from .scenes import blob, composed, overlap, texture


@pytest.fixture(autouse=True)
def _nobody(monkeypatch):
    """The person finder sees nobody, unless a test says otherwise."""
    monkeypatch.setattr(motion_cue, "person_hint", lambda *_: None)


def drawn(*strokes: marks.Stroke, size: tuple[int, int]) -> np.ndarray:
    return marks.draw(list(strokes), *size)


def camouflaged(count: int = 13) -> tuple[list[np.ndarray], list[np.ndarray]]:
    """Somebody who walks before a place of the same colours, and their alphas."""
    place, cloth = texture(240, 260, (130, 135, 120), 4, 22), texture(240, 260, (130, 135, 120), 9, 22)
    alphas = [blob(240, 260, 50 + 9 * n, 120, 50) for n in range(count)]
    shifted = [np.roll(cloth, 9 * n, 1) for n in range(count)]
    return [composed(a, c, place, 1.5, n) for n, (a, c) in enumerate(zip(alphas, shifted, strict=True))], alphas


KEEP = marks.Stroke(np.array([[104.0, 90.0], [104.0, 150.0]]), 8)
DROP = [marks.Stroke(np.array([[x, 30.0], [x, 210.0]]), 8) for x in (25.0, 200.0)]


class TestMoving:
    def test_somebody_in_the_places_colours_is_found_by_moving(self):
        frames, alphas = camouflaged()
        still = marks.cut_out(frames[6], [KEEP], DROP, lambda *_: None)
        moves = marks.cut_out(frames[6], [KEEP], DROP, motion_cue.joined(lambda: stirring(frames, 6)))
        assert overlap(moves, alphas[6]) > 0.6
        assert overlap(moves, alphas[6]) > overlap(still, alphas[6]) + 0.1

    def hint(self, stirs, keep=KEEP, drop=DROP):
        size = stirs.shape
        return motion_cue.joined(lambda: stirs)(
            np.zeros((*size, 3), np.uint8), drawn(keep, size=size), drawn(*drop, size=size)
        )

    def test_what_moves_elsewhere_has_no_say(self):
        body = blob(240, 260, 104, 120, 50)
        assert self.hint(2 * np.roll(body, 110, 1)) is None
        assert self.hint(np.zeros_like(body)) is None

    def test_somebody_else_who_moves_as_well_is_not_meant(self):
        body = blob(240, 260, 104, 120, 30)
        other = np.roll(body, 110, 1)
        likely = self.hint(3 * np.maximum(body, other))
        assert likely[body > 0.95].mean() > 0.8
        assert likely[other > 0.5].max() < 0.05

    def test_movement_that_drop_strokes_lie_on_has_no_say(self):
        body = blob(240, 260, 104, 120, 50)
        assert self.hint(2 * body, drop=[marks.Stroke(np.array([[110.0, 90.0], [110.0, 150.0]]), 8)]) is None

    def test_without_frames_to_compare_with_it_is_the_person_finder(self, monkeypatch):
        monkeypatch.setattr(motion_cue, "person_hint", lambda *_: "somebody")
        frame = np.zeros((60, 40, 3), np.uint8)
        assert (
            motion_cue.joined(lambda: stirring([frame], 0))(frame, np.zeros((60, 40), bool), np.zeros((60, 40), bool))
            == "somebody"
        )

    def test_both_are_heard_where_both_are_borne_out(self, monkeypatch):
        body = blob(240, 260, 104, 120, 50)
        hat = np.zeros_like(body)
        hat[20:50, 90:120] = 1
        monkeypatch.setattr(motion_cue, "person_hint", lambda *_: np.maximum(body, hat))
        likely = self.hint(3 * body)
        assert likely[body > 0.95].mean() > 0.9
        assert 0.3 < likely[hat > 0.5].mean() < 0.7
