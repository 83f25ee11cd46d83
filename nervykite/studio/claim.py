"""One server a data folder: a lock that the system lets go of however the program ends."""

import fcntl
import os
from pathlib import Path

from ..core.common.errors import Refusal


class Claim:
    """Holds a folder for the one program that serves it. Others may read beside it, and export."""

    def __init__(self, folder: Path) -> None:
        self._file = (folder / "nervykite.lock").open("a+")
        try:
            fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            self._file.seek(0)
            who = self._file.read().strip()
            self._file.close()
            by = f" (process {who})" if who.isdigit() else ""
            raise Refusal(
                f"Nervy Kite is already running on this data folder{by}. Use that one, end it first, or give another"
                " folder with --data."
            ) from error
        self._file.truncate(0)
        self._file.write(str(os.getpid()))
        self._file.flush()

    def release(self) -> None:
        """Lets the folder go."""
        self._file.close()
