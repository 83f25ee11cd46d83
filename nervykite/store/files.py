"""Files kept by the hash of what is in them, as long as somebody needs them."""

import hashlib
import os
import shutil
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass
from pathlib import Path

from .database import Database
from .owners import NEEDED

GRACE = 3600.0
"""Seconds for which a new file stays without an owner: what was found or sent is put to use by an edit later."""
OLD = "1970-01-01T00:00:00.000Z"


class Incoming:
    """A file on its way in, hashed as it is written, from its beginning to its end."""

    def __init__(self, handle: int, path: Path) -> None:
        self.path, self.size = path, 0
        self._file, self._digest = os.fdopen(handle, "w+b"), hashlib.sha256()
        self._rewritten = False

    def write(self, data: bytes | bytearray | memoryview) -> int:
        """Appends bytes. Raises OSError if they cannot be stored."""
        self._digest.update(data)
        self.size += len(data)
        return self._file.write(data)

    def rewrite(self, at: int, data: bytes) -> None:
        """Overwrites what was written at a place, as headers are; all of it is then read once more for its hash."""
        self._file.seek(at)
        self._file.write(data)
        self._file.seek(0, os.SEEK_END)
        self._rewritten = True

    def flush(self) -> None:
        """Has it read as far as it was written."""
        self._file.flush()

    def close(self) -> None:
        """Ends writing."""
        self._file.close()

    def finish(self) -> str:
        """Has all of it on disk; its hash."""
        self._file.flush()
        os.fsync(self._file.fileno())
        if self._rewritten:
            self._file.seek(0)
            self._digest = hashlib.file_digest(self._file, "sha256")
        self._file.close()
        return self._digest.hexdigest()


@dataclass(frozen=True)
class Given:
    """The amount given back: how many files, and how many bytes."""

    files: int = 0
    bytes: int = 0


class Files:
    """Content-addressed files below a folder: written under another name, flushed, then renamed.

    A file that nobody needs goes, sooner or later: see `collect`. Safe for several threads.
    """

    def __init__(self, folder: Path, database: Database) -> None:
        self._folder, self._database = folder, database
        self._new = folder / "new"
        self._new.mkdir(parents=True, exist_ok=True)
        self._using: Counter[str] = Counter()
        self._placing = threading.Lock()

    def path(self, hash_: str) -> Path:
        """Where a file lies."""
        if len(hash_) != 64 or not set(hash_) <= set("0123456789abcdef"):
            raise ValueError("not the hash of a file")
        return self._folder / hash_[:2] / hash_

    def sweep(self) -> None:
        """Removes what a crash left half written. Only when nothing else is at work in the folder."""
        for path in self._new.iterdir():
            if path.is_dir() and not path.is_symlink():
                shutil.rmtree(path, ignore_errors=True)
            else:
                path.unlink(missing_ok=True)

    @contextmanager
    def scratch(self) -> Iterator[Path]:
        """A folder to work in; gone after the block, and after a crash at the next start."""
        with tempfile.TemporaryDirectory(dir=self._new, ignore_cleanup_errors=True) as folder:
            yield Path(folder)

    @contextmanager
    def incoming(self) -> Iterator[Incoming]:
        """A temporary file to write; it is gone after the block unless `keep` took it."""
        handle, name = tempfile.mkstemp(dir=self._new)
        coming = Incoming(handle, Path(name))
        try:
            yield coming
        finally:
            coming.close()
            coming.path.unlink(missing_ok=True)

    def keep(self, coming: Incoming, stack: ExitStack | None = None) -> str:
        """Moves a written file to its place and records it; returns its hash.

        Nobody needs it yet: it stays until the stack ends, or for a while if there is none.
        """
        hash_ = coming.finish()
        target = self.path(hash_)
        target.parent.mkdir(exist_ok=True)
        with self._placing:
            if not target.exists():
                os.replace(coming.path, target)
                _flush(target.parent)
            with self._database.writing() as connection:
                connection.execute(
                    "INSERT INTO files (hash, size) VALUES (?, ?)"
                    " ON CONFLICT (hash) DO UPDATE SET added = strftime('%Y-%m-%dT%H:%M:%fZ', 'now')",
                    (hash_, coming.size),
                )
            if stack is not None:
                self._using[hash_] += 1
                stack.callback(self._let_go, hash_)
        return hash_

    def _let_go(self, hash_: str) -> None:
        with self._placing:
            self._using[hash_] -= 1
            with self._database.writing() as connection:
                connection.execute("UPDATE files SET added = ? WHERE hash = ?", (OLD, hash_))

    def collect(self, grace: float = GRACE) -> Given:
        """Removes files that nobody needs and that are older than the grace, in seconds."""
        oldest = time.time() - grace
        limit = time.strftime("%Y-%m-%dT%H:%M:%S", time.gmtime(oldest + 1)) if grace > 0 else "9999"
        given = Given()
        with self._placing:
            with self._database.writing() as connection:
                rows = connection.execute(
                    f"SELECT hash, size FROM files WHERE added < ? AND NOT EXISTS ({NEEDED})", (limit,)
                ).fetchall()
                gone = [(r["hash"], r["size"]) for r in rows if self._using[r["hash"]] == 0]
                connection.executemany("DELETE FROM files WHERE hash = ?", [(hash_,) for hash_, _ in gone])
            for hash_, size in gone:
                self.path(hash_).unlink(missing_ok=True)
                given = Given(given.files + 1, given.bytes + size)
            for path in self.unrecorded():
                facts = path.stat()
                if facts.st_mtime < oldest or grace <= 0:
                    path.unlink(missing_ok=True)
                    given = Given(given.files + 1, given.bytes + facts.st_size)
        return given

    def unrecorded(self) -> list[Path]:
        """Files that the database does not know of: what a crash left behind just before it was recorded."""
        with self._database.reading() as connection:
            known = {hash_ for (hash_,) in connection.execute("SELECT hash FROM files")}
        return [p for p in self._folder.glob("??/*") if p.name not in known]

    def missing(self) -> list[str]:
        """The hashes of files that the database knows of and that are not there, or not as large as they were."""
        with self._database.reading() as connection:
            rows = connection.execute("SELECT hash, size FROM files").fetchall()
        places = ((r["hash"], r["size"], self.path(r["hash"])) for r in rows)
        return [hash_ for hash_, size, path in places if not path.is_file() or path.stat().st_size != size]


def _flush(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
