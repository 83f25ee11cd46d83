"""Where there is something to see."""

from numba import njit


@njit(cache=True, nogil=True, fastmath=True)
def seen(rgba, hardly, cover):
    """Left, top, right, bottom of what is more than hardly, by alpha, or by any of the four; zeros if nothing is."""
    h, w = rgba.shape[:2]
    left, top, right, bottom = w, h, 0, 0
    for r in range(h):
        row = rgba[r]
        for c in range(w):
            p = row[c]
            most = p[3] if cover else max(max(p[0], p[1]), max(p[2], p[3]))
            if most > hardly:
                left = min(left, c)
                right = max(right, c + 1)
                top = min(top, r)
                bottom = r + 1
                break
        for c in range(w - 1, right - 1, -1):
            p = row[c]
            most = p[3] if cover else max(max(p[0], p[1]), max(p[2], p[3]))
            if most > hardly:
                right = c + 1
                break
    return left, top, right, bottom
