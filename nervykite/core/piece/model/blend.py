"""Blend modes, by the names of W3C Compositing and Blending Level 1, and `plus-lighter` of Level 2."""

from typing import Literal, get_args

BlendMode = Literal[
    "normal", "multiply", "darken", "color-burn", "screen", "lighten", "color-dodge", "plus-lighter", "overlay",
    "soft-light", "hard-light", "difference", "exclusion", "hue", "saturation", "color", "luminosity",
]  # fmt: skip
"""How a layer mixes with what lies below it."""

MODES: tuple[BlendMode, ...] = get_args(BlendMode)
GROUPS: dict[str, tuple[BlendMode, ...]] = {
    "Plain": ("normal",),
    "Darker": ("multiply", "darken", "color-burn"),
    "Lighter": ("screen", "lighten", "color-dodge", "plus-lighter"),
    "Contrast": ("overlay", "soft-light", "hard-light"),
    "Against it": ("difference", "exclusion"),
    "Its colour": ("hue", "saturation", "color", "luminosity"),
}
"""What they do to what lies below, in words."""
