"""The proposals of picks."""

from dataclasses import dataclass

import cv2
import numpy as np

from ...common.errors import Refusal
from ..matte.matting import with_edge
from ..matte.parts import uneven, without_small_parts
from .refine import refined

SAYS = 0.6
"""How much movement counts when the outline is laid onto edges."""


@dataclass(frozen=True)
class Proposal:
    """A subject found, before its edge is solved.

    found: float32 (h, w), 0…1, almost everywhere 0 or 1; warnings: sentences for the person; says: float32 (h, w),
    about -1…1, what else than colours speaks for each pixel, if anything does.
    """

    found: np.ndarray
    warnings: tuple[str, ...] = ()
    says: np.ndarray | None = None

    def outline(self, picture: np.ndarray) -> np.ndarray:
        """The subject in a picture uint8 RGB (h, w, 3) of full size: float32 (h, w), 0…1.

        If more than colours speaks for it, it is laid onto edges by that as well.
        """
        fine = self.found if self.says is None else refined(picture, self.found, SAYS * self.says)
        return cv2.resize(fine, picture.shape[1::-1], interpolation=cv2.INTER_LINEAR)

    def matte(self, picture: np.ndarray, reach: float) -> np.ndarray:
        """The subject with its edge, see `outline` and `with_edge`, without small parts that lie apart.

        Raises Refusal if nothing is left of it.
        """
        # What was laid onto edges already is no better for being traced as well.
        alpha = with_edge(picture, self.outline(picture), reach, trace=self.says is None)
        if alpha.max() <= 0.5:
            raise Refusal("What stands out in this frame is too small to be cut out. Use marks, or pick another frame.")
        return without_small_parts(alpha)

    def uneven(self, alpha: np.ndarray) -> bool:
        """True if parts of its matte, float32 (h, w), 0…1, are much less sure than the largest one; see `parts`."""
        return self.says is not None and uneven(alpha, cv2.resize(self.says, alpha.shape[::-1]))
