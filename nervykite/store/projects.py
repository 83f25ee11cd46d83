"""Projects: the list, edits with revisions, undo and redo."""

import json
import sqlite3
from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

from ..core.errors import Refusal
from ..core.kept import Kept
from ..core.model import Document, Project
from ..core.model.naming import free_name
from .codec import Change, apply_changes
from .database import Database
from .rows import TABLES, difference, read_document

NO_PROJECT = "There is no such project. It may have been made in another data folder."


class Stale(Exception):
    """An edit was made on an older revision than the project has; `revision` is the newer one."""

    def __init__(self, revision: int) -> None:
        super().__init__("The project has changed in the meantime.")
        self.revision = revision


class Edit(Protocol):
    """What can be done to a document, see `core/edits`."""

    def title(self, document: Document) -> str:
        """What undo calls it."""
        ...

    def apply(self, document: Document) -> Document:
        """The document afterwards. Raises Refusal."""
        ...


class Missing(Refusal):
    """There is no such project."""


@dataclass(frozen=True)
class State:
    """A document at a revision, and what undo and redo would do."""

    document: Document
    revision: int
    undo: str | None
    redo: str | None


@dataclass(frozen=True)
class Entry:
    """A line of the project list."""

    id: str
    name: str
    width: int
    height: int
    changed: str
    revision: int


class Projects:
    """Reads and changes projects. Every change is on disk when the call returns.

    `check` is asked about each edit before anything is written, with the state before it and the document after it;
    what it raises is raised, and nothing is stored.
    """

    def __init__(
        self, database: Database, check: Callable[[State, Document], None] = lambda before, after: None
    ) -> None:
        self._database, self._check = database, check
        self._known: Kept[State] = Kept(6)

    def list(self) -> list[Entry]:
        """All projects that are not deleted, the last changed first."""
        with self._database.reading() as connection:
            rows = connection.execute(
                "SELECT id, name, width, height, changed, revision FROM projects WHERE deleted IS NULL"
                " ORDER BY changed DESC, id"
            ).fetchall()
        return [Entry(**dict(row)) for row in rows]

    def find(self, id_or_name: str) -> str:
        """The id of a project given by id or by name. Raises Missing."""
        found = [e for e in self.list() if id_or_name in (e.id, e.name)]
        if not found:
            raise Missing(f"There is no project “{id_or_name}”. “nervykite projects” lists them.")
        if len(found) > 1 and found[0].id != id_or_name:
            raise Missing(f"{len(found)} projects are named “{id_or_name}”. Give the id instead.")
        return found[0].id

    def create(self, document: Document) -> State:
        """Adds a project with everything in it."""
        with self._database.writing() as connection:
            apply_changes(connection, TABLES, difference(None, document))
            return self._state(connection, document.project.id)

    def new(self, name: str) -> State:
        """Adds an empty project; the name gets a number if there is one of that name."""
        return self.create(Document(project=Project(name=self.named(name))))

    def state(self, project: str) -> State:
        """A project as it is. Raises Missing."""
        with self._database.reading() as connection:
            return self._state(connection, project)

    def revision(self, project: str) -> int:
        """The revision a project is at; cheap. Raises Missing."""
        with self._database.reading() as connection:
            row = connection.execute("SELECT revision FROM projects WHERE id = ?", (project,)).fetchone()
        if row is None:
            raise Missing(NO_PROJECT)
        return row["revision"]

    def named(self, wanted: str) -> str:
        """The name, with a number behind it if a project has it already."""
        return free_name(wanted, {e.name for e in self.list()})

    def delete(self, project: str) -> None:
        """Takes a project off the list; `restore` brings it back."""
        self._mark(project, "strftime('%Y-%m-%dT%H:%M:%fZ', 'now')")

    def restore(self, project: str) -> None:
        """Puts a deleted project back on the list."""
        self._mark(project, "NULL")

    def _mark(self, project: str, value: str) -> None:
        with self._database.writing() as connection:
            changed = connection.execute(f"UPDATE projects SET deleted = {value} WHERE id = ?", (project,))
            if changed.rowcount == 0:
                raise Missing(NO_PROJECT)

    def edit(self, project: str, edit: Edit, revision: int | None) -> State:
        """Makes an edit on a revision (None: on whatever is there).

        Raises Stale if the project has a newer revision, Refusal if the edit does not fit.
        """
        with self._database.writing() as connection:
            state = self._state(connection, project)
            if revision is not None and revision != state.revision:
                raise Stale(state.revision)
            title = edit.title(state.document)
            try:
                after = edit.apply(state.document)
                changes = difference(state.document, after)
            except ValueError as error:
                raise error if isinstance(error, Refusal) else Refusal(f"That cannot be done: {error}.") from error
            if not changes:
                return state
            self._check(state, after)
            try:
                apply_changes(connection, TABLES, changes)
                connection.execute("DELETE FROM edits WHERE project = ? AND undone = 1", (project,))
                connection.execute(
                    "INSERT INTO edits (project, number, title, changes)"
                    " VALUES (?, (SELECT coalesce(max(number), 0) + 1 FROM edits WHERE project = ?), ?, ?)",
                    (project, project, title, json.dumps(changes)),
                )
                made = self._moved_on(connection, project, after)
            except sqlite3.IntegrityError as error:
                raise Refusal(f"That cannot be done: it would leave the project inconsistent ({error}).") from error
        self._known[project] = made
        return made

    def undo(self, project: str, revision: int | None = None) -> State:
        """Takes the last edit back; without one, nothing changes."""
        return self._step(project, revision, backwards=True)

    def redo(self, project: str, revision: int | None = None) -> State:
        """Makes the edit last taken back again; without one, nothing changes."""
        return self._step(project, revision, backwards=False)

    def _step(self, project: str, revision: int | None, backwards: bool) -> State:
        with self._database.writing() as connection:
            state = self._state(connection, project)
            if revision is not None and revision != state.revision:
                raise Stale(state.revision)
            row = _last(connection, project) if backwards else _next(connection, project)
            if row is None:
                return state
            changes: list[Change] = json.loads(row["changes"])
            apply_changes(connection, TABLES, changes, backwards)
            connection.execute(
                "UPDATE edits SET undone = ? WHERE project = ? AND number = ?",
                (int(backwards), project, row["number"]),
            )
            after = read_document(connection, project, state.document, changes)
            assert after is not None
            made = self._moved_on(connection, project, after)
        self._known[project] = made
        return made

    def _state(self, connection: sqlite3.Connection, project: str) -> State:
        """A project as it is in a transaction; read only if it is not the one that is known. Raises Missing."""
        row = connection.execute("SELECT revision FROM projects WHERE id = ?", (project,)).fetchone()
        if row is None:
            raise Missing(NO_PROJECT)
        known = self._known.peek(project)
        if known is not None and known.revision == row["revision"]:
            return known
        document = read_document(connection, project)
        assert document is not None
        state = _with_steps(connection, document, row["revision"])
        self._known[project] = state
        return state

    @staticmethod
    def _moved_on(connection: sqlite3.Connection, project: str, document: Document) -> State:
        """The next revision, at which the document stands."""
        (revision,) = connection.execute(
            "UPDATE projects SET revision = revision + 1, changed = strftime('%Y-%m-%dT%H:%M:%fZ', 'now')"
            " WHERE id = ? RETURNING revision",
            (project,),
        ).fetchone()
        return _with_steps(connection, document, revision)


def _last(connection: sqlite3.Connection, project: str) -> sqlite3.Row | None:
    return connection.execute(
        "SELECT * FROM edits WHERE project = ? AND undone = 0 ORDER BY number DESC LIMIT 1", (project,)
    ).fetchone()


def _next(connection: sqlite3.Connection, project: str) -> sqlite3.Row | None:
    return connection.execute(
        "SELECT * FROM edits WHERE project = ? AND undone = 1 ORDER BY number LIMIT 1", (project,)
    ).fetchone()


def _with_steps(connection: sqlite3.Connection, document: Document, revision: int) -> State:
    undo, redo = _last(connection, document.project.id), _next(connection, document.project.id)
    return State(document, revision, undo["title"] if undo else None, redo["title"] if redo else None)
