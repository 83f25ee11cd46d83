"""Finishes: steps of restyling. One file a family; a file registers what it holds, and nothing else changes."""

from . import blur, outline

__all__ = ["blur", "outline"]
