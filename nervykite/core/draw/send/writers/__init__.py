"""Formats that a piece can be sent as, one file each."""
