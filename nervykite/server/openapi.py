"""Prints the API's description (OpenAPI 3.1), from which the page's types are made."""

import json
import tempfile
from pathlib import Path

from ..studio import Studio
from .app import create_app


def description() -> dict:
    """The API's description."""
    with tempfile.TemporaryDirectory() as folder:
        studio = Studio(Path(folder))
        try:
            return create_app(studio).openapi()
        finally:
            studio.close()


if __name__ == "__main__":
    print(json.dumps(description(), indent=1))
