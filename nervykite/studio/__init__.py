"""A data folder at work: store and core put together, and the services over it; the same over single files."""

from .studio import Studio, default_folder

__all__ = ["Studio", "default_folder"]
