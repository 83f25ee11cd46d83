"""Blend modes: B(Cb, Cs) of W3C Compositing and Blending Level 1, 10.1 and 10.2, as compiled formulas in float32.

A separable mode has a formula of one channel of backdrop and source, a non-separable one a formula of all three.
Kernels get a mode by its place among `MODES` and ask `blended`; `plus-lighter` (Level 2) is a way of compositing and
has no formula.
"""

from collections.abc import Callable

import numpy as np
from numba import njit

from ...piece.model.blend import MODES, BlendMode

formula = njit(nogil=True, inline="always")
"""How formulas are compiled: into the kernels that use them."""
# Whole numbers in a formula would make it one of doubles.
ZERO, HALF, ONE, TWO, FOUR, TWELVE, SIXTEEN = (np.float32(n) for n in (0, 0.5, 1, 2, 4, 12, 16))


@formula
def normal(b, s):
    """Cs."""
    return s


@formula
def multiply(b, s):
    """Cb × Cs."""
    return b * s


@formula
def darken(b, s):
    """The lesser of Cb and Cs."""
    return min(b, s)


@formula
def color_burn(b, s):
    """1 − min(1, (1 − Cb) / Cs)."""
    if b >= ONE:
        return ONE
    return ZERO if s <= ZERO else ONE - min(ONE, (ONE - b) / s)


@formula
def screen(b, s):
    """Cb + Cs − Cb × Cs."""
    return b + s - b * s


@formula
def lighten(b, s):
    """The greater of Cb and Cs."""
    return max(b, s)


@formula
def color_dodge(b, s):
    """The lesser of 1 and Cb / (1 − Cs)."""
    if b <= ZERO:
        return ZERO
    return ONE if s >= ONE else min(ONE, b / (ONE - s))


@formula
def overlay(b, s):
    """Hard light with Cb and Cs the other way round."""
    return TWO * s * b if b <= HALF else s + (TWO * b - ONE) - s * (TWO * b - ONE)


@formula
def soft_light(b, s):
    """Cb − (1 − 2 Cs) × Cb × (1 − Cb) for a dark Cs, else Cb + (2 Cs − 1) × (D(Cb) − Cb)."""
    if s <= HALF:
        return b - (ONE - TWO * s) * b * (ONE - b)
    d = ((SIXTEEN * b - TWELVE) * b + FOUR) * b if b <= HALF * HALF else np.sqrt(b)
    return b + (TWO * s - ONE) * (d - b)


@formula
def hard_light(b, s):
    """Multiply of Cb and 2 Cs for a dark Cs, else screen of Cb and 2 Cs − 1."""
    return TWO * b * s if s <= HALF else b + (TWO * s - ONE) - b * (TWO * s - ONE)


@formula
def difference(b, s):
    """The amount by which Cb and Cs differ."""
    return abs(b - s)


@formula
def exclusion(b, s):
    """Cb + Cs − 2 × Cb × Cs."""
    return b + s - TWO * b * s


@formula
def clipped(x):
    """A value within 0…1."""
    return min(max(x, np.float32(0)), np.float32(1))


@formula
def lum(r, g, b):
    """Lum(C)."""
    return np.float32(0.3) * r + np.float32(0.59) * g + np.float32(0.11) * b


@njit(cache=True, nogil=True)
def with_lum(r, g, b, level):
    """SetLum(C, l), with ClipColor."""
    d = level - lum(r, g, b)
    r, g, b = r + d, g + d, b + d
    low, high = min(r, min(g, b)), max(r, max(g, b))
    level = lum(r, g, b)
    if low < 0:
        share = level / (level - low)
        r, g, b = level + (r - level) * share, level + (g - level) * share, level + (b - level) * share
    if high > 1:
        share = (1 - level) / (high - level)
        r, g, b = level + (r - level) * share, level + (g - level) * share, level + (b - level) * share
    return r, g, b


@njit(cache=True, nogil=True)
def with_sat(r, g, b, sat):
    """SetSat(C, s)."""
    low, high = min(r, min(g, b)), max(r, max(g, b))
    if high <= low:
        return np.float32(0), np.float32(0), np.float32(0)
    share = sat / (high - low)
    return (r - low) * share, (g - low) * share, (b - low) * share


@njit(cache=True, nogil=True)
def hue(br, bg, bb, sr, sg, sb):
    """SetLum(SetSat(Cs, Sat(Cb)), Lum(Cb))."""
    r, g, b = with_sat(sr, sg, sb, max(br, max(bg, bb)) - min(br, min(bg, bb)))
    return with_lum(r, g, b, lum(br, bg, bb))


@njit(cache=True, nogil=True)
def saturation(br, bg, bb, sr, sg, sb):
    """SetLum(SetSat(Cb, Sat(Cs)), Lum(Cb))."""
    r, g, b = with_sat(br, bg, bb, max(sr, max(sg, sb)) - min(sr, min(sg, sb)))
    return with_lum(r, g, b, lum(br, bg, bb))


@njit(cache=True, nogil=True)
def color(br, bg, bb, sr, sg, sb):
    """SetLum(Cs, Lum(Cb))."""
    return with_lum(sr, sg, sb, lum(br, bg, bb))


@njit(cache=True, nogil=True)
def luminosity(br, bg, bb, sr, sg, sb):
    """SetLum(Cb, Lum(Cs))."""
    return with_lum(br, bg, bb, lum(sr, sg, sb))


SEPARABLE: dict[BlendMode, Callable] = {
    "multiply": multiply, "darken": darken, "color-burn": color_burn, "screen": screen, "lighten": lighten,
    "color-dodge": color_dodge, "overlay": overlay, "soft-light": soft_light, "hard-light": hard_light,
    "difference": difference, "exclusion": exclusion,
}  # fmt: skip
"""The formulas of one channel."""
NON_SEPARABLE: dict[BlendMode, Callable] = {
    "hue": hue, "saturation": saturation, "color": color, "luminosity": luminosity,
}  # fmt: skip
"""The formulas of all channels at once; these modes are the last of `MODES`."""
PLUS_LIGHTER = MODES.index("plus-lighter")
FIRST_NON_SEPARABLE = min(MODES.index(mode) for mode in NON_SEPARABLE)


def _of_channel(formulas: dict[BlendMode, Callable], otherwise: Callable) -> Callable:
    """A compiled function (mode, b, s) of some formulas, and of `otherwise` for all other modes."""

    def either(place: int, one: Callable, others: Callable) -> Callable:
        @formula
        def choose(mode, b, s):
            if mode == place:
                return one(b, s)
            return others(mode, b, s)

        return choose

    @formula
    def last(mode, b, s):
        return otherwise(b, s)

    found: Callable = last
    for mode in reversed(formulas):
        found = either(MODES.index(mode), formulas[mode], found)
    return found


separable = _of_channel(SEPARABLE, normal)


@njit(cache=True, nogil=True)
def non_separable(mode, br, bg, bb, sr, sg, sb):
    """B(Cb, Cs) of a mode that looks at all channels at once."""
    if mode == FIRST_NON_SEPARABLE:
        return hue(br, bg, bb, sr, sg, sb)
    if mode == FIRST_NON_SEPARABLE + 1:
        return saturation(br, bg, bb, sr, sg, sb)
    if mode == FIRST_NON_SEPARABLE + 2:
        return color(br, bg, bb, sr, sg, sb)
    return luminosity(br, bg, bb, sr, sg, sb)


@njit(cache=True, nogil=True)
def blended(mode, br, bg, bb, sr, sg, sb):
    """B(Cb, Cs) of a mode, by its place in `MODES`: red, green and blue."""
    if mode >= FIRST_NON_SEPARABLE:
        r, g, b = non_separable(mode, br, bg, bb, sr, sg, sb)
    else:
        r, g, b = separable(mode, br, sr), separable(mode, bg, sg), separable(mode, bb, sb)
    return r, g, b
