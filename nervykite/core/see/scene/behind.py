"""The background model: what is known of what lies behind a subject, and how that varies by itself."""

import functools
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numba import njit, prange

from ...common.aside import side_by_side
from .difference import apart, reach
from .restless import restless
from .stack import Stack

NEAR = 5
"""The window, in pixels, within which what sways shows its colours again."""
QUARTERS = 4
"""In how many parts of a shot that is looked for."""
SAME = np.float32(0.65)
"""How much of a difference is not one where the scene sways, if it does so most."""
NONE = np.float32(0)
MOVING, UNSEEN = np.float32(6), np.float32(255)
"""How much more, in levels, what moves in another frame differs, and what that does not see."""


@dataclass(frozen=True)
class Behind:
    """A scene without its subject, and what other frames tell of it, which is worked out once for all frames of a shot.

    plate: uint8 RGB (h, w, 3); noise: how much it varies by itself, levels, float32 (h, w); support: how many frames
    speak for it, float32 (h, w); stack: the frames that it was built from, if it was.
    """

    plate: np.ndarray
    noise: np.ndarray
    support: np.ndarray
    stack: Stack | None = None

    @cached_property
    def sways(self) -> np.ndarray:
        """Where the scene itself shows something else now and then: float32 (h, w), 0…1.

        A subject that passes covers a place for a small part of the shot; leaves and water come back again and again.
        """
        other = np.zeros(self.noise.shape, np.float32)
        if self.stack is None:
            return other
        total = np.maximum(self.stack.valid[1:].sum(0), 1)
        level = (14 + 2.5 * self.noise).astype(np.float32)
        around = reach(self.plate, 3)
        for frame, valid in zip(self.stack.frames[1:], self.stack.valid[1:], strict=True):
            other += (apart(frame, self.plate, around) > level) & valid
        return np.clip((cv2.blur(other / total, (5, 5)) - 0.15) / 0.2, 0, 1)

    @cached_property
    def unrest(self) -> np.ndarray:
        """See `restless`; 0 where no other frames are known."""
        if self.stack is None:
            return np.zeros(self.noise.shape, np.float32)
        return restless(self.plate, self.noise)

    @cached_property
    def _reaches(self) -> tuple[np.ndarray, np.ndarray]:
        """The least and the greatest value near each pixel of the other frames: uint8 (n, h, w, 3) both."""
        assert self.stack is not None
        calls = (functools.partial(reach, frame, NEAR) for frame in self.stack.frames[1:])
        low, high = zip(*side_by_side(calls), strict=True)
        return np.stack(low), np.stack(high)

    def apart(self, frame: np.ndarray) -> np.ndarray:
        """The difference of a frame, uint8 RGB (h, w, 3), to the plate, or to what sways there: levels, (h, w)."""
        differs = apart(frame, self.plate)
        if self.stack is None or len(self.stack.frames) < 2 or not self.sways.any():
            return differs
        low, high = self._reaches
        parts = np.array_split(np.arange(len(low)), min(QUARTERS, len(low)))
        bounds = np.cumsum([0, *map(len, parts)])
        _less_what_sways(frame, low, high, self.stack.moving[1:], self.stack.valid[1:], self.sways, bounds, differs)
        return differs


@njit(parallel=True, cache=True, nogil=True)
def _less_what_sways(frame, low, high, moving, valid, sways, bounds, differs):
    """Brings differences down, as far as it sways, to that to the most alike of the other frames' surroundings.

    What sways shows the same colours near the same place all through the shot; a subject that passes does not: it has
    to be seen in all parts of the shot but one. low, high: (n, h, w, 3); bounds: where each part begins, and the end.
    """
    h, w = differs.shape
    parts = len(bounds) - 1
    for y in prange(h):
        for x in range(w):
            if sways[y, x] <= 0:
                continue
            most = seen = NONE
            for part in range(parts):
                least = UNSEEN
                for k in range(bounds[part], bounds[part + 1]):
                    slack = UNSEEN
                    if valid[k, y, x]:
                        slack = NONE
                        for c in range(3):
                            own = np.float32(frame[y, x, c])
                            slack = max(slack, np.float32(low[k, y, x, c]) - own, own - np.float32(high[k, y, x, c]))
                    least = min(least, slack + (MOVING if moving[k, y, x] else NONE))
                if part == 0 or least > most:
                    most, seen = least, least if part == 0 else most
                elif part == 1 or least > seen:
                    seen = least
            share = SAME * sways[y, x]
            differs[y, x] = min(differs[y, x], differs[y, x] * (np.float32(1) - share) + share * seen)
