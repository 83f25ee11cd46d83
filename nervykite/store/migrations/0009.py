"""Motion: easings of any kind, keys tied to moments and cuts, bent paths, moves, behaviours, motion blur.

The numbers of a key's curve become JSON beside its kind, in the table and in the log of edits, so that undo reaches
back across this.
"""

import json
import sqlite3
from typing import Any

TABLES = """
CREATE TABLE behaviours (
  id TEXT PRIMARY KEY,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  layer TEXT REFERENCES layers (id) DEFERRABLE INITIALLY DEFERRED,
  ground_item TEXT REFERENCES ground_items (id) DEFERRABLE INITIALLY DEFERRED,
  position INTEGER NOT NULL,
  kind TEXT NOT NULL,
  visible INTEGER NOT NULL CHECK (visible IN (0, 1)),
  strength REAL NOT NULL CHECK (strength >= 0),
  seed INTEGER NOT NULL CHECK (seed >= 0),
  fade_in INTEGER NOT NULL CHECK (fade_in >= 0),
  fade_out INTEGER NOT NULL CHECK (fade_out >= 0),
  since INTEGER NOT NULL,
  until INTEGER NOT NULL,
  settings TEXT NOT NULL CHECK (json_valid(settings)),
  CHECK ((layer IS NULL) <> (ground_item IS NULL))
) STRICT;
CREATE INDEX by_behaviours ON behaviours (project);
ALTER TABLE keys ADD COLUMN tied_to TEXT;
ALTER TABLE keys ADD COLUMN made TEXT;
ALTER TABLE keys ADD COLUMN curve TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(curve));
ALTER TABLE keys ADD COLUMN bend TEXT NOT NULL DEFAULT 'null' CHECK (json_valid(bend));
UPDATE keys SET curve = json_object('x1', x1, 'y1', y1, 'x2', x2, 'y2', y2) WHERE easing = 'bezier';
ALTER TABLE keys DROP COLUMN x1;
ALTER TABLE keys DROP COLUMN y1;
ALTER TABLE keys DROP COLUMN x2;
ALTER TABLE keys DROP COLUMN y2;
ALTER TABLE layers ADD COLUMN pose_width REAL NOT NULL DEFAULT 1;
ALTER TABLE layers ADD COLUMN pose_height REAL NOT NULL DEFAULT 1;
ALTER TABLE layers ADD COLUMN pose_shear REAL NOT NULL DEFAULT 0;
ALTER TABLE layers ADD COLUMN apart INTEGER NOT NULL DEFAULT 0 CHECK (apart IN (0, 1));
ALTER TABLE layers ADD COLUMN path_whole INTEGER NOT NULL DEFAULT 0 CHECK (path_whole IN (0, 1));
ALTER TABLE layers ADD COLUMN path_turns INTEGER NOT NULL DEFAULT 0 CHECK (path_turns IN (0, 1));
ALTER TABLE layers ADD COLUMN blur TEXT NOT NULL DEFAULT 'null' CHECK (json_valid(blur));
ALTER TABLE layers ADD COLUMN entrance TEXT NOT NULL DEFAULT 'null' CHECK (json_valid(entrance));
ALTER TABLE layers ADD COLUMN exit TEXT NOT NULL DEFAULT 'null' CHECK (json_valid(exit));
ALTER TABLE projects ADD COLUMN behaviours TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(behaviours));
ALTER TABLE projects ADD COLUMN shutter REAL NOT NULL DEFAULT 0 CHECK (shutter >= 0);
ALTER TABLE projects ADD COLUMN shutter_phase REAL NOT NULL DEFAULT -90
"""
NUMBERS = ("x1", "y1", "x2", "y2")


def migrate(connection: sqlite3.Connection) -> None:
    """Brings tables and log up to date."""
    for statement in TABLES.split(";"):
        connection.execute(statement)
    for number, project, text in connection.execute("SELECT number, project, changes FROM edits").fetchall():
        changes = json.loads(text)
        touched = [c for c in changes if c["table"] == "keys"]
        for change in touched:
            for side in ("before", "after"):
                change[side] = _with_curve(change[side])
        if touched:
            connection.execute(
                "UPDATE edits SET changes = ? WHERE project = ? AND number = ?",
                (json.dumps(changes, separators=(",", ":"), ensure_ascii=False), project, number),
            )


def _with_curve(row: dict[str, Any] | None) -> dict[str, Any] | None:
    if row is None or "x1" not in row:
        return row
    kept = {k: v for k, v in row.items() if k not in NUMBERS}
    curve = {n: row[n] for n in NUMBERS} if row["easing"] == "bezier" else {}
    return {**kept, "curve": json.dumps(curve, separators=(",", ":"))}
