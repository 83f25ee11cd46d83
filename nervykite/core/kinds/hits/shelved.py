"""A sound of the shelf, as a cue."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...common.errors import Refusal
from ...piece.model import Counted, Document
from ...piece.model.base import Id
from ...piece.model.cue import Sounding
from ...piece.model.kinds import HIDDEN


class ShelvedSound(Sounding):
    """Music, a voice, a noise that was imported."""

    kind: Literal["shelved"] = "shelved"
    title: ClassVar[str] = "Sound"
    hint: ClassVar[str] = "A sound of the shelf"

    asset: Annotated[Id, HIDDEN]
    stored: Annotated[str, Field(pattern="^[0-9a-f]{64}$"), HIDDEN]

    @property
    def file(self) -> str | None:
        return self.stored

    def made(self) -> np.ndarray | None:
        return None

    def checked(self, document: Document) -> Sounding:
        found = document.assets.get(self.asset)
        if found is None or found.kind != "sound" or found.file != self.stored:
            raise Refusal("That sound is not on this project's shelf. Import it first.")
        return self

    def seconds(self, document: Document) -> float | None:
        return next((a.seconds for a in document.assets.values() if a.file == self.stored), None)

    def counted(self, document: Document) -> Counted | None:
        asset = document.assets.get(self.asset)
        return asset.beats if asset else None

    def called(self, document: Document) -> str:
        asset = document.assets.get(self.asset)
        return asset.name if asset else self.title
