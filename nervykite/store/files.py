"""Files kept by the hash of what is in them."""

import hashlib
import os
import sqlite3
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO


class Files:
    """Content-addressed files below a folder: written under another name, flushed, then renamed."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._new = folder / "new"
        self._new.mkdir(parents=True, exist_ok=True)

    def path(self, hash_: str) -> Path:
        """Where a file lies."""
        if len(hash_) != 64 or not set(hash_) <= set("0123456789abcdef"):
            raise ValueError("not the hash of a file")
        return self._folder / hash_[:2] / hash_

    def sweep(self) -> None:
        """Removes what a crash left half written. Only when nothing else is at work in the folder."""
        for path in self._new.iterdir():
            path.unlink(missing_ok=True)

    @contextmanager
    def incoming(self) -> Iterator[tuple[BinaryIO, Path]]:
        """A temporary file to write; it is gone after the block unless `keep` took it."""
        handle, name = tempfile.mkstemp(dir=self._new)
        path = Path(name)
        try:
            with os.fdopen(handle, "w+b") as file:
                yield file, path
        finally:
            path.unlink(missing_ok=True)

    def keep(self, connection: sqlite3.Connection, path: Path) -> str:
        """Moves a finished temporary file to its place and records it; returns its hash."""
        digest = hashlib.sha256()
        with path.open("rb") as file:
            while block := file.read(1 << 20):
                digest.update(block)
            os.fsync(file.fileno())
        hash_ = digest.hexdigest()
        target = self.path(hash_)
        size = path.stat().st_size
        if target.exists():
            path.unlink()
        else:
            target.parent.mkdir(exist_ok=True)
            os.replace(path, target)
            folder = os.open(target.parent, os.O_RDONLY)
            try:
                os.fsync(folder)
            finally:
                os.close(folder)
        connection.execute("INSERT OR IGNORE INTO files (hash, size) VALUES (?, ?)", (hash_, size))
        return hash_

    def discard(self, connection: sqlite3.Connection, hash_: str) -> None:
        """Removes a file that no shot uses."""
        used = connection.execute(
            "SELECT 1 FROM shots WHERE ? IN (file, proxy_file, sound_file) LIMIT 1", (hash_,)
        ).fetchone()
        if used is None:
            connection.execute("DELETE FROM files WHERE hash = ?", (hash_,))
            self.path(hash_).unlink(missing_ok=True)
