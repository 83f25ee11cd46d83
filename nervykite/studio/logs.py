"""The log: in the data folder, never larger than a few megabytes."""

import logging
from logging.handlers import RotatingFileHandler
from pathlib import Path

LARGEST, KEPT = 1_000_000, 4
"""How many bytes a file of it has at most, and how many older ones are kept."""


def log_file(folder: Path) -> Path:
    """Where a data folder's log lies."""
    return folder / "log" / "nervykite.log"


def log_to(folder: Path) -> None:
    """Has what happens written to a data folder's log. Raises OSError if it cannot be."""
    path = log_file(folder)
    path.parent.mkdir(parents=True, exist_ok=True)
    handler = RotatingFileHandler(path, maxBytes=LARGEST, backupCount=KEPT, encoding="utf-8")
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    for name in ("nervykite", "uvicorn.error"):
        logger = logging.getLogger(name)
        logger.addHandler(handler)
        logger.setLevel(logging.INFO)
