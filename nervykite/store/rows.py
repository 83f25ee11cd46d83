"""The columns of tables that fields of a document are; documents to changes of rows, and rows to documents.

Shots themselves are not part of that: they are written once, at import, and never change.
"""

import json
import sqlite3
from collections.abc import Iterable
from typing import Any

import numpy as np

from ..core.piece.model import Asset, Cue, Document, GroundItem, Hold, Layer, Project, Shot, Track
from ..core.piece.model.base import Model
from ..core.piece.model.shot import Moment
from .codec import Change, Row, Table, changes_of, insert, read, read_owned


def _same(*names: str, **others: str) -> dict[str, str]:
    """Columns that are called as their fields are, and others."""
    return {n: n for n in names} | others


_KEY_COLUMNS = _same("channel", "tie", "made", tied_to="to", at_offset="offset", easing="easing.kind")
_PIECES = Table(
    "pieces", owner="hold", rest={"settings": ""},
    columns=_same("kind", "name", "combine", "invert", "opacity", "visible", "grow", "soften_in", "soften_out"),
)  # fmt: skip
_STOPS = Table(
    "stops", owner="hold", ordered=False, identity="frame", json={"pieces": "pieces"},
    columns=_same("frame", "carried", "locked", "doubt", "stale"),
)  # fmt: skip


def _keys(owner: str) -> Table:
    return Table(
        "keys", owner=owner, columns=_KEY_COLUMNS, json={"value": "value", "bend": "bend"}, rest={"curve": "easing"}
    )


def _finishes(owner: str) -> Table:
    return Table("finishes", owner=owner, columns=_same("kind", "visible"), json={"settings": "settings"})


def _behaviours(owner: str) -> Table:
    columns = _same("kind", "visible", "strength", "seed", "fade_in", "fade_out", since="before", until="after")
    return Table("behaviours", owner=owner, columns=columns, json={"settings": "settings"})


HOLDS = Table(
    "holds", ordered=False,
    columns=_same(
        "shot", "frame", "name", "plate", travel_first="travel.first", travel_past="travel.past",
        **{n: f"matte.{n}" for n in ("invert", "grow", "soften_in", "soften_out", "smooth", "fine_edge", "fringe")},
    ),
    parts={"matte.pieces": _PIECES, "travel.stops": _STOPS},
)  # fmt: skip
GROUND = Table(
    "ground_items",
    columns={"kind": "source.kind", "shot": "source.shot", "fade": "fade"},
    json={"loudness": "loudness", "steady": "steady"},
    rest={"settings": "source", "framing": "framing"},
    parts={
        "finishes": _finishes("ground_item"),
        "behaviours": _behaviours("ground_item"),
        "keys": _keys("ground_item"),
    },
)
LAYERS = Table(
    "layers",
    columns=_same(
        "name", "over", "visible", "locked", "solo", "tag", "blend", in_group="group",
        kind="source.kind", hold="source.hold", shot="source.shot",
        arrangement="arrangement.kind",
        **{f"{end}_{n}": f"{end}.{n}" for end in ("starts", "ends") for n in ("to", "item", "offset")},
        **{f"pose_{n}": f"pose.{n}" for n in ("scale", "width", "height", "rotation", "shear", "opacity")},
        apart="apart", path_whole="way.whole", path_turns="way.turns",
    ),
    json={
        "anchor": "anchor", "framing": "framing", "pose_position": "pose.position", "blur": "blur",
        "entrance": "entrance", "exit": "exit", "pin": "pin",
    },
    rest={"settings": "source", "arranging": "arrangement"},
    parts={"keys": _keys("layer"), "finishes": _finishes("layer"), "behaviours": _behaviours("layer")},
)  # fmt: skip
CUES = Table(
    "cues",
    columns=_same(
        "name", "gain", "pan", "muted", "skip", "lasts", "loops", "reversed", "fade_in", "fade_out", kind="sound.kind",
        tied_to="tie.to", tied_layer="tie.layer", tied_item="tie.item", at_offset="tie.offset",
        part="part", speed="speed", pitched="pitched",
    ),
    json={"line": "line", "counted": "counted"},
    rest={"settings": "sound"},
)  # fmt: skip
PROJECTS = Table(
    "projects", ordered=False,
    columns=_same("name", "width", "height", "rate", "background", shutter="blur.shutter", shutter_phase="blur.phase"),
    json={n: n for n in ("loop", "behaviours", "palette", "sets", "mix", "made")},
)  # fmt: skip
ASSETS = Table("assets", columns=_same("kind", "name", "file", "width", "height", "seconds"), json={"beats": "beats"})
TRACKS = Table(
    "tracks", ordered=False, columns=_same("shot", "name", "ref", "first", "model"),
    json={n: n for n in ("matrices", "confidence", "touched", "patch", "fixes")},
)  # fmt: skip
MOMENTS = Table("moments", owner="shot", ordered=False, columns=_same("frame", "name", "tag"))
TABLES = {
    "project_shots",
    *(
        t.name
        for top in (PROJECTS, MOMENTS, ASSETS, GROUND, HOLDS, TRACKS, LAYERS, CUES)
        for t in (top, *top.parts.values())
    ),
}


def difference(before: Document | None, after: Document) -> list[Change]:
    """The changes of a project's rows from one document to the next; from nothing, all of them are new."""
    project = after.project
    shared = {"project": project.id}
    changes: list[Change] = []
    bare: dict[str, Any] = {"ground": [], "layers": [], "cues": []}
    heads = [PROJECTS.row(d.project.model_copy(update=bare), project.id, {}) if d else None for d in (before, after)]
    if heads[0] != heads[1]:
        changes.append({"table": "projects", "id": project.id, "before": heads[0], "after": heads[1]})
    links = [_links(d, project.id) for d in (before, after)]
    for id_ in [*links[0], *(k for k in links[1] if k not in links[0])]:
        was, now = links[0].get(id_), links[1].get(id_)
        if was != now:
            changes.append({"table": "project_shots", "id": id_, "before": was, "after": now})
    shots = [d.shots if d else {} for d in (before, after)]
    for id_ in dict.fromkeys([*shots[0], *shots[1]]):
        sides = [s[id_].moments if id_ in s else [] for s in shots]
        if sides[0] is not sides[1]:
            changes.extend(changes_of(MOMENTS, sides[0], sides[1], shared, id_))
    lists: Iterable[tuple[Table, Any, Any]] = (
        (ASSETS, list(before.assets.values()) if before else [], list(after.assets.values())),
        (GROUND, before.project.ground if before else [], project.ground),
        (HOLDS, list(before.holds.values()) if before else [], list(after.holds.values())),
        (TRACKS, list(before.tracks.values()) if before else [], list(after.tracks.values())),
        (LAYERS, before.project.layers if before else [], project.layers),
        (CUES, before.project.cues if before else [], project.cues),
    )
    for table, old, new in lists:
        if old is not new:
            changes.extend(changes_of(table, old, new, shared))
    return changes


def _links(document: Document | None, project: str) -> dict[str, Row]:
    shots = document.shots if document else {}
    ids = ((n, s, f"{project}:{s}") for n, s in enumerate(shots))
    return {id_: {"id": id_, "project": project, "shot": s, "position": n} for n, s, id_ in ids}


def read_document(
    connection: sqlite3.Connection, project: str, known: Document | None = None, changed: Iterable[Change] = ()
) -> Document | None:
    """The document of a project, or None.

    With the document that is `known` from before some changes, only what those touch is read.
    """
    head = connection.execute("SELECT * FROM projects WHERE id = ?", (project,)).fetchone()
    if head is None:
        return None
    mine = "project = ?", (project,)
    touched = None if known is None else _touched(changed)
    moments: dict[str, list[Moment]] = {}
    for shot, data in read_owned(connection, MOMENTS, *mine):
        moments.setdefault(shot, []).append(Moment.model_validate(data))
    shots = {}
    for (id_,) in connection.execute("SELECT shot FROM project_shots WHERE project = ? ORDER BY position", (project,)):
        own = sorted(moments.get(id_, []), key=lambda m: m.frame)
        same = known.shots.get(id_) if known else None
        if same is None:
            same = read_shot(connection.execute("SELECT * FROM shots WHERE id = ?", (id_,)).fetchone())
        shots[id_] = same if same.moments == own else same.model_copy(update={"moments": own})

    def all_of(table: Table, model: type[Model], before: Iterable) -> list:
        if touched is None:
            return [model.model_validate(data) for data in read(connection, table, *mine).values()]
        order = "position" if table.ordered else "rowid"
        query = f"SELECT id FROM {table.name} WHERE project = ? ORDER BY {order}"
        ids = [id_ for (id_,) in connection.execute(query, (project,))]
        kept = {t.id: t for t in before if t.id not in touched}
        fresh = read(connection, table, *mine, only={i for i in ids if i not in kept})
        return [kept[i] if i in kept else model.model_validate(fresh[i]) for i in ids]

    assets = all_of(ASSETS, Asset, known.assets.values() if known else ())
    ground = all_of(GROUND, GroundItem, known.project.ground if known else ())
    holds = all_of(HOLDS, Hold, known.holds.values() if known else ())
    tracks = all_of(TRACKS, Track, known.tracks.values() if known else ())
    layers = all_of(LAYERS, Layer, known.project.layers if known else ())
    cues = all_of(CUES, Cue, known.project.cues if known else ())
    data = PROJECTS.data(head, {})
    made = Project.model_validate(data).model_copy(update={"ground": ground, "layers": layers, "cues": cues})
    return Document.model_construct(
        project=made,
        shots=shots,
        holds={h.id: h for h in holds},
        assets={a.id: a for a in assets},
        tracks={t.id: t for t in tracks},
    )


def _touched(changes: Iterable[Change]) -> set[str]:
    """The ids of all ground items, holds and layers whose own rows or whose parts' rows change."""
    ids = set()
    for change in changes:
        ids.add(change["id"])
        for row in (change["before"], change["after"]):
            ids |= {row[owner] for owner in ("hold", "layer", "ground_item") if row and row.get(owner)}
    return ids


def read_shot(row: sqlite3.Row) -> Shot:
    """A shot from its row, without a project's moments."""
    columns = dict(row)
    columns |= {"ticks": np.frombuffer(row["ticks"], "<i8").tolist(), "cuts": json.loads(row["cuts"])}
    return Shot.model_validate(columns)


def write_shot(connection: sqlite3.Connection, shot: Shot) -> None:
    """Adds a shot."""
    columns = shot.model_dump(exclude={"moments", "ticks"}) | {"rate": str(shot.rate)}
    columns |= {"ticks": np.array(shot.ticks, "<i8").tobytes(), "cuts": json.dumps(shot.cuts)}
    insert(connection, "shots", columns)
