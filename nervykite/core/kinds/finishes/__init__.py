"""Finishes: steps of restyling, one file a family of looks."""
