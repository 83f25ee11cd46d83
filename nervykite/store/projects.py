"""Projects: the list, edits with revisions, undo and redo."""

import builtins
import json
import logging
import sqlite3
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Protocol

from pydantic import ValidationError

from ..core.common.errors import Refusal
from ..core.common.kept import Kept
from ..core.piece.model import Document, Project
from ..core.piece.model.kinds import fault
from ..core.piece.model.naming import free_name
from .codec import Change, apply_changes
from .database import Database
from .owners import bytes_by_project, bytes_by_shot, own
from .rows import TABLES, difference, read_document

NO_PROJECT = "There is no such project. It may have been made in another data folder."
UNREADABLE = "What is stored of this project cannot be shown. Its last steps can be taken back until it can be."
log = logging.getLogger("nervykite")


class Stale(Exception):
    """An edit was made on an older revision than the project has; `revision` is the newer one."""

    def __init__(self, revision: int) -> None:
        super().__init__("The project has changed in the meantime.")
        self.revision = revision


class DocumentEdit(Protocol):
    """The protocol of edits, see `core/change/edits`."""

    def title(self, document: Document) -> str:
        """The edit's title in the history."""
        ...

    def make(self, document: Document) -> Document:
        """The document afterwards. Raises Refusal."""
        ...


class Missing(Refusal):
    """There is no such project."""


class Unreadable(Refusal):
    """A project is there, but what is stored of it cannot be read."""


@dataclass(frozen=True)
class State:
    """A document at a revision, and what undo and redo would do."""

    document: Document
    revision: int
    undo: str | None
    redo: str | None


@dataclass(frozen=True)
class Entry:
    """A line of the project list; `bytes` is what its footage and pictures take, `deleted` when it was deleted."""

    id: str
    name: str
    width: int
    height: int
    changed: str
    revision: int
    deleted: str | None
    bytes: int


@dataclass(frozen=True)
class Room:
    """The number of bytes a project takes with all that undo can bring back, and each of its shots."""

    bytes: int
    shots: dict[str, int]


@dataclass(frozen=True)
class Step:
    """A line of a project's undo list: what was done, when, and whether it is undone."""

    number: int
    title: str
    made: str
    undone: bool


class Projects:
    """Reads and changes projects. Every change is on disk when the call returns.

    `check` is asked about each edit before anything is written, with the state before it and the document after it, and
    about each new project, with None before it; what it raises is raised, and nothing is stored.
    """

    def __init__(
        self, database: Database, check: Callable[[State | None, Document], None] = lambda before, after: None
    ) -> None:
        self._database, self._check = database, check
        self._known: Kept[State] = Kept(6)

    def list(self, deleted: bool = False) -> list[Entry]:
        """All projects that are not deleted, or all that are, the last changed first."""
        with self._database.reading() as connection:
            rows = connection.execute(
                "SELECT id, name, width, height, changed, revision, deleted FROM projects"
                " WHERE (deleted IS NOT NULL) = ? ORDER BY changed DESC, id",
                (deleted,),
            ).fetchall()
            takes = bytes_by_project(connection)
        return [Entry(**dict(row), bytes=takes.get(row["id"], 0)) for row in rows]

    def shelved(self, kind: str) -> builtins.list[tuple[str, str]]:
        """Name and file of all things of a kind on the shelves of all projects, those of the last changed ones first;
        each file once.
        """
        with self._database.reading() as connection:
            rows = connection.execute(
                "SELECT assets.name, file FROM assets JOIN projects ON projects.id = assets.project"
                " WHERE kind = ? AND projects.deleted IS NULL ORDER BY projects.changed DESC, assets.position",
                (kind,),
            ).fetchall()
        found: dict[str, str] = {}
        for row in rows:
            found.setdefault(row["file"], row["name"])
        return [(name, file) for file, name in found.items()]

    def room(self, project: str) -> Room:
        """The room on the disk that a project takes. Raises Missing."""
        self.revision(project)
        with self._database.reading() as connection:
            return Room(bytes_by_project(connection).get(project, 0), bytes_by_shot(connection, project))

    def find(self, id_or_name: str) -> str:
        """The id of a project given by id or by name. Raises Missing."""
        found = [e for e in self.list() if id_or_name in (e.id, e.name)]
        if not found:
            raise Missing(f"There is no project “{id_or_name}”. “nervykite projects” lists them.")
        if len(found) > 1 and found[0].id != id_or_name:
            raise Missing(f"{len(found)} projects are named “{id_or_name}”. Give the id instead.")
        return found[0].id

    def create(self, document: Document, first: Callable[[sqlite3.Connection], object] | None = None) -> State:
        """Adds a project with everything in it; `first` writes what it needs that no edit makes.

        Raises Refusal if it could not be shown, or refers to what is not in it; then nothing is stored.
        """
        self._check(None, document)
        with self._database.writing() as connection:
            try:
                if first is not None:
                    first(connection)
                changes = difference(None, document)
                apply_changes(connection, TABLES, changes)
                own(connection, document.project.id, None, changes, json.dumps(changes))
            except (ValueError, sqlite3.IntegrityError) as error:
                raise Refusal(f"That piece does not hang together: {error}. Get it anew.") from error
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

    def forget(self, project: str) -> None:
        """Takes a deleted project away for good, with its history. Raises Missing."""
        with self._database.writing() as connection:
            gone = connection.execute("DELETE FROM projects WHERE id = ? AND deleted IS NOT NULL", (project,))
            if gone.rowcount == 0:
                raise Missing("That project is not among the deleted ones.")

    def forget_deleted(self, days: float) -> int:
        """Takes projects away for good that were deleted so many days ago; how many those were."""
        with self._database.writing() as connection:
            return connection.execute(
                "DELETE FROM projects WHERE deleted < strftime('%Y-%m-%dT%H:%M:%fZ', 'now', ?)", (f"-{days} days",)
            ).rowcount

    def forget_shots(self) -> int:
        """Takes shots away that no project needs, not even to undo something; how many those were."""
        with self._database.writing() as connection:
            return connection.execute(
                "DELETE FROM shots WHERE NOT EXISTS (SELECT shot FROM shot_owners WHERE shot = shots.id)"
            ).rowcount

    def _mark(self, project: str, value: str) -> None:
        with self._database.writing() as connection:
            changed = connection.execute(f"UPDATE projects SET deleted = {value} WHERE id = ?", (project,))
            if changed.rowcount == 0:
                raise Missing(NO_PROJECT)

    def edit(
        self,
        project: str,
        edit: DocumentEdit,
        revision: int | None,
        along: Callable[[sqlite3.Connection], None] = lambda connection: None,
    ) -> State:
        """Makes an edit on a revision (None: on whatever is there).

        `along` writes what the edit refers to, in the same transaction. Raises Stale if the project has a newer
        revision, Refusal if the edit does not fit; then nothing is stored.
        """
        with self._database.writing() as connection:
            state = self._state(connection, project)
            if revision is not None and revision != state.revision:
                raise Stale(state.revision)
            title = edit.title(state.document)
            try:
                after = edit.make(state.document)
                changes = difference(state.document, after)
            except Refusal:
                raise
            except ValidationError as error:
                raise Refusal(f"That cannot be done: {fault(error)}.") from error
            except ValueError as error:
                raise Refusal(f"That cannot be done: {error}.") from error
            if not changes:
                return state
            self._check(state, after)
            text = json.dumps(changes)
            try:
                along(connection)
                apply_changes(connection, TABLES, changes)
                connection.execute("DELETE FROM edits WHERE project = ? AND undone = 1", (project,))
                (number,) = connection.execute(
                    "INSERT INTO edits (project, number, title, changes)"
                    " VALUES (?, (SELECT coalesce(max(number), 0) + 1 FROM edits WHERE project = ?), ?, ?)"
                    " RETURNING number",
                    (project, project, title, text),
                ).fetchone()
                own(connection, project, number, changes, text)
                made = self._moved_on(connection, project, after)
            except sqlite3.IntegrityError as error:
                if error.sqlite_errorcode in (sqlite3.SQLITE_CONSTRAINT_PRIMARYKEY, sqlite3.SQLITE_CONSTRAINT_UNIQUE):
                    raise Refusal("An id in it is taken already. Give what is new an id of its own.") from error
                raise Refusal(f"That cannot be done: it refers to what is not there ({error}).") from error
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
            after = _read(connection, project, state.document, changes)
            made = self._moved_on(connection, project, after)
        self._known[project] = made
        return made

    def steps(self, project: str) -> builtins.list[Step]:
        """The undo list of a project, the newest step first; it can be had even if the project cannot be read."""
        self.revision(project)
        with self._database.reading() as connection:
            rows = connection.execute(
                "SELECT number, title, made, undone FROM edits WHERE project = ? ORDER BY number DESC LIMIT 1000",
                (project,),
            ).fetchall()
        return [Step(r["number"], r["title"], r["made"], bool(r["undone"])) for r in rows]

    def take_back(self, project: str, number: int) -> None:
        """Undoes a step and all after it, row by row: the project need not be readable. Raises Refusal."""
        with self._database.writing() as connection:
            rows = connection.execute(
                "SELECT number, changes FROM edits WHERE project = ? AND undone = 0 AND number >= ?"
                " ORDER BY number DESC",
                (project, number),
            ).fetchall()
            if not rows:
                raise Refusal("There is no such step to take back. Choose one that is not undone yet.")
            try:
                for row in rows:
                    apply_changes(connection, TABLES, json.loads(row["changes"]), backwards=True)
                    connection.execute(
                        "UPDATE edits SET undone = 1 WHERE project = ? AND number = ?", (project, row["number"])
                    )
                connection.execute("UPDATE projects SET revision = revision + 1 WHERE id = ?", (project,))
            except (ValueError, sqlite3.IntegrityError) as error:
                raise Refusal(f"That step cannot be taken back ({error}). Choose a later one.") from error

    def _state(self, connection: sqlite3.Connection, project: str) -> State:
        """A project as it is in a transaction; read only if it is not the one that is known. Raises Missing."""
        row = connection.execute("SELECT revision FROM projects WHERE id = ?", (project,)).fetchone()
        if row is None:
            raise Missing(NO_PROJECT)
        known = self._known.peek(project)
        if known is not None and known.revision == row["revision"]:
            return known
        document = _read(connection, project)
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


def _read(
    connection: sqlite3.Connection, project: str, known: Document | None = None, changed: Iterable[Change] = ()
) -> Document:
    """A project's document, see `read_document`. Raises Unreadable if what is stored is none."""
    try:
        document = read_document(connection, project, known, changed)
        assert document is not None
        return document
    except sqlite3.Error:
        raise
    except Exception as error:
        log.exception("project %s cannot be read", project)
        raise Unreadable(UNREADABLE) from error


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
