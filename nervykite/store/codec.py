"""One codec for all rows: a table says once which fields of its model are columns, the rest follows from that.

Rows, the difference between two states, undo and reading all go by the same `Table`s. A model's fields are columns, by
their path within the model; what has no column of its own is kept together as JSON (a kind's settings, for example), so
that a new kind needs no migration. Lists of parts are tables of their own, each row with its owner and its position.
"""

import json
import sqlite3
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from pydantic import BaseModel

Row = dict[str, Any]
Rows = dict[tuple[str, str], Row]
Change = dict[str, Any]
"""A row before and after: {table, id, before, after}, either side None where there is no row."""


@dataclass(frozen=True)
class Table:
    """The table that a model is kept in.

    name: of the table in SQL; columns: column → path of a field, its parts joined by dots; json: columns that hold a
    field as JSON → path; rest: columns that hold whatever else a part has, as JSON → path of that part ("" is the model
    itself); parts: path of a list → table; owner: the column in which the parts' rows name what they belong to;
    ordered: whether rows have a position; identity: makes an id for parts that have none, out of its owner's id and one
    of its fields.
    """

    name: str
    columns: Mapping[str, str] = field(default_factory=dict)
    json: Mapping[str, str] = field(default_factory=dict)
    rest: Mapping[str, str] = field(default_factory=dict)
    parts: Mapping[str, "Table"] = field(default_factory=dict)
    owner: str | None = None
    ordered: bool = True
    identity: str | None = None

    def id_of(self, thing: BaseModel, owner: str | None) -> str:
        """The id of a thing's row."""
        return f"{owner}:{getattr(thing, self.identity)}" if self.identity else thing.id  # type: ignore[attr-defined]

    def row(self, thing: BaseModel, id_: str, extra: Row) -> Row:
        """A thing's own row, without its parts."""
        data = thing.model_dump(mode="json", exclude=_excluded(self.parts))
        row: Row = {"id": id_, **extra}
        used: set[str] = {"id", *self.columns.values(), *self.json.values(), *self.parts}
        for column, path in self.columns.items():
            value = _at(data, path)
            row[column] = int(value) if isinstance(value, bool) else value
        for column, path in self.json.items():
            row[column] = _text(_at(data, path))
        for column, path in self.rest.items():
            part = _at(data, path) or {}
            lead = f"{path}." if path else ""
            row[column] = _text({k: v for k, v in part.items() if f"{lead}{k}" not in used and k != "id"})
        return row

    def data(self, row: Mapping[str, Any], parts: Mapping[str, list[Row]]) -> Row:
        """The data that the model is validated from: a row, and its parts as they were validated from."""
        data: Row = {} if self.identity else {"id": row["id"]}
        for column, path in self.rest.items():
            _put(data, path, json.loads(row[column]))
        for column, path in self.json.items():
            _put(data, path, json.loads(row[column]))
        for column, path in self.columns.items():
            if row[column] is not None:
                _put(data, path, row[column])
        for path, things in parts.items():
            if _at(data, path.rpartition(".")[0]) is not None:
                _put(data, path, things)
        return data


def _text(value: Any) -> str:
    return json.dumps(value, separators=(",", ":"), ensure_ascii=False)


def _at(data: Any, path: str) -> Any:
    for name in path.split(".") if path else ():
        data = None if data is None else data.get(name)
    return data


def _put(data: Row, path: str, value: Any) -> None:
    if not path:
        data.update(value)
        return
    *way, last = path.split(".")
    for name in way:
        if data.get(name) is None:
            data[name] = {}
        data = data[name]
    data[last] = value


def _excluded(paths: Iterable[str]) -> dict[str, Any]:
    tree: dict[str, Any] = {}
    for path in paths:
        here = tree
        *way, last = path.split(".")
        for name in way:
            here = here.setdefault(name, {})
        here[last] = True
    return tree


def parts_of(thing: BaseModel | None, path: str) -> Sequence[BaseModel]:
    """The list of parts at a path of a thing; empty where there is none."""
    found: Any = thing
    for name in path.split("."):
        found = None if found is None else getattr(found, name)
    return found or ()


def changes_of(
    table: Table, before: Sequence[BaseModel], after: Sequence[BaseModel], shared: Row, owner: str | None = None
) -> Iterator[Change]:
    """The changes of the rows of a list of things: those things alone are looked into that are not the very same
    objects.

    `shared` is what all rows have (the project). Raises ValueError if two things have one id.
    """
    first, left = _alike(before, after)
    old = {table.id_of(t, owner): (n, t) for n, t in enumerate(before[first : len(before) - left], first)}
    new = {table.id_of(t, owner): (n, t) for n, t in enumerate(after[first : len(after) - left], first)}
    kept = [*after[:first], *after[len(after) - left :]] if new else []
    if len(new) != len(after) - first - left or any(table.id_of(t, owner) in new for t in kept):
        raise ValueError(f"two {table.name} have the same id")
    for id_ in [*old, *(k for k in new if k not in old)]:
        was, now = old.get(id_), new.get(id_)
        if was and now and was[1] is now[1] and (was[0] == now[0] or not table.ordered):
            continue
        rows = [_row(table, state, id_, shared, owner) for state in (was, now)]
        if rows[0] != rows[1]:
            yield {"table": table.name, "id": id_, "before": rows[0], "after": rows[1]}
        if was and now and was[1] is now[1]:
            continue
        for path, part in table.parts.items():
            old_parts, new_parts = (parts_of(state[1], path) if state else () for state in (was, now))
            yield from changes_of(part, old_parts, new_parts, shared, id_)


def _alike(before: Sequence[BaseModel], after: Sequence[BaseModel]) -> tuple[int, int]:
    """The number of things at the beginning of two lists, and if they are as long how many at the end, are the same
    ones.
    """
    pairs = list(zip(before, after, strict=False))
    first = next((n for n, (a, b) in enumerate(pairs) if a is not b), len(pairs))
    if len(before) != len(after):
        return first, 0
    return first, next((n for n, (a, b) in enumerate(reversed(pairs[first:])) if a is not b), 0)


def _row(table: Table, state: tuple[int, BaseModel] | None, id_: str, shared: Row, owner: str | None) -> Row | None:
    if state is None:
        return None
    extra = dict(shared)
    if table.owner is not None:
        extra[table.owner] = owner
    if table.ordered:
        extra["position"] = state[0]
    return table.row(state[1], id_, extra)


def read(
    connection: sqlite3.Connection, table: Table, where: str, given: tuple, only: set[str] | None = None
) -> dict[str, Row]:
    """The data that the things of a table are validated from, by id and in order; `only` some of them, with their
    parts.
    """
    order = "position" if table.ordered else "rowid"
    rows = connection.execute(f"SELECT * FROM {table.name} WHERE {where} ORDER BY {order}", given).fetchall()
    if only is not None:
        rows = [r for r in rows if r["id"] in only]
    ids = {r["id"] for r in rows}
    found: dict[str, dict[str, list[Row]]] = {id_: {path: [] for path in table.parts} for id_ in ids}
    for path, part in table.parts.items():
        assert part.owner is not None
        if only is None:
            owned = read_owned(connection, part, where, given)
        else:
            marks = ", ".join("?" * len(ids))
            owned = read_owned(connection, part, f"{where} AND {part.owner} IN ({marks})", (*given, *ids))
        for owner, data in owned:
            if owner in found:
                found[owner][path].append(data)
    return {r["id"]: table.data(r, found[r["id"]]) for r in rows}


def read_owned(connection: sqlite3.Connection, table: Table, where: str, given: tuple) -> list[tuple[str, Row]]:
    """The data that the parts in a table are validated from, each with the id of its owner, in order."""
    order = "position" if table.ordered else table.identity or "rowid"
    rows = connection.execute(
        f"SELECT * FROM {table.name} WHERE {where} AND {table.owner} IS NOT NULL ORDER BY {order}", given
    ).fetchall()
    return [(r[table.owner], table.data(r, {})) for r in rows]


def apply_changes(
    connection: sqlite3.Connection, tables: set[str], changes: Iterable[Change], backwards: bool = False
) -> None:
    """Writes changes of rows of these tables, or takes them back.

    A new row whose id is taken, by whatever project, is an IntegrityError.
    """
    for change in changes:
        table = change["table"]
        if table not in tables:
            raise ValueError(f"no such table: {table}")
        old, new = change["before"], change["after"]
        if backwards:
            old, new = new, old
        if new is None:
            connection.execute(f"DELETE FROM {table} WHERE id = ?", (change["id"],))
        elif old is None:
            insert(connection, table, new)
        else:
            setting = ", ".join(f"{k} = :{k}" for k in new if k != "id")
            connection.execute(f"UPDATE {table} SET {setting} WHERE id = :id", new)


def insert(connection: sqlite3.Connection, table: str, row: Row) -> None:
    """Adds a row."""
    names = ", ".join(row)
    connection.execute(f"INSERT INTO {table} ({names}) VALUES ({', '.join('?' * len(row))})", tuple(row.values()))
