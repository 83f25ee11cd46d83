"""Databases as earlier versions left them, made of one as it is now."""

import json

from nervykite.store.database import MIGRATIONS

NUMBERS = ("x1", "y1", "x2", "y2")
ADDED = {
    "layers": (
        "pose_width",
        "pose_height",
        "pose_shear",
        "apart",
        "path_whole",
        "path_turns",
        "blur",
        "entrance",
        "exit",
    ),
    "projects": ("behaviours", "shutter", "shutter_phase", "palette", "sets"),
    "keys": ("tied_to", "made", "curve", "bend"),
}

MIXED = {
    "projects": ("mix",),
    "ground_items": ("loudness",),
    "cues": ("part", "speed", "pitched", "line", "counted"),
    "assets": ("beats",),
}


def without_recipes(connection) -> None:
    """Puts a database back to what the sixteenth migration left, which knew of no recipes."""
    assert (MIGRATIONS / "0017.sql").exists()
    connection.execute("ALTER TABLE projects DROP COLUMN made")
    connection.execute("PRAGMA user_version = 16")


def without_asking(connection) -> None:
    """Puts a database back to what the fifteenth migration left, whose jobs did not say what they were asked for."""
    assert (MIGRATIONS / "0016.sql").exists()
    without_recipes(connection)
    connection.execute("ALTER TABLE jobs DROP COLUMN asked")
    connection.execute("PRAGMA user_version = 15")


def without_steadying(connection) -> None:
    """Puts a database back to what the fourteenth migration left, whose tracks were of cameras alone."""
    assert (MIGRATIONS / "0015.sql").exists()
    without_asking(connection)
    for column in ("touched", "patch", "fixes"):
        connection.execute(f"ALTER TABLE tracks DROP COLUMN {column}")
    connection.execute("ALTER TABLE ground_items DROP COLUMN steady")
    connection.execute("PRAGMA user_version = 14")


def without_tracks(connection) -> None:
    """Puts a database back to what the thirteenth migration left, which knew of no tracks and pins."""
    assert (MIGRATIONS / "0014.sql").exists()
    without_steadying(connection)
    connection.execute("DROP TABLE tracks")
    connection.execute("ALTER TABLE layers DROP COLUMN pin")
    connection.execute("PRAGMA user_version = 13")


def without_mixing(connection) -> None:
    """Puts a database back to what the twelfth migration left, which knew of no loudness but that of cues."""
    assert (MIGRATIONS / "0013.sql").exists()
    without_tracks(connection)
    for table, columns in MIXED.items():
        for column in columns:
            connection.execute(f"ALTER TABLE {table} DROP COLUMN {column}")
    connection.execute("PRAGMA user_version = 12")


def without_cues(connection) -> None:
    """Puts a database back to what the eleventh migration left, which knew of no sounds but the footage's."""
    assert (MIGRATIONS / "0012.sql").exists()
    without_mixing(connection)
    connection.execute("DROP TABLE cues")
    connection.execute("PRAGMA user_version = 11")


def without_motion(connection) -> None:
    """Puts keys and their log back to what the eighth migration left: curves of four numbers, no behaviours."""
    assert (MIGRATIONS / "0009.py").exists()
    without_cues(connection)
    connection.execute("DROP TABLE behaviours")
    for number in NUMBERS:
        connection.execute(f"ALTER TABLE keys ADD COLUMN {number} REAL NOT NULL DEFAULT 0")
        connection.execute(f"UPDATE keys SET {number} = coalesce(curve ->> '{number}', 0)")
    for table, columns in ADDED.items():
        for column in columns:
            connection.execute(f"ALTER TABLE {table} DROP COLUMN {column}")
    for project, number, text in connection.execute("SELECT project, number, changes FROM edits").fetchall():
        changes = json.loads(text)
        for change in changes:
            for side in ("before", "after"):
                change[side] = _row(change["table"], change[side])
        connection.execute(
            "UPDATE edits SET changes = ? WHERE project = ? AND number = ?", (json.dumps(changes), project, number)
        )
    connection.execute("PRAGMA user_version = 8")


def _row(table: str, row: dict | None) -> dict | None:
    if row is None:
        return None
    kept = {k: v for k, v in row.items() if k not in ADDED.get(table, ())}
    return kept | (dict.fromkeys(NUMBERS, 0.0) | json.loads(row["curve"]) if table == "keys" else {})


def with_copies_called_echo(connection) -> None:
    """Puts finishes back to what the tenth migration left, when copies beside something were called its echo."""
    assert (MIGRATIONS / "0011.py").exists()
    without_cues(connection)
    connection.execute("UPDATE finishes SET kind = 'echo' WHERE kind = 'repeat'")
    connection.execute("UPDATE projects SET sets = replace(sets, '\"repeat\"', '\"echo\"')")
    for old, new in (('"repeat"', '"echo"'), ('\\"repeat\\"', '\\"echo\\"')):
        connection.execute("UPDATE edits SET changes = replace(changes, ?, ?)", (old, new))
    connection.execute("PRAGMA user_version = 10")
