"""The sample rate of all sound."""

RATE = 48_000
"""Samples a second."""
