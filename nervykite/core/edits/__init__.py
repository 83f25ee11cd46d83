"""Everything a person can do to a document: each edit is data, has a name for undo, and makes a new document.

`apply` never changes the document it is given. It raises Refusal, with a sentence, when the edit does not fit it.
"""

from typing import Annotated

from pydantic import Field, TypeAdapter

from .base import Edit
from .ground import (
    AddColour,
    AddGround,
    AddPlate,
    AddShot,
    AddStandstill,
    ChangeGround,
    DuplicateGround,
    ExchangeGround,
    MoveGround,
    RemoveGround,
    SlipGround,
    SplitGround,
)
from .holds import FRINGE, ChangeMatte, HoldFrame, SetPlate
from .keys import PutAtRest, RemoveKey, SetKey, SetKeys, SetValue
from .layers import ChangeLayer, DuplicateLayer, MakeSeparate, MoveLayer, RemoveLayer
from .moments import AddMoment, ChangeMoment, RemoveMoment
from .project import RenameProject, SetCanvas, SetLoop
from .travel import CarryHolds, CarryTo, ChangeStop, PutCarried, SetTravel

__all__ = [
    "FRINGE",
    "AddColour",
    "AddGround",
    "AddMoment",
    "AddPlate",
    "AddShot",
    "AddStandstill",
    "CarryHolds",
    "CarryTo",
    "ChangeGround",
    "ChangeLayer",
    "ChangeMatte",
    "ChangeMoment",
    "ChangeStop",
    "ClientEdit",
    "DuplicateGround",
    "DuplicateLayer",
    "Edit",
    "ExchangeGround",
    "HoldFrame",
    "MakeSeparate",
    "MoveGround",
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
    "SlipGround",
    "SplitGround",
    "client_edit",
]

ClientEdit = Annotated[
    RenameProject
    | SetCanvas
    | SetLoop
    | AddGround
    | ChangeGround
    | RemoveGround
    | SplitGround
    | AddStandstill
    | AddColour
    | MoveGround
    | DuplicateGround
    | SlipGround
    | ExchangeGround
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
