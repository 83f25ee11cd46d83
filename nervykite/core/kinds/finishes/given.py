"""Tones given by something else: a table of colours, another picture."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...craft.finishing.likeness import COUNT, with_tones
from ...craft.finishing.setting_fields import Shelved, percent, shelved
from ...craft.finishing.tables import through_table
from ...piece.model.base import Number
from ...piece.model.finish import FinishKind, Looks, Stage


class ColourTable(FinishKind):
    """Through a table of colours, a .cube file of the shelf."""

    kind: Literal["colour-table"] = "colour-table"
    title: ClassVar[str] = "Colour table"
    hint: ClassVar[str] = "Through a .cube file of the shelf"
    looks: ClassVar[Looks] = "tone"
    rank: ClassVar[int] = 8

    table: Annotated[Shelved, shelved("Table", "table")] = None
    amount: Annotated[float, percent("Amount")] = 1.0

    @property
    def files(self) -> tuple[str, ...]:
        return (self.table,) if self.table else ()

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        table = stage.supplies.table(self.table) if stage.supplies is not None and self.table else None
        return rgba if table is None or not self.amount else through_table(rgba, table, self.amount)


class MatchTones(FinishKind):
    """As light, as contrasty and of the same cast as something else was."""

    kind: Literal["match-tones"] = "match-tones"
    title: ClassVar[str] = "Match tones"
    hint: ClassVar[str] = "As light and of the same cast as something else"
    looks: ClassVar[Looks] = "tone"
    rank: ClassVar[int] = 9

    like: Annotated[
        tuple[Number, ...] | None,
        Field(min_length=COUNT, max_length=COUNT, title="Like", json_schema_extra={"format": "tones"}),
    ] = None
    lightness: Annotated[float, percent("Lightness")] = 0.6
    colour: Annotated[float, percent("Colours")] = 0.6

    def dress(self, rgba: np.ndarray, stage: Stage) -> np.ndarray:
        if self.like is None or not (self.lightness or self.colour):
            return rgba
        return with_tones(rgba, self.like, self.lightness, self.colour)
