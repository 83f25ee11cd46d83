"""The needs for stored files and shots: written in the transaction of what comes to need them.

An edit needs what its rows speak of, on either side: undo brings back the one, redo the other. An edit that is dropped
lets go of what it needed, and so does a project or a saved matte; the database sees to that. What nobody needs any more
goes when `files.Files.collect` comes by.
"""

import re
import sqlite3
from collections.abc import Iterable

from .codec import Change

HASH = re.compile("(?<![0-9a-f])[0-9a-f]{64}(?![0-9a-f])")
"""What the hash of a file looks like, wherever it stands in a row. Kinds need not say which of their settings it is."""


def own(connection: sqlite3.Connection, project: str, edit: int | None, changes: Iterable[Change], text: str) -> None:
    """Has an edit, or a project as it was made (None), need the files and shots that its changes speak of.

    text: the changes as JSON.
    """
    rows = [row for change in changes for row in (change["before"], change["after"]) if row]
    shots = {row["shot"] for row in rows if row.get("shot")}
    connection.executemany(
        "INSERT INTO shot_owners (shot, project, edit) VALUES (?, ?, ?)", [(s, project, edit) for s in sorted(shots)]
    )
    # A name may look like a hash and be none.
    connection.executemany(
        "INSERT INTO file_owners (file, project, edit) SELECT hash, ?, ? FROM files WHERE hash = ?",
        [(project, edit, hash_) for hash_ in sorted(set(HASH.findall(text)))],
    )


def own_for_matte(connection: sqlite3.Connection, matte: str, text: str) -> None:
    """Has a saved matte need the files that it speaks of as JSON."""
    connection.executemany(
        "INSERT INTO file_owners (file, matte) SELECT hash, ? FROM files WHERE hash = ?",
        [(matte, hash_) for hash_ in sorted(set(HASH.findall(text)))],
    )


NEEDED = """
  SELECT file FROM file_owners WHERE file = files.hash
  UNION ALL SELECT file FROM shots WHERE file = files.hash
  UNION ALL SELECT proxy_file FROM shots WHERE proxy_file = files.hash
  UNION ALL SELECT sound_file FROM shots WHERE sound_file = files.hash
"""
"""Rows, if somebody needs the file of the row of `files` that is looked at."""

TAKEN = """
  SELECT project, file FROM file_owners WHERE project IS NOT NULL
  UNION SELECT project, file FROM shot_owners JOIN shots ON shots.id = shot
  UNION SELECT project, proxy_file FROM shot_owners JOIN shots ON shots.id = shot
  UNION SELECT project, sound_file FROM shot_owners JOIN shots ON shots.id = shot WHERE sound_file IS NOT NULL
"""
"""Each project with each file that it needs, once."""


def bytes_by_project(connection: sqlite3.Connection) -> dict[str, int]:
    """The number of bytes the stored files take that each project needs; what two share counts for both."""
    rows = connection.execute(
        f"SELECT project, sum(size) FROM ({TAKEN}) JOIN files ON files.hash = file GROUP BY project"
    )
    return dict(rows.fetchall())


def bytes_by_shot(connection: sqlite3.Connection, project: str) -> dict[str, int]:
    """The number of bytes each shot takes that a project needs: the file, and what is made of it."""
    rows = connection.execute(
        "SELECT shots.id, sum(files.size) FROM shots JOIN files ON files.hash IN (file, proxy_file, sound_file)"
        " WHERE shots.id IN (SELECT shot FROM shot_owners WHERE project = ?) GROUP BY shots.id",
        (project,),
    )
    return dict(rows.fetchall())
