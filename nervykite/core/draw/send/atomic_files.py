"""Files that are there whole or not at all."""

import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from ...common.errors import Refusal


@contextmanager
def whole(out: Path) -> Iterator[Path]:
    """Where to write a file that gets its own name once the block is over; if it is left early nothing is changed.

    Raises Refusal if it cannot be written.
    """
    part = out.with_name(f".{out.stem}.part{out.suffix}")
    try:
        yield part
        with part.open("rb") as file:
            os.fsync(file.fileno())
        os.replace(part, out)
    except OSError as error:
        raise Refusal(f"{out.name} cannot be written: {error.strerror or error}. Choose another place.") from error
    finally:
        part.unlink(missing_ok=True)
