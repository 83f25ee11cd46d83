"""Mattes: shapes to coverage, pieces to one alpha."""
