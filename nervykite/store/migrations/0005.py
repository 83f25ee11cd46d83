"""The needs for stored files and shots, so that what nobody needs can be given back; when a project may be forgotten.

An edit needs what its rows speak of, on either side of it, as undo and redo can bring both back. Until now nothing was
written down; all that is there is taken for what its project was made with.
"""

import re
import sqlite3

TABLES = """
CREATE TABLE file_owners (
  file TEXT NOT NULL REFERENCES files (hash),
  project TEXT REFERENCES projects (id) ON DELETE CASCADE,
  edit INTEGER, -- NULL: the project as it was made
  matte TEXT REFERENCES saved_mattes (id) ON DELETE CASCADE,
  FOREIGN KEY (project, edit) REFERENCES edits (project, number) ON DELETE CASCADE,
  CHECK ((project IS NULL) <> (matte IS NULL))
) STRICT;
CREATE TABLE shot_owners (
  shot TEXT NOT NULL REFERENCES shots (id),
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE,
  edit INTEGER, -- NULL: the project as it was made
  FOREIGN KEY (project, edit) REFERENCES edits (project, number) ON DELETE CASCADE
) STRICT;
CREATE INDEX file_owners_by_file ON file_owners (file);
CREATE INDEX file_owners_by_edit ON file_owners (project, edit);
CREATE INDEX file_owners_by_matte ON file_owners (matte);
CREATE INDEX shot_owners_by_shot ON shot_owners (shot);
CREATE INDEX shot_owners_by_edit ON shot_owners (project, edit);
CREATE INDEX shots_by_file ON shots (file);
CREATE INDEX shots_by_proxy_file ON shots (proxy_file);
CREATE INDEX shots_by_sound_file ON shots (sound_file);
"""
SPEAKS = (("holds", "plate"), ("pieces", "settings"), ("stops", "pieces"), ("ground_items", "settings"))
ID = re.compile("(?<![0-9a-f])[0-9a-f]{16}(?![0-9a-f])")
HASH = re.compile("(?<![0-9a-f])[0-9a-f]{64}(?![0-9a-f])")


def migrate(connection: sqlite3.Connection) -> None:
    """Adds the tables, and fills them from what is there."""
    for statement in TABLES.split(";"):
        connection.execute(statement)
    known = {hash_ for (hash_,) in connection.execute("SELECT hash FROM files")}
    files: set[tuple[str, str]] = set()
    for table, column in SPEAKS:
        for project, text in connection.execute(f"SELECT project, {column} FROM {table}"):
            files |= {(hash_, project) for hash_ in HASH.findall(text or "")}
    shots = {(s, p) for s, p in connection.execute("SELECT shot, project FROM project_shots")}
    ids = {shot for (shot,) in connection.execute("SELECT id FROM shots")}
    for project, changes in connection.execute("SELECT project, changes FROM edits"):
        files |= {(hash_, project) for hash_ in HASH.findall(changes)}
        shots |= {(shot, project) for shot in ids & set(ID.findall(changes))}
    connection.executemany(
        "INSERT INTO file_owners (file, project) VALUES (?, ?)", [(f, p) for f, p in sorted(files) if f in known]
    )
    connection.executemany("INSERT INTO shot_owners (shot, project) VALUES (?, ?)", sorted(shots))
    for matte, text in connection.execute("SELECT id, matte FROM saved_mattes").fetchall():
        rows = [(file, matte) for file in sorted(set(HASH.findall(text)) & known)]
        connection.executemany("INSERT INTO file_owners (file, matte) VALUES (?, ?)", rows)
