"""How finely sound is sampled."""

RATE = 48_000
"""Samples a second."""
