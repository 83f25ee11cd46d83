"""Echoes are of where something was; copies beside it, which were called so, repeat it. The log of edits follows."""

import json
import sqlite3
from typing import Any


def migrate(connection: sqlite3.Connection) -> None:
    """Renames the finish in the table, in named sets and in the log."""
    connection.execute("UPDATE finishes SET kind = 'repeat' WHERE kind = 'echo'")
    for id_, sets in connection.execute("SELECT id, sets FROM projects").fetchall():
        connection.execute("UPDATE projects SET sets = ? WHERE id = ?", (_renamed_sets(sets), id_))
    for number, project, text in connection.execute("SELECT number, project, changes FROM edits").fetchall():
        changes = json.loads(text)
        for change in changes:
            for row in (change["before"], change["after"]):
                _rename(change["table"], row)
        new = json.dumps(changes, separators=(",", ":"), ensure_ascii=False)
        if new != text:
            connection.execute("UPDATE edits SET changes = ? WHERE project = ? AND number = ?", (new, project, number))


def _rename(table: str, row: dict[str, Any] | None) -> None:
    if row and table == "finishes" and row.get("kind") == "echo":
        row["kind"] = "repeat"
    if row and table == "projects" and "sets" in row:
        row["sets"] = _renamed_sets(row["sets"])


def _renamed_sets(text: str) -> str:
    sets = json.loads(text)
    worn = [f for s in sets for f in s["finishes"] if f["kind"] == "echo"]
    for finish in worn:
        finish["kind"] = "repeat"
    return json.dumps(sets, separators=(",", ":"), ensure_ascii=False) if worn else text
