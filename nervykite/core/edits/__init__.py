"""Everything a person can do to a document: each edit is data, has a name for undo, and makes a new document.

`apply` never changes the document it is given. It raises Refusal, with a sentence, when the edit does not fit it.
"""

from typing import Annotated

from pydantic import Field, TypeAdapter

from .adding import AddLayer, AddPicture
from .arranging import ArrangeLayers
from .base import Edit
from .framing import FrameByHand
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
from .groups import Dissolve, MakeGroup
from .holds import FRINGE, ChangeMatte, HoldFrame, SetPlate
from .keys import PutAtRest, RemoveKey, SetKey, SetKeys, SetValue
from .layers import ChangeLayer, DuplicateLayer, MakeSeparate, MoveLayer, RemoveLayer
from .moments import AddMoment, ChangeMoment, NudgeMoment, RemoveMoment
from .paste import Clip, PasteLayers, clip_of
from .project import RenameProject, SetCanvas, SetLoop
from .several import Several
from .shelf import AddAsset, RemoveAsset, RenameAsset
from .travel import CarryHolds, CarryTo, ChangeStop, PutCarried, SetTravel
from .waiting import BringBack

__all__ = [
    "FRINGE",
    "AddAsset",
    "AddColour",
    "AddGround",
    "AddLayer",
    "AddMoment",
    "AddPicture",
    "AddPlate",
    "AddShot",
    "AddStandstill",
    "ArrangeLayers",
    "BringBack",
    "CarryHolds",
    "CarryTo",
    "ChangeGround",
    "ChangeLayer",
    "ChangeMatte",
    "ChangeMoment",
    "ChangeStop",
    "ClientEdit",
    "Clip",
    "Dissolve",
    "DuplicateGround",
    "DuplicateLayer",
    "Edit",
    "ExchangeGround",
    "FrameByHand",
    "HoldFrame",
    "MakeGroup",
    "MakeSeparate",
    "MoveGround",
    "MoveLayer",
    "NudgeMoment",
    "OneEdit",
    "PasteLayers",
    "PutAtRest",
    "PutCarried",
    "RemoveAsset",
    "RemoveGround",
    "RemoveKey",
    "RemoveLayer",
    "RemoveMoment",
    "RenameAsset",
    "RenameProject",
    "SetCanvas",
    "SetKey",
    "SetKeys",
    "SetLoop",
    "SetPlate",
    "SetTravel",
    "SetValue",
    "Several",
    "SlipGround",
    "SplitGround",
    "client_edit",
    "clip_of",
]

OneEdit = Annotated[
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
    | PutAtRest
    | AddLayer
    | FrameByHand
    | AddPicture
    | ArrangeLayers
    | MakeGroup
    | Dissolve
    | BringBack
    | RenameAsset
    | RemoveAsset,
    Field(discriminator="kind"),
]
"""What can be done by itself, or together with others of these."""

Several.model_rebuild(_types_namespace={"OneEdit": OneEdit})
ClientEdit = Annotated[OneEdit | Several, Field(discriminator="kind")]
"""What a client may ask for: not AddShot, AddAsset, PutCarried, CarryHolds and NudgeMoment, which are how long work
ends, nor PasteLayers, of which a client gives only what it copied, by an id."""

client_edit: TypeAdapter[Edit] = TypeAdapter(ClientEdit)
