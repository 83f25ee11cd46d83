"""Documents to rows and back, and the difference between two documents as changes of rows.

The rows of a document are a dict from (table, id) to a dict of columns. Shots themselves are not among them:
they are written once, at import, and never change.
"""

import json
import sqlite3
from fractions import Fraction
from typing import Any

import numpy as np
from pydantic import TypeAdapter

from ..core.model import Document, GroundItem, Hold, Key, Layer, Matte, Piece, Project, Shot, Stop, Travel
from ..core.model.document import Moment
from ..core.model.layers import Easing, Finish, Pose

Rows = dict[tuple[str, str], dict[str, Any]]
TABLES = ("project_shots", "moments", "ground_items", "holds", "pieces", "stops", "layers", "keys", "finishes")
OWN_COLUMNS = ("id", "kind", "name", "combine", "invert", "opacity", "visible", "grow", "soften_in", "soften_out")

_piece: TypeAdapter[Piece] = TypeAdapter(Piece)
_pieces: TypeAdapter[list[Piece]] = TypeAdapter(list[Piece])


def rows_of(document: Document) -> Rows:
    """All rows of a document."""
    project = document.project
    rows: Rows = {}

    def put(table: str, id_: str, **columns: Any) -> None:
        if (table, id_) in rows:
            raise ValueError(f"two {table} with the id {id_}")
        rows[table, id_] = {"id": id_, "project": project.id, **columns}

    start, end = project.loop or (None, None)
    rows["projects", project.id] = {
        "id": project.id, "name": project.name, "width": project.width, "height": project.height,
        "rate": str(project.rate), "background": project.background, "loop_start": start, "loop_end": end,
    }  # fmt: skip
    for n, shot in enumerate(document.shots.values()):
        put("project_shots", f"{project.id}:{shot.id}", shot=shot.id, position=n)
        for moment in shot.moments:
            put("moments", moment.id, shot=shot.id, frame=moment.frame, name=moment.name)
    for n, item in enumerate(project.ground):
        put(
            "ground_items", item.id, position=n, kind=item.kind, shot=item.shot,
            first=item.first, past=item.past, fit=item.fit, plate=item.plate,
        )  # fmt: skip
        _put_finishes(put, item.finishes, None, item.id)
    for still in document.holds.values():
        matte, travel = still.matte, still.travel
        put(
            "holds", still.id, shot=still.shot, frame=still.frame, name=still.name, plate=still.plate,
            invert=int(matte.invert), grow=matte.grow, soften_in=matte.soften_in, soften=matte.soften_out,
            smooth=matte.smooth, fine_edge=matte.fine_edge, fringe=matte.fringe,
            travel_first=travel and travel.first, travel_past=travel and travel.past,
        )  # fmt: skip
        for n, piece in enumerate(matte.pieces):
            columns = {c: getattr(piece, c) for c in OWN_COLUMNS if c != "id"}
            columns |= {"invert": int(piece.invert), "visible": int(piece.visible)}
            settings = piece.model_dump_json(exclude=set(OWN_COLUMNS))
            put("pieces", piece.id, hold=still.id, position=n, settings=settings, **columns)
        for stop in travel.stops if travel else []:
            put(
                "stops", f"{still.id}:{stop.frame}", carried=int(stop.carried), stale=int(stop.stale),
                locked=int(stop.locked), doubt=stop.doubt, hold=still.id, frame=stop.frame,
                pieces=_pieces.dump_json(stop.pieces).decode(),
            )  # fmt: skip
    for n, layer in enumerate(project.layers):
        x, y = layer.anchor or (None, None)
        put(
            "layers", layer.id, position=n, name=layer.name, hold=layer.hold, over=layer.over,
            arrangement=layer.arrangement, until=layer.until, anchor_x=x, anchor_y=y,
            visible=int(layer.visible), locked=int(layer.locked),
            pose_x=layer.pose.position[0], pose_y=layer.pose.position[1], pose_scale=layer.pose.scale,
            pose_rotation=layer.pose.rotation, pose_opacity=layer.pose.opacity, fill=int(layer.fill),
        )  # fmt: skip
        for k, key in enumerate(layer.keys):
            easing = key.easing
            put(
                "keys", key.id, layer=layer.id, position=k, channel=key.channel, tie=key.tie, at_offset=key.offset,
                value_x=key.value[0], value_y=key.value[1] if len(key.value) > 1 else None,
                easing=easing.kind, x1=easing.x1, y1=easing.y1, x2=easing.x2, y2=easing.y2,
            )  # fmt: skip
        _put_finishes(put, layer.finishes, layer.id, None)
    return rows


def _put_finishes(put, finishes: list[Finish], layer: str | None, item: str | None) -> None:
    for n, finish in enumerate(finishes):
        put(
            "finishes", finish.id, layer=layer, ground_item=item, position=n, kind=finish.kind,
            visible=int(finish.visible), settings=json.dumps(finish.settings),
        )  # fmt: skip


def read_document(connection: sqlite3.Connection, project: str) -> Document | None:
    """The document of a project, or None."""
    row = connection.execute("SELECT * FROM projects WHERE id = ?", (project,)).fetchone()
    if row is None:
        return None

    def all_of(table: str, order: str) -> list[sqlite3.Row]:
        return connection.execute(f"SELECT * FROM {table} WHERE project = ? ORDER BY {order}", (project,)).fetchall()

    moments = all_of("moments", "frame")
    shots = {}
    for link in all_of("project_shots", "position"):
        shot = connection.execute("SELECT * FROM shots WHERE id = ?", (link["shot"],)).fetchone()
        own = [Moment(id=m["id"], frame=m["frame"], name=m["name"]) for m in moments if m["shot"] == shot["id"]]
        shots[shot["id"]] = read_shot(shot, own)
    finishes: dict[str, list[Finish]] = {}
    for f in all_of("finishes", "position"):
        finish = Finish(id=f["id"], kind=f["kind"], settings=json.loads(f["settings"]), visible=bool(f["visible"]))
        finishes.setdefault(f["layer"] or f["ground_item"], []).append(finish)
    pieces: dict[str, list[Piece]] = {}
    for p in all_of("pieces", "position"):
        piece = _piece.validate_python({c: p[c] for c in OWN_COLUMNS} | json.loads(p["settings"]))
        pieces.setdefault(p["hold"], []).append(piece)
    stops: dict[str, list[Stop]] = {}
    for s in all_of("stops", "frame"):
        stop = Stop(
            frame=s["frame"], carried=bool(s["carried"]), stale=bool(s["stale"]), locked=bool(s["locked"]),
            doubt=s["doubt"], pieces=_pieces.validate_json(s["pieces"]),
        )  # fmt: skip
        stops.setdefault(s["hold"], []).append(stop)
    keys: dict[str, list[Key]] = {}
    for k in all_of("keys", "position"):
        value = [k["value_x"]] if k["value_y"] is None else [k["value_x"], k["value_y"]]
        easing = Easing(kind=k["easing"], x1=k["x1"], y1=k["y1"], x2=k["x2"], y2=k["y2"])
        key = Key(id=k["id"], channel=k["channel"], tie=k["tie"], offset=k["at_offset"], value=value, easing=easing)
        keys.setdefault(k["layer"], []).append(key)
    holds = {
        h["id"]: Hold(
            id=h["id"], shot=h["shot"], frame=h["frame"], name=h["name"], plate=h["plate"],
            matte=Matte(
                pieces=pieces.get(h["id"], []), invert=bool(h["invert"]), grow=h["grow"], soften_in=h["soften_in"],
                soften_out=h["soften"], smooth=h["smooth"], fine_edge=h["fine_edge"], fringe=h["fringe"],
            ),
            travel=None if h["travel_first"] is None else Travel(
                first=h["travel_first"], past=h["travel_past"], stops=stops.get(h["id"], [])
            ),
        )
        for h in all_of("holds", "rowid")
    }  # fmt: skip
    layers = [
        Layer(
            id=x["id"], name=x["name"], hold=x["hold"], over=x["over"], arrangement=x["arrangement"],
            until=x["until"], anchor=None if x["anchor_x"] is None else (x["anchor_x"], x["anchor_y"]),
            visible=bool(x["visible"]), locked=bool(x["locked"]),
            pose=Pose(
                position=(x["pose_x"], x["pose_y"]), scale=x["pose_scale"],
                rotation=x["pose_rotation"], opacity=x["pose_opacity"],
            ),
            keys=keys.get(x["id"], []), finishes=finishes.get(x["id"], []), fill=bool(x["fill"]),
        )
        for x in all_of("layers", "position")
    ]  # fmt: skip
    ground = [
        GroundItem(
            id=g["id"], kind=g["kind"], shot=g["shot"], first=g["first"], past=g["past"], fit=g["fit"],
            finishes=finishes.get(g["id"], []), plate=g["plate"],
        )
        for g in all_of("ground_items", "position")
    ]  # fmt: skip
    loop = None if row["loop_start"] is None else (row["loop_start"], row["loop_end"])
    return Document(
        project=Project(
            id=row["id"], name=row["name"], width=row["width"], height=row["height"], rate=Fraction(row["rate"]),
            background=row["background"], ground=ground, layers=layers, loop=loop,
        ),
        shots=shots,
        holds=holds,
    )  # fmt: skip


def read_shot(row: sqlite3.Row, moments: list[Moment]) -> Shot:
    """A shot from its row, with a project's moments."""
    columns = {k: row[k] for k in row.keys() if k != "ticks"}  # noqa: SIM118 (a Row iterates over values)
    flags = {k: bool(row[k]) for k in ("variable", "has_sound")}
    ticks = np.frombuffer(row["ticks"], "<i8").tolist()
    return Shot(**(columns | flags | {"ticks": ticks, "cuts": json.loads(row["cuts"]), "moments": moments}))


def write_shot(connection: sqlite3.Connection, shot: Shot) -> None:
    """Adds a shot."""
    columns = shot.model_dump(exclude={"moments", "ticks"}) | {"rate": str(shot.rate)}
    columns |= {"ticks": np.array(shot.ticks, "<i8").tobytes(), "cuts": json.dumps(shot.cuts)}
    _insert(connection, "shots", columns)


def difference(before: Rows, after: Rows) -> list[dict[str, Any]]:
    """What changes: a list of {table, id, before, after}, either side None where there is no row."""
    changes = []
    for key in [*before, *(k for k in after if k not in before)]:
        old, new = before.get(key), after.get(key)
        if old != new:
            changes.append({"table": key[0], "id": key[1], "before": old, "after": new})
    return changes


def apply_changes(connection: sqlite3.Connection, changes: list[dict[str, Any]], backwards: bool = False) -> None:
    """Writes changes of rows, or takes them back.

    A new row whose id is taken, by whatever project, is an IntegrityError.
    """
    for change in changes:
        table = change["table"]
        if table != "projects" and table not in TABLES:
            raise ValueError(f"no such table: {table}")
        old, new = change["before"], change["after"]
        if backwards:
            old, new = new, old
        if new is None:
            connection.execute(f"DELETE FROM {table} WHERE id = ?", (change["id"],))
        elif old is None:
            _insert(connection, table, new)
        else:
            setting = ", ".join(f"{k} = :{k}" for k in new if k != "id")
            connection.execute(f"UPDATE {table} SET {setting} WHERE id = :id", new)


def _insert(connection: sqlite3.Connection, table: str, row: dict[str, Any]) -> None:
    names = ", ".join(row)
    connection.execute(f"INSERT INTO {table} ({names}) VALUES ({', '.join('?' * len(row))})", tuple(row.values()))
