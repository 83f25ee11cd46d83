"""Mattes on the shelf, for all projects."""

import json
from typing import Annotated

from pydantic import BaseModel, Field

from ..core.piece.model import Matte
from ..core.piece.model.base import new_id
from .database import Database
from .owners import own_for_matte
from .projects import Missing


class SavedMatte(BaseModel):
    """A matte that was drawn on a frame of the given size, to be put on others."""

    id: str
    name: str
    width: Annotated[int, Field(gt=0)]
    height: Annotated[int, Field(gt=0)]
    matte: Matte


class KeptMattes:
    """Reads and changes the shelf. Every change is on disk when the call returns."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def list(self) -> list[SavedMatte]:
        """All of them, the newest first."""
        with self._database.reading() as connection:
            rows = connection.execute("SELECT * FROM saved_mattes ORDER BY made DESC, rowid DESC").fetchall()
        return [
            SavedMatte(
                id=r["id"], name=r["name"], width=r["width"], height=r["height"], matte=Matte(**json.loads(r["matte"]))
            )
            for r in rows
        ]

    def add(self, name: str, width: int, height: int, matte: Matte) -> SavedMatte:
        """Puts a matte on the shelf."""
        saved = SavedMatte(id=new_id(), name=name, width=width, height=height, matte=matte)
        text = matte.model_dump_json()
        with self._database.writing() as connection:
            connection.execute(
                "INSERT INTO saved_mattes (id, name, width, height, matte) VALUES (?, ?, ?, ?, ?)",
                (saved.id, name, width, height, text),
            )
            own_for_matte(connection, saved.id, text)
        return saved

    def remove(self, matte: str) -> None:
        """Takes a matte off the shelf. Raises Missing."""
        with self._database.writing() as connection:
            if connection.execute("DELETE FROM saved_mattes WHERE id = ?", (matte,)).rowcount == 0:
                raise Missing("That matte is no longer on the shelf.")
