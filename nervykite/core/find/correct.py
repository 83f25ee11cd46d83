"""Marks on something found already: a stroke changes what is near it, and nothing else."""

import math
from typing import Literal

import cv2
import numpy as np

from ..errors import Refusal
from ..matte.colours import SPACES, Mixture, lab
from ..matte.edge import with_edge
from .cut import minimal_cut
from .evidence import edges_of, leaning_of, tie_of
from .geodesic import geodesic_distance
from .strokes import Stroke, draw

Side = Literal["keep", "drop"]
PIXELS = 220_000
"""Pixels of a stroke's surroundings at which the cut is made."""


def correct(
    picture: np.ndarray, before: np.ndarray, keep: list[Stroke], drop: list[Stroke], reach: float = 10.0,
    newest: Side | None = None,
) -> np.ndarray:  # fmt: skip
    """A matte with strokes laid over it.

    picture: uint8 RGB (h, w, 3); before: float32 (h, w), 0…1; reach: how far the fine edge may go, px; newest: the
    side whose last stroke is new, the others having led to what was there before. Around the strokes that say
    something new, the cut is made again: what the strokes say counts near them and along the picture, what was there
    before counts elsewhere. A stroke's own side always wins, a newer one's over an older one's; if none is newest, a
    keep stroke's over a drop stroke's. Returns float32 (h, w), 0…1. Raises Refusal if no stroke lies on the picture,
    or the newest does not.
    """
    h, w = before.shape
    inside, outside = draw(keep, h, w), draw(drop, h, w)
    laid = inside | outside if newest is None else draw((keep if newest == "keep" else drop)[-1:], h, w)
    if not laid.any():
        raise Refusal("All marks lie outside the frame. Draw them over the picture.")
    # In which order older strokes were drawn shows in what they led to.
    ours = inside if newest is None else np.where(laid, newest == "keep", before > 0.5)
    inside, outside = inside & (ours | ~outside), outside & ~(inside & ours)
    new = (inside & (before < 0.5)) | (outside & (before > 0.5))
    result = before.astype(np.float32).copy()
    if new.any():
        box = _around(new, h, w)
        alpha = _cut_again(picture[box], before[box], inside[box], outside[box], new[box], reach)
        result[box] = alpha
    result[inside] = 1
    result[outside] = 0
    return result


def _around(new: np.ndarray, h: int, w: int) -> tuple[slice, slice]:
    """The surroundings that a stroke may change: as far again as it is long, and a tenth of the frame at least."""
    rows, columns = np.flatnonzero(new.any(1)), np.flatnonzero(new.any(0))
    pad = round(max(0.11 * math.hypot(h, w), 0.8 * max(np.ptp(rows), np.ptp(columns))))
    top, left = max(0, rows[0] - pad), max(0, columns[0] - pad)
    return slice(top, min(h, rows[-1] + pad + 1)), slice(left, min(w, columns[-1] + pad + 1))


def _cut_again(picture, before, inside, outside, new, reach) -> np.ndarray:
    h, w = before.shape
    by = min(1.0, math.sqrt(PIXELS / (h * w)))
    size = max(8, round(w * by)), max(8, round(h * by))

    def small(mask: np.ndarray) -> np.ndarray:
        return cv2.resize(mask.astype(np.float32), size, interpolation=cv2.INTER_AREA)

    had = small(before)
    keeps, drops, fresh = small(inside) > 0.4, small(outside) > 0.4, small(new) > 0.3
    if not fresh.any():
        fresh = small(new) > 0
    colours = lab(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), SPACES[0])
    edges = edges_of(colours)
    # How much the new strokes have a say: all of it on them, less along the picture, nothing at the window's rim.
    cost = (0.03 + 0.5 * edges / (edges.mean() + 1e-3)).astype(np.float32)
    far = geodesic_distance(fresh, cost)
    straight = cv2.distanceTransform((~fresh).astype(np.uint8), cv2.DIST_L2, 5)
    pad = 0.45 * min(size)
    say = np.exp(-far / (0.35 * max(float(np.median(far)), 1e-3))) * np.clip(1.3 - straight / pad, 0, 1)
    core, rest = (had > 0.9) & ~drops, (had < 0.1) & ~keeps
    sides = [_mixtures(colours, keeps & fresh, core | keeps), _mixtures(colours, drops & fresh, rest | drops)]
    leaning = np.zeros(had.shape, np.float32)
    if sides[0] is not None and sides[1] is not None:
        leaning = leaning_of(colours, sides[0], sides[1])
    nearer_keep = geodesic_distance(keeps & fresh, cost) if (keeps & fresh).any() else np.full(had.shape, 1e9)
    nearer_drop = geodesic_distance(drops & fresh, cost) if (drops & fresh).any() else np.full(had.shape, 1e9)
    toward = np.where(nearer_keep < nearer_drop, 1.0, -1.0)
    spoken = 0.9 * leaning + 0.55 * toward * say
    wish = (1 - say) * 1.1 * (2 * had - 1) + np.minimum(1, 1.6 * say) * spoken
    wish[keeps], wish[drops & ~keeps] = 40, -40
    rim = np.ones(had.shape, bool)
    rim[2:-2, 2:-2] = False
    wish = np.where(rim, 40 * (2 * had - 1), wish).astype(np.float32)
    cut = minimal_cut(wish, tie_of(edges, 1.1), had, 200)
    changed = cv2.resize(np.abs((cut > 0.5).astype(np.float32) - (had > 0.5)), (w, h), interpolation=cv2.INTER_LINEAR)
    outline = np.where(changed > 0.01, cv2.resize(cut, (w, h), interpolation=cv2.INTER_LINEAR), before)
    outline[inside], outline[outside & ~inside] = 1, 0
    if reach <= 0:
        return (outline > 0.5).astype(np.float32)
    # Where the outline stayed, so does its edge.
    spread = 2 * round(reach) + 9
    touched = cv2.dilate((changed > 0.01).astype(np.uint8), np.ones((spread, spread), np.uint8))
    mix = cv2.GaussianBlur(touched.astype(np.float32), (0, 0), 3)
    return with_edge(picture, outline, reach) * mix + before * (1 - mix)


def _mixtures(colours: np.ndarray, stroke: np.ndarray, known: np.ndarray) -> Mixture | None:
    """Colours of a side: half of them those under the new stroke, if there is one."""
    rng = np.random.default_rng(3)
    marked, others = colours[stroke], colours[known]
    if len(marked) < 4:
        return Mixture.of(others, 8) if len(others) > 20 else None
    if len(others) > 20:
        count = max(400, min(len(marked), 3000))
        marked = marked[rng.integers(0, len(marked), count)]
        marked = np.concatenate([marked, others[rng.integers(0, len(others), count)]])
    return Mixture.of(marked, 8)
