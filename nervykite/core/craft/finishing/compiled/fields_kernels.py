"""Patterns over a plane: for each pixel how much of the second colour there is, 0…1. Places are canvas pixels from the
pattern's middle; `fine` is how many pixels of the grid a canvas pixel is, by which edges are as soft as a pixel.
"""

import math

import numpy as np
from numba import njit

from .noise_kernels import hashed

TURN = np.float32(2 * math.pi)


@njit(cache=True, nogil=True, fastmath=True, inline="always")
def _step(inside, fine):
    """The coverage of a pixel, given how far inside its middle lies in canvas pixels."""
    return min(max(inside * fine + np.float32(0.5), np.float32(0)), np.float32(1))


@njit(cache=True, nogil=True, fastmath=True, inline="always")
def _direction(v, u):
    """The direction of a place, −π…π, to 1e-5: a minimax polynomial (Abramowitz and Stegun 1964, 4.4.49, refitted)."""
    a, b = abs(u), abs(v)
    most = max(max(a, b), np.float32(1e-9))
    z = min(a, b) / most
    q = z * z
    t = np.float32(0.05265332) - np.float32(0.01172120) * q
    t = np.float32(-0.11643287) + t * q
    t = np.float32(0.19354346) + t * q
    t = np.float32(-0.33262347) + t * q
    t = (np.float32(0.99997726) + t * q) * z
    t = np.float32(math.pi / 2) - t if b > a else t
    t = np.float32(math.pi) - t if u < 0 else t
    return -t if v < 0 else t


@njit(cache=True, nogil=True, fastmath=True, inline="always")
def _smooth(t):
    return t * t * t * (t * (t * 6 - 15) + 10)


@njit(cache=True, nogil=True, fastmath=True)
def line_noise(x, seed, octaves, period):
    """Smooth value noise along a line, −1…1; it comes round after a period of whole steps, if there is one."""
    total = most = np.float32(0)
    weight = np.float32(1)
    for o in range(octaves):
        at = x * (1 << o)
        i = int(np.floor(at))
        f = np.float32(at - i)
        one, two = i, i + 1
        if period:
            one, two = i % (period << o), (i + 1) % (period << o)
        a, b = hashed(one, o, seed), hashed(two, o, seed)
        total += weight * (a + (b - a) * _smooth(f))
        most += weight
        weight *= np.float32(0.5)
    return 2 * total / most - 1


@njit(cache=True, nogil=True, fastmath=True)
def rays(m, count, share, twist, turn, clear, fine, out):
    """Rays from the middle, with a `share` of its sector of `count`, twisted with the logarithm of the distance."""
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            u, v = m[0, 0] * c + m[0, 1] * r + m[0, 2], m[1, 0] * c + m[1, 1] * r + m[1, 2]
            far = max(np.sqrt(u * u + v * v), np.float32(0.01))
            at = (_direction(v, u) + turn) / TURN * count
            if twist != 0:
                at += twist * np.log(far / np.float32(100))
            off = abs(at - np.floor(at) - np.float32(0.5))
            wide = far * TURN / count
            much = _step((share * np.float32(0.5) - off) * wide, fine)
            # Where rays are finer than pixels it is the mean of both.
            mean = min(max(wide * fine - np.float32(0.5), np.float32(0)), np.float32(1))
            much = share + (much - share) * mean
            if clear > 0:
                much *= min(max((far - clear) / max(clear, np.float32(1)), np.float32(0)), np.float32(1))
            out[r, c] = much


@njit(cache=True, nogil=True, fastmath=True)
def speed_lines(m, count, inner, uneven, thick, seed, fine, out):
    """Wedges that run inwards from all around, in `count` sectors, each beginning about `inner` canvas pixels out."""
    cells = int(count)
    # Of each streak where it lies, where it begins, and how wide it is.
    aside, begins, halves = np.empty(cells, np.float32), np.empty(cells, np.float32), np.empty(cells, np.float32)
    for k in range(cells):
        aside[k] = np.float32(0.5) + (hashed(k, 1, seed) - np.float32(0.5)) * np.float32(0.9)
        begins[k] = max(inner * (1 + uneven * (2 * hashed(k, 2, seed) - 1)), np.float32(1))
        halves[k] = thick * (np.float32(0.2) + np.float32(0.8) * hashed(k, 3, seed)) * np.float32(0.5)
    least = begins.min()
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            u, v = m[0, 0] * c + m[0, 1] * r + m[0, 2], m[1, 0] * c + m[1, 1] * r + m[1, 2]
            far = np.sqrt(u * u + v * v)
            if far <= least:
                out[r, c] = 0
                continue
            at = (_direction(v, u) / TURN + np.float32(0.5)) * count
            cell = int(np.floor(at))
            wide = far * TURN / count
            much = np.float32(0)
            # A streak may reach into the cells beside its own.
            for n in range(cell - 1, cell + 2):
                k = n % cells
                if far > begins[k]:
                    # A wedge: a point where it begins, full width after as long again.
                    half = halves[k] * min((far - begins[k]) / begins[k], np.float32(1))
                    much = max(much, _step((half - abs(at - n - aside[k])) * wide, fine))
            out[r, c] = much


@njit(cache=True, nogil=True, fastmath=True)
def dots(m, apart, size, grows, long, shift_x, shift_y, fine, out):
    """Dots in rows set half a step aside, `apart` canvas pixels; they grow along `long` by `grows`."""
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            u, v = m[0, 0] * c + m[0, 1] * r + m[0, 2], m[1, 0] * c + m[1, 1] * r + m[1, 2]
            much = np.float32(0)
            x, y = (u - shift_x) / apart, (v - shift_y) / apart
            row = np.floor(y)
            for n in range(-1, 2):
                # Every other row lies half a step aside.
                aside = np.float32(0.5) * ((row + n) % 2)
                near = np.floor(x - aside) + np.float32(0.5) + aside
                dx, dy = (x - near) * apart, (y - (row + n + np.float32(0.5))) * apart
                along = v / long + np.float32(0.5)
                by = size * (1 + grows * (2 * min(max(along, np.float32(0)), np.float32(1)) - 1))
                much = max(much, _step(by * apart * np.float32(0.5) - np.sqrt(dx * dx + dy * dy), fine))
            out[r, c] = much


@njit(cache=True, nogil=True, fastmath=True)
def stripes(m, wide, share, swing, wave, shift, fine, out):
    """Stripes `wide` canvas pixels apart that take a `share` of that, and swing like a sine of length `wave`."""
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            u, v = m[0, 0] * c + m[0, 1] * r + m[0, 2], m[1, 0] * c + m[1, 1] * r + m[1, 2]
            at = (v - shift + swing * np.sin(TURN * u / wave)) / wide
            off = abs(at - np.floor(at) - np.float32(0.5))
            out[r, c] = _step((share * np.float32(0.5) - off) * wide, fine)


@njit(cache=True, nogil=True, fastmath=True)
def checks(m, wide, shift_x, shift_y, fine, out):
    """Checks, `wide` canvas pixels each."""
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            u, v = m[0, 0] * c + m[0, 1] * r + m[0, 2], m[1, 0] * c + m[1, 1] * r + m[1, 2]
            x, y = (u - shift_x) / wide, (v - shift_y) / wide
            # −1…1 across each edge, and their product is that of the squares.
            a = (np.float32(0.5) - abs(x - 2 * np.floor(x / 2) - 1)) * wide * fine * 2
            b = (np.float32(0.5) - abs(y - 2 * np.floor(y / 2) - 1)) * wide * fine * 2
            a = min(max(a, np.float32(-1)), np.float32(1))
            b = min(max(b, np.float32(-1)), np.float32(1))
            out[r, c] = np.float32(0.5) + np.float32(0.5) * a * b


@njit(cache=True, nogil=True, fastmath=True)
def grid(m, wide, thick, shift_x, shift_y, fine, out):
    """A grid of lines, `thick` canvas pixels each and `wide` apart."""
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            u, v = m[0, 0] * c + m[0, 1] * r + m[0, 2], m[1, 0] * c + m[1, 1] * r + m[1, 2]
            x, y = (u - shift_x) / wide, (v - shift_y) / wide
            a = thick * np.float32(0.5) - abs(x - np.floor(x) - np.float32(0.5)) * wide
            b = thick * np.float32(0.5) - abs(y - np.floor(y) - np.float32(0.5)) * wide
            out[r, c] = max(_step(a, fine), _step(b, fine))


@njit(cache=True, nogil=True, fastmath=True)
def gradient(m, way, long, turn, out):
    """Along a line (way 0), outwards (1) or around (2)."""
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            u, v = m[0, 0] * c + m[0, 1] * r + m[0, 2], m[1, 0] * c + m[1, 1] * r + m[1, 2]
            if way == 0:
                t = u / long + np.float32(0.5)
            elif way == 1:
                t = np.sqrt(u * u + v * v) / long * 2
            else:
                t = _direction(v, u) / TURN + turn
                t -= np.floor(t)
                # There and back, so that it closes without a seam.
                t = 1 - abs(2 * t - 1)
            out[r, c] = min(max(t, np.float32(0)), np.float32(1))


@njit(cache=True, nogil=True, fastmath=True)
def blot(m, size, ragged, splashes, seed, fine, out):
    """A blot, with what it threw off around it."""
    fingers, steps = 14, 4096
    # How far its edge lies from its middle, all around.
    edges = np.empty(steps + 1, np.float32)
    for i in range(steps + 1):
        turn = np.float32(i) / steps
        edge = size * (1 + np.float32(0.35) * ragged * line_noise(turn * 9, seed, 4, 9))
        # Fingers run out of it, thin where they end.
        cell = int(np.floor(turn * fingers))
        for n in range(cell - 1, cell + 2):
            k = n % fingers
            at = n + np.float32(0.5) + (hashed(k, 5, seed) - np.float32(0.5)) * np.float32(0.7)
            long = hashed(k, 6, seed) ** 3 * splashes * size * np.float32(1.3)
            thin = np.float32(0.1) + np.float32(0.16) * hashed(k, 7, seed)
            off = abs(turn * fingers - at) / thin
            if off < 1:
                edge = max(edge, size * np.float32(0.9) + long * (1 - off * off))
        edges[i] = edge
    most = edges.max() + 2
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            u, v = m[0, 0] * c + m[0, 1] * r + m[0, 2], m[1, 0] * c + m[1, 1] * r + m[1, 2]
            far = np.sqrt(u * u + v * v)
            if far > most:
                out[r, c] = 0
                continue
            place = (_direction(v, u) / TURN + np.float32(0.5)) * steps
            i = min(int(place), steps - 1)
            out[r, c] = _step(edges[i] + (place - i) * (edges[i + 1] - edges[i]) - far, fine)


@njit(cache=True, nogil=True, fastmath=True)
def drops(m, size, splashes, count, seed, fine, out):
    """Drops around a blot, put into what is there."""
    # From the grid to the plane and back.
    det = m[0, 0] * m[1, 1] - m[0, 1] * m[1, 0]
    for k in range(count):
        turn = TURN * hashed(k, 11, seed)
        away = size * (np.float32(1.05) + splashes * np.float32(1.25) * hashed(k, 12, seed))
        radius = size * np.float32(0.09) * (np.float32(0.15) + hashed(k, 13, seed) ** 3) * (2 - away / size / 2)
        if radius <= 0:
            continue
        x, y = away * np.cos(turn), away * np.sin(turn)
        dx, dy = x - m[0, 2], y - m[1, 2]
        column, row = (m[1, 1] * dx - m[0, 1] * dy) / det, (-m[1, 0] * dx + m[0, 0] * dy) / det
        reach = radius * fine + 2
        for r in range(max(0, int(row - reach)), min(out.shape[0], int(row + reach) + 2)):
            for c in range(max(0, int(column - reach)), min(out.shape[1], int(column + reach) + 2)):
                u, v = m[0, 0] * c + m[0, 1] * r + m[0, 2], m[1, 0] * c + m[1, 1] * r + m[1, 2]
                far = np.sqrt((u - x) ** 2 + (v - y) ** 2)
                out[r, c] = max(out[r, c], _step(radius - far, fine))


@njit(cache=True, nogil=True, fastmath=True)
def torn(m, high, ragged, rim, seed, fine, paper, edge):
    """A strip of paper with torn edges: where it is, and where its pale rim shows."""
    half, h, w = high * np.float32(0.5), paper.shape[0], paper.shape[1]
    # Along the strip, a step a pixel: where its edges lie, and how broad their rims are; above and below.
    corners = (m[0, 2], m[0, 0] * w + m[0, 2], m[0, 1] * h + m[0, 2], m[0, 0] * w + m[0, 1] * h + m[0, 2])
    first = min(min(corners[0], corners[1]), min(corners[2], corners[3]))
    last = max(max(corners[0], corners[1]), max(corners[2], corners[3]))
    steps = int((last - first) * fine) + 2
    lies, rims = np.empty((2, steps + 1), np.float32), np.empty((2, steps + 1), np.float32)
    for side in range(2):
        for i in range(steps + 1):
            u, s = first + i / fine, seed + 77 * side
            lies[side, i] = half + ragged * line_noise(u / (ragged * 5 + 40), s, 6, 0)
            rims[side, i] = rim * (1 + np.float32(0.5) * line_noise(u / (rim * 2 + 6), s + 5, 3, 0))
    for r in range(h):
        for c in range(w):
            u, v = m[0, 0] * c + m[0, 1] * r + m[0, 2], m[1, 0] * c + m[1, 1] * r + m[1, 2]
            side = 0 if v < 0 else 1
            place = (u - first) * fine
            i = min(max(int(place), 0), steps - 1)
            f = np.float32(place - i)
            inside = lies[side, i] + f * (lies[side, i + 1] - lies[side, i]) - abs(v)
            paper[r, c] = _step(inside, fine)
            edge[r, c] = _step(rims[side, i] + f * (rims[side, i + 1] - rims[side, i]) - inside, fine)


@njit(cache=True, nogil=True, fastmath=True)
def brushed(m, wide, high, rows, dry, drawn, seed, fine, out):
    """Strokes of a brush, one below the other, drawn so far, 0…1 of all of them."""
    bristle = np.float32(2.2)
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            u, v = m[0, 0] * c + m[0, 1] * r + m[0, 2], m[1, 0] * c + m[1, 1] * r + m[1, 2]
            much = np.float32(0)
            for n in range(rows):
                middle = high * (n + np.float32(0.5) - rows * np.float32(0.5)) * np.float32(0.86)
                # They bend a little, each its own way.
                bow = high * np.float32(0.12) * (hashed(n, 21, seed) - np.float32(0.5))
                y = v - middle - bow * (2 * u / wide) ** 2
                if abs(y) > high * np.float32(0.62):
                    continue
                k = int(np.floor(y / bristle))
                hair, off = hashed(k, 22 + n, seed), hashed(k, 52 + n, seed)
                soft = np.float32(0.5) * line_noise(y / 9, seed + n, 3, 0)
                begins = (
                    -wide * np.float32(0.5) * (np.float32(0.94) + np.float32(0.06) * hair + np.float32(0.05) * soft)
                )
                ends = wide * np.float32(0.5) * (np.float32(0.8) + np.float32(0.2) * off + np.float32(0.1) * soft)
                goes = begins, ends
                if n % 2:
                    goes = -ends, -begins
                share = min(max(drawn * rows - n, np.float32(0)), np.float32(1))
                if share <= 0:
                    continue
                along = (u - goes[0]) if n % 2 == 0 else (goes[1] - u)
                long = (goes[1] - goes[0]) * share
                inside = min(along, long - along)
                outer = high * np.float32(0.5) * (1 + np.float32(0.1) * line_noise(u / 60, seed + 9 + n, 4, 0)) - abs(y)
                # Towards its end the brush runs dry, hair by hair.
                worn = along / (goes[1] - goes[0]) - (1 - dry) - np.float32(0.55) * hair
                streak = 1 - min(max(worn * 4 + np.float32(0.6) * line_noise(u / 26 + 9 * hair, seed + k, 2, 0), 0), 1)
                much = max(much, _step(min(inside, outer), fine) * streak)
            out[r, c] = much


@njit(cache=True, nogil=True, fastmath=True)
def coloured(much, colours, out):
    """Premultiplied pixels, given flat, of premultiplied colours (n, 4), from one to the next as a share says."""
    last = colours.shape[0] - 1
    for i in range(much.size):
        place = much[i] * last
        n = min(int(place), last - 1)
        f = place - np.float32(n)
        # Mixed premultiplied, so that what is clear lends no colour.
        for k in range(4):
            out[i, k] = colours[n, k] + f * (colours[n + 1, k] - colours[n, k])
