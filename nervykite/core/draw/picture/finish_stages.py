"""Finishes put on: pictures go through a chain of them, stage by stage, each kept as long as there is room.

Moving the slider of the last finish does not run those before it; what changes by itself makes only its own stage and
those after it anew.
"""

import math
from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np

from ...common.kept import Kept
from ...craft.finishing.extent import seen_box
from ...kinds.sources.picture import Patch
from ...piece.model.finish import Stage
from .draws import Worn

STAGE_BYTES = 400_000_000
"""How much stages may hold before those used least go."""

Stages = Kept[Patch]
"""Pictures between two finishes, as R'G'B'A."""


def stage_cache() -> Stages:
    """A cache for stages, to be shared by renderers."""
    return Kept(STAGE_BYTES, lambda patch: 0 if patch.rgba is None else patch.rgba.nbytes)


Room = tuple[int, int, int, int]
"""So many pixels on the left, above, on the right, below."""


def room(worn: Worn, size: tuple[int, int], stage: Stage) -> Room:
    """The number of pixels a finish needs on each side of a picture (w, h), even; at most as many as the canvas is
    long.
    """
    reach = worn.look.reach((size[0] / stage.scale, size[1] / stage.scale))
    most = max(stage.canvas)
    left, top, right, bottom = (
        2 * math.ceil(min(max(0.0, side) * stage.scale, most) / 2)
        for side in (reach if isinstance(reach, tuple) else (reach,) * 4)
    )
    return left, top, right, bottom


def dressed(
    patch: Patch, chain: Sequence[Worn], stage: Stage, stages: Stages | None = None, key: object = None
) -> Patch:
    """A patch, as R'G'B'A, with finishes on; it grows by as much as they draw beyond it.

    stage: says the scale and the canvas; with a cache, and a key that stands for the patch, what is known is not made
    again.
    """
    keys = [(key, stage.scale, *chain[: n + 1]) for n in range(len(chain))]
    known = 0
    for n in range(len(chain), 0, -1):
        found = stages.peek(keys[n - 1]) if stages is not None else None
        if found is not None:
            known, patch = n, found
            break
    for n in range(known, len(chain)):
        look, moment = chain[n]
        assert patch.rgba is not None
        more = (0, 0, 0, 0) if stage.opaque else room(chain[n], patch.rgba.shape[1::-1], stage)
        left, top = patch.left - more[0], patch.top - more[1]
        rgba = look.dress(padded(patch.rgba, more), replace(stage, left=left, top=top, moment=moment))
        patch = Patch(left, top, rgba=np.ascontiguousarray(rgba, np.float32))
        patch = trimmed(patch) if any(more) else patch
        if stages is not None:
            stages[keys[n]] = patch
    return patch


RIM = 2
"""Free pixels that stay around a picture."""


def trimmed(patch: Patch) -> Patch:
    """A patch without the free room around what is seen, but for a rim; its corner stays on even numbers."""
    assert patch.rgba is not None
    h, w = patch.rgba.shape[:2]
    seen = seen_box(patch.rgba, 0.0)
    if seen is None:
        return Patch(patch.left, patch.top, rgba=patch.rgba[: 2 * RIM, : 2 * RIM].copy())
    left, top = (max(0, (first - RIM) // 2 * 2) for first in seen[:2])
    right, bottom = (min(n, (past + 1 + RIM) // 2 * 2) for n, past in ((w, seen[2]), (h, seen[3])))
    part = np.ascontiguousarray(patch.rgba[top:bottom, left:right])
    return Patch(patch.left + left, patch.top + top, rgba=part)


def padded(rgba: np.ndarray, room: Room) -> np.ndarray:
    """A picture with so many free pixels more on its sides."""
    left, top, right, bottom = room
    return cv2.copyMakeBorder(rgba, top, bottom, left, right, cv2.BORDER_CONSTANT) if any(room) else rgba
