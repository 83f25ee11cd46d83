"""Lettering: faces, shaping, laying out, painting."""
