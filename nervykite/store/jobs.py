"""The record of long work: what was asked for, how far it is, how it ended."""

import json
from dataclasses import dataclass
from typing import Any, Literal

from ..core.piece.model.base import new_id
from .database import Database

JobState = Literal["waiting", "running", "done", "failed", "cancelled"]


@dataclass(frozen=True)
class Job:
    """A piece of long work. `progress` is the share done, 0…1; `message` a sentence when there is one; `asked` what it
    was asked for, if it is taken up again after a restart.
    """

    id: str
    kind: str
    project: str
    title: str
    state: JobState
    progress: float
    message: str | None
    result: dict[str, Any] | None
    made: str
    asked: dict[str, Any] | None = None


class Jobs:
    """Reads and writes the record."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(self, kind: str, project: str, title: str, asked: dict[str, Any] | None = None) -> Job:
        """Records work that waits to be done."""
        job = new_id()
        with self._database.writing() as connection:
            connection.execute(
                "INSERT INTO jobs (id, kind, project, title, state, asked) VALUES (?, ?, ?, ?, 'waiting', ?)",
                (job, kind, project, title, None if asked is None else json.dumps(asked)),
            )
        return self.get(job)

    def update(
        self,
        job: str,
        state: JobState,
        progress: float = 0.0,
        message: str | None = None,
        result: dict[str, Any] | None = None,
    ) -> Job:
        """Records how the work goes."""
        packed = None if result is None else json.dumps(result)
        with self._database.writing() as connection:
            connection.execute(
                "UPDATE jobs SET state = ?, progress = ?, message = ?, result = ? WHERE id = ?",
                (state, min(max(progress, 0.0), 1.0), message, packed, job),
            )
        return self.get(job)

    def get(self, job: str) -> Job:
        """One job. Raises KeyError."""
        found = self._select("WHERE id = ?", (job,))
        if not found:
            raise KeyError(job)
        return found[0]

    def of_project(self, project: str) -> list[Job]:
        """A project's jobs, the newest first."""
        return self._select("WHERE project = ? ORDER BY made DESC, rowid DESC LIMIT 100", (project,))

    def end_interrupted(self) -> int:
        """Ends what a crash or a restart broke off and nobody takes up again; returns how many there were."""
        with self._database.writing() as connection:
            return connection.execute(
                "UPDATE jobs SET state = 'failed', message = 'The program was stopped before this was done. Start it"
                " again.' WHERE state IN ('waiting', 'running') AND asked IS NULL"
            ).rowcount

    def interrupted(self) -> list[Job]:
        """The jobs broken off that say what they were asked for, in its order."""
        return self._select("WHERE state IN ('waiting', 'running') AND asked IS NOT NULL ORDER BY made, rowid", ())

    def _select(self, where: str, arguments: tuple) -> list[Job]:
        with self._database.reading() as connection:
            rows = connection.execute(f"SELECT * FROM jobs {where}", arguments).fetchall()
        packed = ("result", "asked")
        return [Job(**(dict(r) | {n: r[n] and json.loads(r[n]) for n in packed})) for r in rows]
