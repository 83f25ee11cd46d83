"""Own way: whether what a pixel shows goes on with somebody who passes, or with the scene.

A panning camera and a place that sways need it: without it their movers lose 0.025 and 0.012 of overlap.
"""

import functools
from dataclasses import dataclass

import cv2
import numpy as np
from numba import njit, prange

from ...common.aside import side_by_side
from ..matte.part import around
from .difference import beyond, reach
from .passers import beside, ways
from .stack import Stack


@dataclass(frozen=True)
class OwnWaySettings:
    """The settings by which a passer's way is told from the scene's."""

    enough: int = 5
    """With how many frames after one, and before it, it is compared at most."""
    far: float = 2.5
    """How far from where the scene would have it, px, the passer has to have come to tell them apart."""
    beside: int = 9
    """The window, px, that the passer may reach beyond what was found of it, in other frames."""
    levels: float = 5.0
    """By how many levels the one has to fit better than the other to be nearly certain."""
    sure: int = 7
    """The window, px, in which all has to say the same: what is compared are means, and those reach over edges."""
    margin: int = 40
    """How far around the passer, px, frames are compared."""


def own_way(
    frame: np.ndarray, number: int, stack: Stack, part: np.ndarray, settings: OwnWaySettings = OwnWaySettings()
) -> np.ndarray:
    """The side that a frame goes with at each pixel, what passes (1) or the scene (-1): float32 (h, w), -1…1.

    frame: uint8 RGB (h, w, 3), as the stack's held one sees it, with its number in the shot; part: uint8 (h, w), 0 or
    1, roughly what passes. Other frames are laid onto this one both as the scene lies and as the passer does, and
    what fits better tells. Where both fit, as in an even place, where none does, as at a limb that bends, and where
    no other frame shows the scene, it is about 0.
    """
    result = np.zeros(part.shape, np.float32)
    if not part.any():
        return result
    box = around(part > 0, settings.margin)
    rows, columns = box
    here = np.ascontiguousarray(frame[box])
    x, y = np.meshgrid(np.arange(columns.start, columns.stop), np.arange(rows.start, rows.stop))
    points = np.stack([x, y], 2).astype(np.float32)
    grown = cv2.dilate(part, np.ones((settings.beside, settings.beside), np.uint8))

    def told(onward: list[int]) -> list[np.ndarray]:
        says: list[np.ndarray] = []
        for n, way in ways(frame, part, stack, onward):
            there = cv2.transform(points, way[:2])
            went = cv2.magnitude(*cv2.split(there - points)) > settings.far
            if went.mean() < 0.5:
                continue
            left, top = cv2.split(there)
            own = cv2.remap(stack.frames[n], left, top, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
            seen = cv2.remap(stack.valid[n].astype(np.uint8), left, top, cv2.INTER_NEAREST) > 0
            covered = cv2.warpAffine(grown, way[:2], grown.shape[::-1], flags=cv2.INTER_NEAREST)[box] > 0
            by_scene, by_own = (
                cv2.blur(beyond(here, *reach(np.ascontiguousarray(other), 3)), (5, 5))
                for other in (stack.frames[n][box], own)
            )
            tells = went & seen & stack.valid[n][box] & ~covered
            says.append(np.where(tells, np.tanh((by_scene - by_own) / settings.levels), np.nan))
            if len(says) == settings.enough:
                break
        return says

    both = side_by_side(functools.partial(told, onward) for onward in beside(number, stack))
    says = [word for words in both for word in words]
    if says:
        word = medians(np.stack(says))
        square = np.ones((settings.sure, settings.sure), np.uint8)
        result[box] = np.maximum(0, cv2.erode(word, square)) + np.minimum(0, cv2.dilate(word, square))
    return result


def medians(many: np.ndarray) -> np.ndarray:
    """The median of those of many values, float32 (n, h, w), that are none of nan: float32 (h, w), 0 if all are."""
    out = np.empty(many.shape[1:], np.float32)
    _medians(many.astype(np.float32, copy=False), out)
    return out


@njit(parallel=True, cache=True, nogil=True)
def _medians(many, out):
    n, h, w = many.shape
    for y in prange(h):
        some = np.empty(n, np.float32)
        for x in range(w):
            count = 0
            for k in range(n):
                value = many[k, y, x]
                if not np.isnan(value):
                    at = count
                    while at > 0 and some[at - 1] > value:
                        some[at] = some[at - 1]
                        at -= 1
                    some[at] = value
                    count += 1
            out[y, x] = (some[(count - 1) // 2] + some[count // 2]) / np.float32(2) if count else np.float32(0)
