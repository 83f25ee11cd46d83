"""Snags: what will look wrong, found before it is sent."""
