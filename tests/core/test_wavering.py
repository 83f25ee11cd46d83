"""Other outlines that few strokes may mean."""

import cv2
import numpy as np
import pytest

from nervykite.core.common.errors import Refusal
from nervykite.core.see.find.marks import cut_out
from nervykite.core.see.find.strokes import Stroke
from nervykite.core.see.find.wavering import WaveringSettings, other_outlines

from .scenes import composed, overlap, texture

SIZE = 200, 160
KEEP = [Stroke(np.array([(70.0, 60.0), (90.0, 60.0)]), 8)]
DROP = [Stroke(np.array([(20.0, 20.0), (20.0, 60.0)]), 8)]


def nobody(*_: object) -> None:
    """A finder that sees nobody."""


def two_in_one() -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A body and what hangs below it, about in its colours: the picture, the body, and both; alpha float32 (h, w)."""
    body, both = np.zeros(SIZE, np.uint8), np.zeros(SIZE, np.uint8)
    for mask in (body, both):
        cv2.ellipse(mask, (80, 60), (34, 30), 0, 0, 360, 255, -1)
    cv2.rectangle(both, (74, 86), (86, 170), 255, -1)
    body, both = (cv2.GaussianBlur(m.astype(np.float32) / 255, (0, 0), 0.8) for m in (body, both))
    cloth = texture(*SIZE, (200, 90, 70), 3, 6)
    cloth[90:] = texture(*SIZE, (165, 100, 90), 4, 6)[90:]
    return composed(both, cloth, texture(*SIZE, (120, 130, 120), 1, 6)), body, both


def test_a_body_with_what_hangs_on_it_or_without():
    picture, body, both = two_in_one()
    answered = cut_out(picture, KEEP, DROP, nobody)
    assert overlap(answered, both) > 0.95
    (other,) = other_outlines(picture, KEEP, DROP, nobody, answered)
    assert overlap(other, body) > 0.95


def test_every_proposal_is_another_outline_that_keeps_to_the_strokes():
    picture, _, _ = two_in_one()
    answered = cut_out(picture, KEEP, DROP, nobody)
    told: list[float] = []
    # All leans are wide apart, so that the picture need not waver much.
    settings = WaveringSettings(leans=(-2.0, -1.0, 1.0, 2.0), same=0.97)
    others = other_outlines(picture, KEEP, DROP, nobody, answered, report=told.append, settings=settings)
    assert 1 <= len(others) <= 2
    every = [answered, *others]
    for n, one in enumerate(every):
        assert one.shape == SIZE
        assert one[60, 70:90].min() == 1
        assert one[20:60, 20].max() == 0
        for other in every[:n]:
            assert ((one > 0.5) != (other > 0.5)).sum() > 0.02 * (other > 0.5).sum()
    assert told == sorted(told)


def test_what_is_clear_has_no_other_outline():
    alpha = np.zeros(SIZE, np.float32)
    alpha[30:90, 50:110] = 1
    picture = composed(alpha, texture(*SIZE, (220, 40, 40), 3, 3), texture(*SIZE, (40, 60, 220), 1, 3))
    assert other_outlines(picture, KEEP, DROP, nobody, cut_out(picture, KEEP, DROP, nobody)) == []


def test_it_stops_when_nobody_waits_for_it():
    picture, _, both = two_in_one()

    def gone(share: float) -> None:
        raise Refusal("Gone.")

    with pytest.raises(Refusal, match="Gone"):
        other_outlines(picture, KEEP, DROP, nobody, both, report=gone)
