"""Footage: reading files, exact frames, colour, proxies."""
