"""Nervy Kite: hold a frame, cut the subject out of it, and fly the cutout over moving footage."""

__version__ = "0.1.0"
