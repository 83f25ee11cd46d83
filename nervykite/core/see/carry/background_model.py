"""Backdrop: what is known of the scene behind a subject, gathered on the way through a reel."""

import functools

import cv2
import numpy as np
from numba import njit, prange

from ...common.aside import side_by_side
from ..scene.difference import beyond
from .fields import blended
from .reel import Larger, laid

QUIET = 4.0
"""Levels by which a scene varies as long as nothing else is known."""

Known = tuple[np.ndarray, np.ndarray, np.ndarray]
"""The scene at a frame, uint8 (h, w, 3); where it is known, and how much it varies, in levels: float32 (h, w)."""


def behind_of(matte: np.ndarray) -> np.ndarray:
    """Where a frame surely shows the scene and not the subject: float32 (h, w), 0 or 1."""
    return (cv2.dilate(matte, np.ones((9, 9), np.uint8)) < 0.08).astype(np.float32)


def first_seen(rgb: np.ndarray, matte: np.ndarray) -> Known:
    """The scene as one frame shows it."""
    return rgb, behind_of(matte), np.full(matte.shape, QUIET, np.float32)


def noisier(noise: np.ndarray, rgb: np.ndarray, scene: np.ndarray, where: np.ndarray) -> np.ndarray:
    """The noise of the scene, with another frame of it: rising fast, falling slowly."""
    apart = cv2.blur(beyond(rgb, scene, scene), (5, 5))
    out = np.empty_like(noise)
    _mix(noise, apart, where, out)
    return out


@njit(parallel=True, cache=True, nogil=True)
def _mix(noise, apart, where, out):
    height, width = noise.shape
    for y in prange(height):
        for x in range(width):
            was = noise[y, x]
            share = np.float32(0.4) if apart[y, x] > was else np.float32(0.07)
            out[y, x] = was + share * (apart[y, x] - was) if where[y, x] > 0 else was


def scenes_of(
    reel: Larger, mattes: dict[int, np.ndarray], low: int, high: int, begun: dict[tuple[int, int], Known]
) -> dict[int, Known]:
    """For each frame the scene behind the subject: what was seen before and what is seen after, or the mean of both.

    begun: what was known on the way where followers went on from a trail, by frame and direction.
    """
    before, after = side_by_side(
        functools.partial(_seen_on_the_way, reel, mattes, by, order, begun.get((order[0], by)))
        for by, order in ((1, range(low, high + 1)), (-1, range(high, low - 1, -1)))
    )
    result = {}
    for k in range(low, high + 1):
        found = [way[k] for way in (before, after) if k in way]
        if not found:
            unknown = np.zeros(mattes[k].shape, np.float32)
            found = [(reel.rgb[k], unknown, unknown + QUIET)]
        scene, seen, noise = found[0]
        if len(found) > 1:
            other, then, stirs = found[1]
            weight = np.maximum(seen + then, 1e-3)
            scene, seen, noise = blended(scene, other, then / weight), np.minimum(weight, 1), np.maximum(noise, stirs)
        result[k] = scene, seen, noise
    return result


def _seen_on_the_way(
    reel: Larger, mattes: dict[int, np.ndarray], by: int, order: range, begun: Known | None
) -> dict[int, Known]:
    """The scene as it is known at each frame, coming from one end of the range."""
    found: dict[int, Known] = {}
    if begun is None:
        scene, seen, noise = first_seen(reel.rgb[order[0]], mattes[order[0]])
    else:
        scene, seen, noise = map(reel.grown, begun)
    for k in order[1:]:
        camera = reel.step(k - by, by)
        scene, seen, noise = (laid(p, camera, reel.working) for p in (scene, seen, noise))
        found[k] = scene, seen, noise
        behind = behind_of(mattes[k])
        noise = noisier(noise, reel.rgb[k], scene, behind * (seen > 0.5))
        # Most of what is remembered stays: one frame's mistake must not become the scene.
        share = np.where(seen > 0.5, np.float32(0.25), np.float32(1)) * behind
        scene, seen = blended(scene, reel.rgb[k], share), np.maximum(seen, behind)
    return found
