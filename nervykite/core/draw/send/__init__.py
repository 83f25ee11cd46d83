"""Sending: frames and sound of a piece, handed to a writer of some format."""
