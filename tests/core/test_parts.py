"""Parts of a matte that lie apart: crumbs go, and what is less sure is said."""

import cv2
import numpy as np
import pytest

from nervykite.core.see.find.proposal import Proposal
from nervykite.core.see.matte.parts import PartSettings, uneven, without_small_parts

from .scenes import blob, composed, texture

SIZE = 240, 180


def with_disc(x: int, y: int, radius: int) -> tuple[np.ndarray, np.ndarray]:
    """A subject and a disc beside it: the alpha of both, and the disc's, float32 (h, w), 0…1."""
    disc = np.zeros(SIZE, np.uint8)
    cv2.circle(disc, (x, y), radius, 255, -1, cv2.LINE_AA)
    soft = cv2.GaussianBlur(disc.astype(np.float32) / 255, (0, 0), 0.8)
    return np.maximum(blob(*SIZE, 70, 120, 55), soft), soft


@pytest.mark.parametrize(
    ("disc", "kept"),
    [((150, 40, 2), False), ((150, 40, 12), True), ((100, 120, 2), True), ((150, 120, 1), False)],
    ids=["a crumb far off", "somebody small far off", "a hand beside", "a speck"],
)
def test_crumbs_go_by_size_and_by_how_far_off_they_lie(disc, kept):
    whole, part = with_disc(*disc)
    found = without_small_parts(whole, PartSettings(apart=0.03))
    body = part == 0
    assert np.array_equal(found[body], whole[body])
    inside = part > 0.5
    assert found[inside].min() > 0.4 if kept else found[~body].max() == 0


def test_one_part_alone_stays_as_it_is():
    alpha = blob(*SIZE, 70, 120, 55)
    assert without_small_parts(alpha) is alpha
    assert not uneven(alpha, np.ones(SIZE, np.float32))
    assert without_small_parts(np.zeros(SIZE, np.float32)).max() == 0


def test_parts_with_less_evidence_are_told():
    whole, part = with_disc(150, 40, 12)
    assert not uneven(whole, np.full(SIZE, 0.8, np.float32))
    assert uneven(whole, np.where(part > 0.02, 0.2, 0.8).astype(np.float32))


def test_a_pick_has_no_crumbs():
    whole, part = with_disc(150, 40, 2)
    picture = composed(whole, texture(*SIZE, (200, 80, 60), 3), texture(*SIZE, (110, 140, 150), 2))
    proposal = Proposal((whole > 0.5).astype(np.float32), says=np.where(whole > 0.5, 1, -1).astype(np.float32))
    alpha = proposal.matte(picture, 2)
    assert (alpha[whole - part > 0.9] > 0.5).mean() > 0.95
    assert alpha[part > 0.02].max() == 0
    assert not proposal.uneven(alpha)
