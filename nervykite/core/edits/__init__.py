"""Everything a person can do to a document: each edit is data, has a name for undo, and makes a new document.

`apply` never changes the document it is given. It raises Refusal, with a sentence, when the edit does not fit it.
"""

from typing import Annotated

from pydantic import Field, TypeAdapter

from .base import Edit
from .ground import AddGround, AddPlate, AddShot, ChangeGround, RemoveGround
from .holds import FRINGE, ChangeMatte, HoldFrame, SetPlate
from .keys import PutAtRest, RemoveKey, SetKey, SetKeys, SetValue
from .layers import ChangeLayer, DuplicateLayer, MakeSeparate, MoveLayer, RemoveLayer
from .moments import AddMoment, ChangeMoment, RemoveMoment
from .project import RenameProject, SetCanvas, SetLoop
from .travel import CarryHolds, CarryTo, ChangeStop, PutCarried, SetTravel

__all__ = [
    "FRINGE",
    "AddGround",
    "AddMoment",
    "AddPlate",
    "AddShot",
    "CarryHolds",
    "CarryTo",
    "ChangeGround",
    "ChangeLayer",
    "ChangeMatte",
    "ChangeMoment",
    "ChangeStop",
    "ClientEdit",
    "DuplicateLayer",
    "Edit",
    "HoldFrame",
    "MakeSeparate",
    "MoveLayer",
    "PutAtRest",
    "PutCarried",
    "RemoveGround",
    "RemoveKey",
    "RemoveLayer",
    "RemoveMoment",
    "RenameProject",
    "SetCanvas",
    "SetKey",
    "SetKeys",
    "SetLoop",
    "SetPlate",
    "SetTravel",
    "SetValue",
    "client_edit",
]

ClientEdit = Annotated[
    RenameProject
    | SetCanvas
    | SetLoop
    | AddGround
    | ChangeGround
    | RemoveGround
    | AddMoment
    | ChangeMoment
    | RemoveMoment
    | HoldFrame
    | ChangeMatte
    | SetTravel
    | ChangeStop
    | SetPlate
    | AddPlate
    | ChangeLayer
    | MoveLayer
    | RemoveLayer
    | DuplicateLayer
    | MakeSeparate
    | SetValue
    | SetKey
    | RemoveKey
    | SetKeys
    | PutAtRest,
    Field(discriminator="kind"),
]
"""What a client may ask for. AddShot, PutCarried and CarryHolds are not among them: those are how long work ends."""

client_edit: TypeAdapter[Edit] = TypeAdapter(ClientEdit)
