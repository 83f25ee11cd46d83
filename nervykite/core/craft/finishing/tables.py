"""Pictures through tables of colours."""

import numpy as np

from ...see.footage.cube_lut import CubeLut


def through_table(rgba: np.ndarray, table: CubeLut, amount: float = 1.0) -> np.ndarray:
    """A premultiplied R'G'B'A picture, float32 (h, w, 4), through a table, to an amount, 0…1.

    Between the entries of a 3D table it goes by the tetrahedron that a colour lies in (Kasson, Plouffe and Nin 1993).
    """
    from .compiled.table_kernels import apart, together

    rgba = np.ascontiguousarray(rgba, np.float32)
    out, pixels = np.empty_like(rgba), rgba.reshape(-1, 4)
    by = (np.float32(table.size - 1) / (table.high - table.low)).astype(np.float32)
    work = apart if table.sides == 1 else together
    work(pixels, table.values, table.low, by, np.float32(amount), out.reshape(-1, 4))
    return out
