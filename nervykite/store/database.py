"""The database: opening it, bringing it up to date, transactions."""

import runpy
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

MIGRATIONS = Path(__file__).parent / "migrations"


class Database:
    """One SQLite file. A connection a thread of use: `connect` opens one, cheap enough to do for every request."""

    def __init__(self, path: Path) -> None:
        self._path = path
        path.parent.mkdir(parents=True, exist_ok=True)
        connection = self.connect()
        try:
            connection.execute("PRAGMA journal_mode = WAL")
            self._migrate(connection)
        finally:
            connection.close()

    def connect(self) -> sqlite3.Connection:
        """A connection that checks foreign keys and has each commit on disk before it returns."""
        connection = sqlite3.connect(self._path, timeout=30, isolation_level=None, check_same_thread=False)
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
        """A transaction: all of it is on disk when the block ends, or none of it if it raises."""
        connection = self.connect()
        try:
            connection.execute("BEGIN IMMEDIATE")
            try:
                yield connection
            except BaseException:
                connection.execute("ROLLBACK")
                raise
            connection.execute("COMMIT")
        finally:
            connection.close()

    @staticmethod
    def _migrate(connection: sqlite3.Connection) -> None:
        (version,) = connection.execute("PRAGMA user_version").fetchone()
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


def _statements(script: str) -> Iterator[str]:
    """The statements of a script, one after the other: each ends with the semicolon that makes it whole."""
    statement = ""
    for line in script.splitlines(keepends=True):
        statement += line
        if sqlite3.complete_statement(statement):
            yield statement
            statement = ""
