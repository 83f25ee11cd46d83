"""Keeping documents: SQLite through plain SQL, and files by their content."""
