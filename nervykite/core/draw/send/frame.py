"""A frame on its way out: opaque planes, or a picture with alpha, each as the other when a format asks for it."""

from functools import cached_property

import numpy as np

from ...common.colour import rgb_of
from ...see.footage.planes import Planes
from ..picture.opened import closed, opened
from .straight import straight


class Frame:
    """A frame of even size, of planes or of premultiplied R'G'B'A (float32, (h, w, 4)) over a colour."""

    def __init__(self, planes: Planes | None = None, rgba: np.ndarray | None = None, background: str = "#000000"):
        if (planes is None) == (rgba is None):
            raise ValueError("a frame is planes or a picture with alpha")
        self._planes, self._rgba, self._background = planes, rgba, background

    @property
    def size(self) -> tuple[int, int]:
        """Width and height."""
        if self._planes is not None:
            return self._planes.size
        assert self._rgba is not None
        return self._rgba.shape[1], self._rgba.shape[0]

    @cached_property
    def planes(self) -> Planes:
        """All of it opaque."""
        if self._planes is not None:
            return self._planes
        assert self._rgba is not None
        return closed(self._rgba, rgb_of(self._background))

    def straight(self, dtype: type = np.uint8) -> np.ndarray:
        """Colours as they are apart from alpha: R'G'B'A, uint8 or uint16 (h, w, 4).

        Where nothing is seen it has the colour of what is near, or none.
        """
        return straight(self._rgba if self._rgba is not None else opened(self.planes), dtype)
