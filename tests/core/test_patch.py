"""One patch followed: where it goes, how it grows and turns, and that it is found again."""

import cv2
import numpy as np
import pytest

from nervykite.core.common.errors import Refusal
from nervykite.core.see.scene.patch import follow_patch
from tools.bench.cameras import ground

W, H, REF = 270, 480, 20


def badge(frames: int = 40, hidden: range = range(0), noise: float = 2.0, seed: int = 4, light: float = 0.0):
    """Frames, uint8 (h, w), in which a patch of 64×52 pixels goes about, grows and turns; and how it lies, (3, 3)."""
    rng = np.random.default_rng(seed)
    back, worn = ground(rng, 600)[:H, :W], ground(np.random.default_rng(seed + 5), 512)
    made, lies = [], []
    for n in range(frames):
        size, turn = 1 + 0.25 * np.sin(n / 9), 0.5 * np.sin(n / 8)
        cos, sin = size * np.cos(turn), size * np.sin(turn)
        own = np.array([[cos, -sin, 80 + 3 * n], [sin, cos, 200 + 60 * np.sin(n / 6)], [0, 0, 1]])
        seen = cv2.warpPerspective(worn, own @ np.array([[1, 0, -256], [0, 1, -256], [0, 0, 1.0]]), (W, H))
        y, x = np.mgrid[:H, :W]
        inner = np.linalg.inv(own) @ np.stack([x.ravel(), y.ravel(), np.ones(W * H)])
        there = ((np.abs(inner[0]) < 32) & (np.abs(inner[1]) < 26)).reshape(H, W).astype(np.float32)
        there = cv2.GaussianBlur(there, (0, 0), 0.7) * (n not in hidden)
        frame = (1 + light * n / frames) * (back * (1 - there) + seen * there) + rng.normal(0, noise, (H, W))
        made.append(np.clip(frame, 0, 255).astype(np.uint8))
        lies.append(own)
    return made, lies


def box_at(lies: np.ndarray) -> tuple[float, float, float, float]:
    """A box well inside the patch."""
    (x, y), size = lies[:2, 2], float(np.hypot(*lies[:2, 0]))
    return x - 24 * size, y - 20 * size, x + 24 * size, y + 20 * size


def off(way, lies) -> np.ndarray:
    """How far the patch's points are from where they belong in the held frame, in pixels, for each frame: (n,)."""
    points = np.array([[-20, 20, 0], [-15, 15, 0], [1, 1, 1.0]])
    found = []
    for one, own in zip(way.frames, lies, strict=True):
        there = one.matrix @ own @ points
        found.append(np.sqrt(((there[:2] / there[2] - (lies[REF] @ points)[:2]) ** 2).sum(0).mean()))
    return np.array(found)


@pytest.mark.parametrize(("noise", "light"), [(2.0, 0.0), (6.0, 0.0), (2.0, -0.5)])
def test_it_is_followed_with_its_size_and_turn(noise, light):
    made, lies = badge(noise=noise, light=light)
    way = follow_patch(made.__getitem__, range(40), REF, box_at(lies[REF]))
    assert np.median(off(way, lies)) < 0.4
    assert off(way, lies).max() < 1.2
    assert min(f.confidence for f in way.frames) > 0.5
    assert way.model == "similarity"


def test_it_is_found_again():
    made, lies = badge(hidden=range(8, 14))
    way = follow_patch(made.__getitem__, range(40), REF, box_at(lies[REF]))
    lost = [n for n, f in enumerate(way.frames) if f.confidence == 0]
    assert lost == list(range(8, 14))
    assert np.delete(off(way, lies), lost).max() < 1.2
    # While it was not seen it went evenly from the one place to the other.
    there = np.array([(np.linalg.inv(f.matrix) @ [*lies[REF][:2, 2], 1])[:2] for f in way.frames])
    assert np.abs(np.diff(there[8:13], 2, axis=0)).max() < 1e-6


def test_a_patch_that_stands_stays():
    picture = cv2.GaussianBlur(ground(np.random.default_rng(1), 300), (0, 0), 1).astype(np.uint8)
    way = follow_patch(lambda n: picture, range(5), 2, (100, 120, 150, 160))
    for one in way.frames:
        assert np.allclose(one.matrix, np.eye(3), atol=1e-6)


def test_what_holds_nothing_is_refused():
    plain = np.full((100, 100), 90, np.uint8)
    with pytest.raises(Refusal, match="nothing in that patch"):
        follow_patch(lambda n: plain, range(5), 2, (10, 10, 50, 50))
    with pytest.raises(Refusal, match="too small"):
        follow_patch(lambda n: plain, range(5), 2, (10, 10, 13, 50))
