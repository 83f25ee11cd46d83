"""A trail: what following a subject leaves behind, so that one who begins where it ended goes on as if in one go."""

from dataclasses import dataclass

import numpy as np

from .background_model import Known, first_seen
from .crumbs import CrumbSettings, least_piece
from .sight import Sight
from .template_matching import Likeness, LikenessSettings

ALIKE = 0.98
"""The overlap of a matte with the one that was answered where a trail ended, from which on it goes on from there."""


@dataclass(frozen=True)
class Memory:
    """The memory of a subject that was followed to a frame, uint8 RGB (h, w, 3), with a matte, float32 (h, w).

    The matte is the one that was answered there, if that was asked for, and not the one on the way, which settles once
    more: who corrects it since wants the rest to be forgotten. least: how many pixels a piece of it has at least, as in
    the fixed frame, see `least_piece`.
    """

    rgb: np.ndarray
    matte: np.ndarray
    scene: Known
    likeness: Likeness
    sight: Sight
    least: float

    @classmethod
    def of(
        cls, rgb: np.ndarray, matte: np.ndarray, likeness: LikenessSettings = LikenessSettings(),
        crumbs: CrumbSettings = CrumbSettings(),
    ) -> "Memory":  # fmt: skip
        """Of the first frame, at which nothing else has been seen."""
        like, least = Likeness(rgb, matte, likeness), least_piece(matte, crumbs)
        return cls(rgb, matte, first_seen(rgb, matte), like, Sight(rgb, matte), least)

    def is_of(self, rgb: np.ndarray, matte: np.ndarray) -> bool:
        """True if it is of that frame, and of a matte that nobody has changed much since."""
        both = np.minimum(self.matte, matte).sum(), np.maximum(self.matte, matte).sum()
        return bool(both[0] > ALIKE * both[1] and np.array_equal(self.rgb, rgb))


Trail = dict[int, Memory]
"""What is known where followers ended that went forwards (1) and backwards (-1)."""
