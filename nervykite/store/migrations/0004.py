"""Kinds in place of lists: sources, arrangements and framings of any kind; free ends as ties; keys of any setting.

Undo logs are cut, as they speak of columns that are gone. What this needs to know of time is written down here as it
was when this was new, and stays so.
"""

import math
import sqlite3
from fractions import Fraction

import numpy as np

TABLES = """
CREATE TABLE new_projects (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
  width INTEGER NOT NULL CHECK (width BETWEEN 16 AND 4096 AND width % 2 = 0),
  height INTEGER NOT NULL CHECK (height BETWEEN 16 AND 4096 AND height % 2 = 0),
  rate TEXT NOT NULL,
  background TEXT NOT NULL,
  loop TEXT NOT NULL DEFAULT 'null' CHECK (json_valid(loop)),
  revision INTEGER NOT NULL DEFAULT 0,
  changed TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now')),
  deleted TEXT
) STRICT;

CREATE TABLE new_ground_items (
  id TEXT PRIMARY KEY,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  position INTEGER NOT NULL,
  kind TEXT NOT NULL,
  shot TEXT REFERENCES shots (id),
  settings TEXT NOT NULL CHECK (json_valid(settings)),
  framing TEXT NOT NULL CHECK (json_valid(framing))
) STRICT;

CREATE TABLE new_holds (
  id TEXT PRIMARY KEY,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  shot TEXT NOT NULL REFERENCES shots (id),
  frame INTEGER NOT NULL CHECK (frame >= 0),
  name TEXT NOT NULL,
  plate TEXT,
  invert INTEGER NOT NULL CHECK (invert IN (0, 1)),
  grow REAL NOT NULL,
  soften_in REAL NOT NULL CHECK (soften_in >= 0),
  soften_out REAL NOT NULL CHECK (soften_out >= 0),
  smooth REAL NOT NULL CHECK (smooth >= 0),
  fine_edge REAL NOT NULL CHECK (fine_edge >= 0),
  fringe REAL NOT NULL CHECK (fringe BETWEEN 0 AND 1),
  travel_first INTEGER CHECK (travel_first >= 0),
  travel_past INTEGER CHECK (travel_past > travel_first)
) STRICT;

CREATE TABLE new_pieces (
  id TEXT PRIMARY KEY,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  hold TEXT NOT NULL REFERENCES holds (id) DEFERRABLE INITIALLY DEFERRED,
  position INTEGER NOT NULL,
  kind TEXT NOT NULL,
  name TEXT NOT NULL,
  combine TEXT NOT NULL,
  invert INTEGER NOT NULL CHECK (invert IN (0, 1)),
  opacity REAL NOT NULL CHECK (opacity BETWEEN 0 AND 1),
  visible INTEGER NOT NULL CHECK (visible IN (0, 1)),
  grow REAL NOT NULL,
  soften_in REAL NOT NULL CHECK (soften_in >= 0),
  soften_out REAL NOT NULL CHECK (soften_out >= 0),
  settings TEXT NOT NULL CHECK (json_valid(settings))
) STRICT;

CREATE TABLE new_layers (
  id TEXT PRIMARY KEY,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  position INTEGER NOT NULL, -- 0 is the farthest
  name TEXT NOT NULL,
  kind TEXT NOT NULL,
  hold TEXT REFERENCES holds (id) DEFERRABLE INITIALLY DEFERRED,
  shot TEXT REFERENCES shots (id),
  settings TEXT NOT NULL CHECK (json_valid(settings)),
  over TEXT NOT NULL REFERENCES ground_items (id) DEFERRABLE INITIALLY DEFERRED,
  arrangement TEXT NOT NULL,
  arranging TEXT NOT NULL CHECK (json_valid(arranging)),
  starts_to TEXT,
  starts_item TEXT REFERENCES ground_items (id) DEFERRABLE INITIALLY DEFERRED,
  starts_offset INTEGER CHECK ((starts_to IS NULL) = (starts_offset IS NULL)),
  ends_to TEXT,
  ends_item TEXT REFERENCES ground_items (id) DEFERRABLE INITIALLY DEFERRED,
  ends_offset INTEGER CHECK ((ends_to IS NULL) = (ends_offset IS NULL)),
  anchor TEXT NOT NULL CHECK (json_valid(anchor)),
  visible INTEGER NOT NULL CHECK (visible IN (0, 1)),
  locked INTEGER NOT NULL CHECK (locked IN (0, 1)),
  pose_position TEXT NOT NULL CHECK (json_valid(pose_position)),
  pose_scale REAL NOT NULL CHECK (pose_scale >= 0),
  pose_rotation REAL NOT NULL,
  pose_opacity REAL NOT NULL CHECK (pose_opacity BETWEEN 0 AND 1)
) STRICT;

CREATE TABLE new_keys (
  id TEXT PRIMARY KEY,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  layer TEXT REFERENCES layers (id) DEFERRABLE INITIALLY DEFERRED,
  ground_item TEXT REFERENCES ground_items (id) DEFERRABLE INITIALLY DEFERRED,
  position INTEGER NOT NULL,
  channel TEXT NOT NULL,
  tie TEXT NOT NULL,
  at_offset INTEGER NOT NULL,
  value TEXT NOT NULL CHECK (json_valid(value)),
  easing TEXT NOT NULL,
  x1 REAL NOT NULL CHECK (x1 BETWEEN 0 AND 1),
  y1 REAL NOT NULL,
  x2 REAL NOT NULL CHECK (x2 BETWEEN 0 AND 1),
  y2 REAL NOT NULL,
  CHECK ((layer IS NULL) <> (ground_item IS NULL))
) STRICT;

CREATE TABLE new_jobs (
  id TEXT PRIMARY KEY,
  kind TEXT NOT NULL,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE,
  title TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'failed', 'cancelled')),
  progress REAL NOT NULL DEFAULT 0 CHECK (progress BETWEEN 0 AND 1),
  message TEXT,
  result TEXT CHECK (result IS NULL OR json_valid(result)),
  made TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
) STRICT;

DELETE FROM edits;
INSERT INTO new_projects SELECT id, name, width, height, rate, background,
  CASE WHEN loop_start IS NULL THEN 'null' ELSE json_array(loop_start, loop_end) END, revision, changed, deleted
  FROM projects;
INSERT INTO new_ground_items SELECT id, project, position, kind, shot,
  CASE kind WHEN 'plate' THEN json_object('first', first, 'past', past, 'plate', plate)
            ELSE json_object('first', first, 'past', past) END,
  json_object('mode', CASE fit WHEN 'cover' THEN 'fill' ELSE 'fit' END) FROM ground_items;
INSERT INTO new_holds SELECT id, project, shot, frame, name, plate, invert, grow, soften_in, soften, smooth, fine_edge,
  fringe, travel_first, travel_past FROM holds;
INSERT INTO new_pieces SELECT id, project, hold, position, kind, name, combine, invert, opacity, visible, grow,
  soften_in, soften_out, settings FROM pieces;
INSERT INTO new_keys SELECT id, project, layer, NULL, position, channel, tie, at_offset,
  CASE WHEN value_y IS NULL THEN json_array(value_x) ELSE json_array(value_x, value_y) END, easing, x1, y1, x2, y2
  FROM keys;
INSERT INTO new_layers SELECT id, project, position, name, CASE arrangement WHEN 'along' THEN 'moving' ELSE 'hold' END,
  hold, NULL, json_object('fill', json(CASE fill WHEN 0 THEN 'false' ELSE 'true' END)), over, arrangement, '{}',
  NULL, NULL, NULL, NULL, NULL, NULL,
  CASE WHEN anchor_x IS NULL THEN 'null' ELSE json_array(anchor_x, anchor_y) END, visible, locked,
  json_array(pose_x, pose_y), pose_scale, pose_rotation, pose_opacity FROM layers;
INSERT INTO new_jobs SELECT * FROM jobs
"""

RENAMED = ("projects", "ground_items", "holds", "pieces", "layers", "keys", "jobs")


def migrate(connection: sqlite3.Connection) -> None:
    """Brings the tables up to date; free ends at absolute frames are tied to where their layers land."""
    for statement in TABLES.split(";"):
        connection.execute(statement)
    for (project,) in connection.execute("SELECT id FROM projects").fetchall():
        _tie(connection, project)
    for table in RENAMED:
        connection.execute(f"DROP TABLE {table}")
        connection.execute(f"ALTER TABLE new_{table} RENAME TO {table}")
        if table != "projects":
            connection.execute(f"CREATE INDEX by_{table} ON {table} (project)")


def _tie(connection: sqlite3.Connection, project: str) -> None:
    (rate,) = connection.execute("SELECT rate FROM projects WHERE id = ?", (project,)).fetchone()
    shown: dict[str, tuple[int, np.ndarray]] = {}
    at = 0
    for item in connection.execute("SELECT * FROM ground_items WHERE project = ? ORDER BY position", (project,)):
        shot = connection.execute("SELECT * FROM shots WHERE id = ?", (item["shot"],)).fetchone()
        table = _conform(item, shot, Fraction(rate))
        shown[item["id"]] = at, table
        at += len(table)
    layers = connection.execute(
        "SELECT layers.id, layers.over, layers.until, layers.arrangement, holds.frame, ground_items.kind FROM layers"
        " JOIN holds ON holds.id = layers.hold JOIN ground_items ON ground_items.id = layers.over"
        " AND ground_items.shot = holds.shot WHERE layers.project = ? AND layers.until IS NOT NULL",
        (project,),
    ).fetchall()
    for layer in layers:
        start, table = shown[layer["over"]]
        frame = layer["frame"]
        end = {"trail": "ends", "ahead": "starts"}.get(layer["arrangement"])
        if end is None or layer["kind"] != "shot" or not table[0] <= frame <= table[-1]:
            continue
        seen = table[np.searchsorted(table, frame, side="right") - 1]
        landing = start + int(np.searchsorted(table, seen, side="left"))
        until = min(layer["until"], at)
        tie = ("piece end", 0) if until == at and end == "ends" else ("landing", until - landing)
        connection.execute(f"UPDATE new_layers SET {end}_to = ?, {end}_offset = ? WHERE id = ?", (*tie, layer["id"]))


def _conform(item: sqlite3.Row, shot: sqlite3.Row, rate: Fraction) -> np.ndarray:
    first, past = item["first"], item["past"]
    if item["kind"] == "plate":
        return np.full(max(1, round((past - first) / Fraction(shot["rate"]) * rate)), first, np.int64)
    tick, all_ticks = Fraction(shot["tick"]), np.frombuffer(shot["ticks"], "<i8")
    past = min(past, len(all_ticks) - 1)
    first = min(first, past - 1)
    lasts = max(1, round(int(all_ticks[past] - all_ticks[first]) * tick * rate))
    step, early = 1 / rate / tick, min(1 / (4 * rate), 1 / (2 * Fraction(shot["rate"]))) / tick
    whole = math.lcm(step.denominator, early.denominator)
    at = np.arange(lasts, dtype=np.int64) * int(step * whole) + int(early * whole)
    return np.searchsorted((all_ticks[first:past] - all_ticks[first]) * whole, at, side="right") - 1 + first
