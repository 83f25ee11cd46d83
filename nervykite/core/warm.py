"""Compiles the kernels once, so that nobody waits for them later: `python -m nervykite.core.warm`."""

import numpy as np

from .footage.colour import HLG, tone_map
from .footage.planes import from_rgb, to_bgr
from .matte.coverage import coverage
from .picture.draw import Placed, draw
from .picture.sprite import pack_rgba


def main() -> None:
    """Calls every kernel with a small picture; numba keeps what it compiled on disk."""
    planes = from_rgb(np.zeros((16, 16, 3), np.float32))
    to_bgr(planes)
    tone_map(np.zeros((4, 4, 3), np.uint16), HLG, True)
    coverage(np.array([[1.0, 1], [9, 2], [4, 9]]), 16, 16)
    draw(planes, [Placed(pack_rgba(2, 2, np.ones((8, 8, 4), np.float32)), np.diag([1.1, 1.1, 1.0]))])


if __name__ == "__main__":
    main()
