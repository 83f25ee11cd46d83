"""The cut: the outline that agrees best with every pixel's leaning and runs along edges."""

import numpy as np
from numba import njit, prange


def minimal_cut(
    leaning: np.ndarray, tie: np.ndarray, start: np.ndarray | None = None, steps: int = 300, enough: float = 2e-3
) -> np.ndarray:
    """Minimises Σ tie·|∇u| − leaning·u over u in 0…1.

    The convex form of a minimum cut (Chan, Esedoğlu and Nikolova 2006): its minimum, thresholded anywhere, is a
    best cut, and unlike a cut in a grid graph it does not prefer straight lines. Solved by Chambolle and Pock's
    primal-dual steps (2011). `leaning` (h, w): how much each pixel wants to be subject (> 0) or not (< 0), large
    values are certain; `tie` (h, w): what an edge through the pixel costs; `start` (h, w): a first guess.

    Returns float32 (h, w), 0…1, almost everywhere 0 or 1.
    """
    leaning = np.ascontiguousarray(leaning, np.float32)
    tie = np.ascontiguousarray(tie, np.float32)
    u = (leaning > 0).astype(np.float32) if start is None else np.ascontiguousarray(start, np.float32).copy()
    ahead = u.copy()
    px, py = np.zeros_like(u), np.zeros_like(u)
    before = u.copy()
    for step in range(0, steps, 20):
        for _ in range(20):
            _dual(ahead, px, py, tie)
            _primal(u, ahead, px, py, leaning)
        if step and np.abs(u - before).mean() < enough / 20:
            break
        before[:] = u
    return u


STEP = np.float32(0.3535)  # 1/√8: the gradient's norm is at most √8
NONE, WHOLE = np.float32(0), np.float32(1)

# Rows by themselves, and nothing that branches within them: several pixels are then taken at once.


@njit(cache=True, nogil=True, fastmath=True)
def _dual_row(here, below, limit, across, down):
    last = len(here) - 1
    for x in range(last):
        a = across[x] + STEP * (here[x + 1] - here[x])
        b = down[x] + STEP * (below[x] - here[x])
        shorter = min(WHOLE, limit[x] / (np.sqrt(a * a + b * b) + np.float32(1e-12)))
        across[x] = a * shorter
        down[x] = b * shorter
    b = down[last] + STEP * (below[last] - here[last])
    down[last] = max(-limit[last], min(limit[last], b))


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _dual(ahead, px, py, tie):
    h = len(ahead)
    for y in prange(h):
        _dual_row(ahead[y], ahead[min(y + 1, h - 1)], tie[y], px[y], py[y])


@njit(cache=True, nogil=True, fastmath=True)
def _primal_row(across, down, above, counts, leaning, u, ahead):
    before = u[0]
    u[0] = min(WHOLE, max(NONE, before + STEP * (across[0] + down[0] - counts * above[0] + leaning[0])))
    ahead[0] = 2 * u[0] - before
    for x in range(1, len(u)):
        before = u[x]
        flow = across[x] + down[x] - across[x - 1] - counts * above[x]
        after = min(WHOLE, max(NONE, before + STEP * (flow + leaning[x])))
        u[x] = after
        ahead[x] = 2 * after - before


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _primal(u, ahead, px, py, leaning):
    for y in prange(len(u)):
        _primal_row(px[y], py[y], py[max(y - 1, 0)], WHOLE if y > 0 else NONE, leaning[y], u[y], ahead[y])
