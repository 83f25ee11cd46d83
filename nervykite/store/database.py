"""The database: opening it, bringing it up to date, transactions."""

import runpy
import sqlite3
import threading
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

from ..core.common.errors import Refusal

PATIENCE = 5.0
"""Seconds for which a writer waits for those before it."""
MIGRATIONS = Path(__file__).parent / "migrations"
BUSY = (
    "Something else has been writing to the database for a while, so this was not done. Try it again; if it stays so, "
    "close other programs that work with this data folder."
)


class Busy(Refusal):
    """Others have been writing for too long."""

    def __init__(self) -> None:
        super().__init__(BUSY)


class Database:
    """One SQLite file. A connection a thread of use: `connect` opens one, cheap enough to do for every request.

    Who reads never waits. Who writes waits in one line, for a while. Raises Refusal if the file was written by a newer
    version.
    """

    def __init__(self, path: Path) -> None:
        self._path, self._writers = path, threading.Lock()
        path.parent.mkdir(parents=True, exist_ok=True)
        with closing(self.connect()) as connection:
            connection.execute("PRAGMA journal_mode = WAL")
            self._migrate(connection)
        # As long as one connection is open, what belongs to the log stays on the disk, and a full one can be read.
        self._kept = self.connect()
        self._kept.execute("SELECT count(*) FROM sqlite_master").fetchone()

    def close(self) -> None:
        """Lets go of the file."""
        self._kept.close()

    def connect(self, patience: float = PATIENCE) -> sqlite3.Connection:
        """A connection that checks foreign keys and has each commit on disk before it returns.

        patience: for so many seconds it waits while another program writes
        """
        connection = sqlite3.connect(self._path, timeout=patience, isolation_level=None, check_same_thread=False)
        connection.row_factory = sqlite3.Row
        connection.execute("PRAGMA foreign_keys = ON")
        connection.execute("PRAGMA synchronous = FULL")
        return connection

    @contextmanager
    def reading(self) -> Iterator[sqlite3.Connection]:
        """A connection that sees one state of the database throughout."""
        connection = self.connect()
        try:
            connection.execute("BEGIN")
            yield connection
            connection.execute("ROLLBACK")
        finally:
            connection.close()

    @contextmanager
    def writing(self) -> Iterator[sqlite3.Connection]:
        """A transaction: all of it is on disk when the block ends, or none of it if it raises.

        Raises Refusal if others write for too long.
        """
        until = time.monotonic() + PATIENCE
        if not self._writers.acquire(timeout=PATIENCE):
            raise Busy
        try:
            with closing(self.connect(max(0.1, until - time.monotonic()))) as connection:
                _begin(connection)
                try:
                    yield connection
                except BaseException:
                    connection.execute("ROLLBACK")
                    raise
                connection.execute("COMMIT")
        finally:
            self._writers.release()

    @staticmethod
    def _migrate(connection: sqlite3.Connection) -> None:
        (version,) = connection.execute("PRAGMA user_version").fetchone()
        newest = max(int(script.stem) for script in MIGRATIONS.glob("[0-9]*.*"))
        if version > newest:
            raise Refusal(
                "The data folder was used with a newer version of this program, which wrote what this one does not "
                "know. Start that one, or take another folder with --data."
            )
        # A table that is made anew would take what refers to it along: see "ALTER TABLE", section 7, of SQLite's docs.
        connection.execute("PRAGMA foreign_keys = OFF")
        for script in sorted(MIGRATIONS.glob("[0-9]*.*")):
            number = int(script.stem)
            if number <= version:
                continue
            connection.execute("BEGIN IMMEDIATE")
            try:
                if script.suffix == ".py":
                    runpy.run_path(str(script))["migrate"](connection)
                else:
                    for statement in _statements(script.read_text()):
                        connection.execute(statement)
                connection.execute(f"PRAGMA user_version = {number}")
            except BaseException:
                connection.execute("ROLLBACK")
                raise
            connection.execute("COMMIT")
        if broken := connection.execute("PRAGMA foreign_key_check").fetchone():
            raise sqlite3.IntegrityError(f"the database refers to rows of {broken['parent']} that are not there")


def _begin(connection: sqlite3.Connection) -> None:
    """Begins to write. Raises Refusal while another program does."""
    try:
        connection.execute("BEGIN IMMEDIATE")
    except sqlite3.OperationalError as error:
        if error.sqlite_errorcode in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):
            raise Busy from error
        raise


def _statements(script: str) -> Iterator[str]:
    """The statements of a script, one after the other: each ends with the semicolon that makes it whole."""
    statement = ""
    for line in script.splitlines(keepends=True):
        statement += line
        if sqlite3.complete_statement(statement):
            yield statement
            statement = ""
