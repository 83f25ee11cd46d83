"""The cut: the outline that agrees best with every pixel's leaning and runs along edges."""

import numpy as np
from numba import njit, prange


def minimal_cut(
    leaning: np.ndarray, pairwise: np.ndarray, start: np.ndarray | None = None, steps: int = 300, enough: float = 2e-3
) -> np.ndarray:
    """Minimises Σ tie·|∇u| − leaning·u over u in 0…1.

    The convex form of a minimum cut (Chan, Esedoğlu and Nikolova 2006): its minimum, thresholded anywhere, is a
    best cut, and unlike a cut in a grid graph it does not prefer straight lines. Solved by Chambolle and Pock's
    primal-dual steps (2011). `leaning` (h, w): how much each pixel wants to be subject (> 0) or not (< 0), large
    values are certain; `tie` (h, w): what an edge through the pixel costs; `start` (h, w): a first guess.

    Returns float32 (h, w), 0…1, almost everywhere 0 or 1.
    """
    leaning = np.ascontiguousarray(leaning, np.float32)
    pairwise = np.ascontiguousarray(pairwise, np.float32)
    u = (leaning > 0).astype(np.float32) if start is None else np.ascontiguousarray(start, np.float32).copy()
    ahead = u.copy()
    px, py = np.zeros_like(u), np.zeros_like(u)
    before = u.copy()
    for step in range(0, steps, 20):
        for _ in range(20):
            _dual(ahead, px, py, pairwise)
            _primal(u, ahead, px, py, leaning)
        if step and np.abs(u - before).mean() < enough / 20:
            break
        before[:] = u
    return u


STEP = np.float32(0.3535)  # 1/√8: the gradient's norm is at most √8
NONE, WHOLE, TWICE = np.float32(0), np.float32(1), np.float32(2)


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _dual(ahead, px, py, pairwise):
    h, w = ahead.shape
    for y in prange(h):
        # Rows of their own, and nothing that branches within them: several pixels are then taken at once.
        here = ahead[y]
        below = ahead[min(y + 1, h - 1)]
        across = px[y]
        down = py[y]
        limit = pairwise[y]
        for x in range(w - 1):
            a = across[x] + STEP * (here[x + 1] - here[x])
            b = down[x] + STEP * (below[x] - here[x])
            shorter = min(WHOLE, limit[x] / (np.sqrt(a * a + b * b) + np.float32(1e-12)))
            across[x] = a * shorter
            down[x] = b * shorter
        x = w - 1
        b = down[x] + STEP * (below[x] - here[x])
        down[x] = max(-limit[x], min(limit[x], b))


@njit(parallel=True, cache=True, nogil=True, fastmath=True)
def _primal(u, ahead, px, py, leaning):
    h, w = u.shape
    for y in prange(h):
        now = u[y]
        then = ahead[y]
        across = px[y]
        down = py[y]
        above = py[max(y - 1, 0)]
        unary = leaning[y]
        counts = WHOLE if y > 0 else NONE
        before = now[0]
        after = min(WHOLE, max(NONE, before + STEP * (across[0] + down[0] - counts * above[0] + unary[0])))
        now[0] = after
        then[0] = TWICE * after - before
        for x in range(1, w):
            before = now[x]
            flow = across[x] + down[x] - across[x - 1] - counts * above[x]
            after = min(WHOLE, max(NONE, before + STEP * (flow + unary[x])))
            now[x] = after
            then[x] = TWICE * after - before
