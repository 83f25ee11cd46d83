"""Projects: the list, edits with revisions, undo and redo."""

import json
import sqlite3
from dataclasses import dataclass

from ..core.edits import Edit, free_name
from ..core.errors import Refusal
from ..core.model import Document, Project
from ..core.model.base import new_id
from .database import Database
from .rows import apply_changes, difference, read_document, rows_of

NO_PROJECT = "There is no such project. It may have been made in another data folder."


class Stale(Exception):
    """An edit was made on an older revision than the project has; `revision` is the newer one."""

    def __init__(self, revision: int) -> None:
        super().__init__("The project has changed in the meantime.")
        self.revision = revision


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
    """Reads and changes projects. Every change is on disk when the call returns."""

    def __init__(self, database: Database) -> None:
        self._database = database

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
            apply_changes(connection, difference({}, rows_of(document)))
            return _state(connection, document.project.id)

    def new(self, name: str) -> State:
        """Adds an empty project; the name gets a number if there is one of that name."""
        return self.create(Document(project=Project(name=free_name(name, {e.name for e in self.list()}))))

    def state(self, project: str) -> State:
        """A project as it is. Raises Missing."""
        with self._database.reading() as connection:
            return _state(connection, project)

    def revision(self, project: str) -> int:
        """The revision a project is at; cheap. Raises Missing."""
        with self._database.reading() as connection:
            row = connection.execute("SELECT revision FROM projects WHERE id = ?", (project,)).fetchone()
        if row is None:
            raise Missing(NO_PROJECT)
        return row["revision"]

    def duplicate(self, project: str) -> State:
        """Adds a copy with ids of its own, without the history."""
        document = self.state(project).document
        name = free_name(document.project.name, {e.name for e in self.list()})
        return self.create(_with_new_ids(document, name))

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
                raise Missing("There is no such project.")

    def edit(self, project: str, edit: Edit, revision: int | None) -> State:
        """Makes an edit on a revision (None: on whatever is there).

        Raises Stale if the project has a newer revision, Refusal if the edit does not fit.
        """
        with self._database.writing() as connection:
            state = _state(connection, project)
            if revision is not None and revision != state.revision:
                raise Stale(state.revision)
            title = edit.title(state.document)
            try:
                changes = difference(rows_of(state.document), rows_of(edit.apply(state.document)))
            except ValueError as error:
                raise error if isinstance(error, Refusal) else Refusal(f"That cannot be done: {error}.") from error
            if not changes:
                return state
            try:
                apply_changes(connection, changes)
                connection.execute("DELETE FROM edits WHERE project = ? AND undone = 1", (project,))
                connection.execute(
                    "INSERT INTO edits (project, number, title, changes)"
                    " VALUES (?, (SELECT coalesce(max(number), 0) + 1 FROM edits WHERE project = ?), ?, ?)",
                    (project, project, title, json.dumps(changes)),
                )
                _touch(connection, project)
                return _state(connection, project)
            except sqlite3.IntegrityError as error:
                raise Refusal(f"That cannot be done: it would leave the project inconsistent ({error}).") from error

    def undo(self, project: str, revision: int | None = None) -> State:
        """Takes the last edit back; without one, nothing changes."""
        return self._step(project, revision, backwards=True)

    def redo(self, project: str, revision: int | None = None) -> State:
        """Makes the edit last taken back again; without one, nothing changes."""
        return self._step(project, revision, backwards=False)

    def _step(self, project: str, revision: int | None, backwards: bool) -> State:
        with self._database.writing() as connection:
            state = _state(connection, project)
            if revision is not None and revision != state.revision:
                raise Stale(state.revision)
            row = _last(connection, project) if backwards else _next(connection, project)
            if row is None:
                return state
            apply_changes(connection, json.loads(row["changes"]), backwards)
            connection.execute(
                "UPDATE edits SET undone = ? WHERE project = ? AND number = ?",
                (int(backwards), project, row["number"]),
            )
            _touch(connection, project)
            return _state(connection, project)


def _touch(connection: sqlite3.Connection, project: str) -> None:
    connection.execute(
        "UPDATE projects SET revision = revision + 1, changed = strftime('%Y-%m-%dT%H:%M:%fZ', 'now') WHERE id = ?",
        (project,),
    )


def _last(connection: sqlite3.Connection, project: str) -> sqlite3.Row | None:
    return connection.execute(
        "SELECT * FROM edits WHERE project = ? AND undone = 0 ORDER BY number DESC LIMIT 1", (project,)
    ).fetchone()


def _next(connection: sqlite3.Connection, project: str) -> sqlite3.Row | None:
    return connection.execute(
        "SELECT * FROM edits WHERE project = ? AND undone = 1 ORDER BY number LIMIT 1", (project,)
    ).fetchone()


def _state(connection: sqlite3.Connection, project: str) -> State:
    document = read_document(connection, project)
    if document is None:
        raise Missing(NO_PROJECT)
    (revision,) = connection.execute("SELECT revision FROM projects WHERE id = ?", (project,)).fetchone()
    undo, redo = _last(connection, project), _next(connection, project)
    return State(document, revision, undo["title"] if undo else None, redo["title"] if redo else None)


def _with_new_ids(document: Document, name: str) -> Document:
    fresh: dict[str, str] = {}

    def again(thing):
        fresh[thing.id] = new_id()
        return thing.model_copy(update={"id": fresh[thing.id]})

    def own(things):
        return [again(t) for t in things]

    project = document.project
    shots = {k: s.model_copy(update={"moments": own(s.moments)}) for k, s in document.shots.items()}
    holds = {}
    for hold in document.holds.values():
        matte = hold.matte.model_copy(update={"pieces": own(hold.matte.pieces)})
        copy = again(hold.model_copy(update={"matte": matte}))
        holds[copy.id] = copy
    ground = [again(i.model_copy(update={"finishes": own(i.finishes)})) for i in project.ground]
    layers = [
        again(
            x.model_copy(
                update={
                    "hold": fresh[x.hold],
                    "over": fresh[x.over],
                    "keys": own(x.keys),
                    "finishes": own(x.finishes),
                }
            )
        )
        for x in project.layers
    ]
    copy = project.model_copy(update={"id": new_id(), "name": name, "ground": ground, "layers": layers})
    return Document(project=copy, shots=shots, holds=holds)
