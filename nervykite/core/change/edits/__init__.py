"""Everything a person can do to a document: each edit is data, has a name for undo, and makes a new document.

`apply` never changes the document it is given. It raises Refusal, with a sentence, when the edit does not fit it.
"""

from typing import Annotated

from pydantic import Field, TypeAdapter

from .adding import AddLayer, AddPicture
from .aligning import AlignLayers, DistributeLayers
from .animating import (
    ChangeKeys,
    ChosenKeys,
    KeysApart,
    MoveKeys,
    PasteKeys,
    RemoveKeys,
    ReverseKeys,
    SpreadKeys,
    StaggerKeys,
)
from .arranging import ArrangeLayers
from .base import Edit
from .beating import CorrectBeats, HoldsOnBeats
from .behaving import ChangePiece, IntoKeys
from .carding import AddCard
from .cueing import AddCue, ChangeCue, RemoveCues, SoundMove
from .dressing import DressLike, KeepSet, PutSet, RemoveSet, SetPalette
from .ground import (
    AddColour,
    AddGround,
    AddPlate,
    AddShot,
    AddStandstill,
    ChangeGround,
    DuplicateGround,
    ExchangeGround,
    LayGround,
    MoveGround,
    RemoveGround,
    SlipGround,
    SplitGround,
)
from .groups import Dissolve, MakeGroup
from .holds import FRINGE, ChangeMatte, HoldFrame, PutFound, SetPlate
from .keyframing import PutAtRest, RemoveKey, SetKey, SetKeys, SetValue
from .layering import ChangeLayer, DuplicateLayer, MakeSeparate, MoveLayer, RemoveLayer
from .mix_levels import ChangeLoudness, ChangeMix, DetachSound, SplitCue
from .moments import AddMoment, ChangeMoment, NudgeMoment, RemoveMoment
from .moves import MirrorExit, PutMove
from .paste import Clip, PasteLayers, clip_of
from .pinning import AddTrack, FixTrack, PinLayers, RemoveTrack, SteadyGround, Unpin
from .pushing import SlowPush
from .putting_recipes import PutRecipe, RemoveMade
from .reframing import FrameByHand
from .several import Several
from .shelf import AddAsset, RemoveAsset, RenameAsset
from .travel import CarryHolds, CarryTo, ChangeStop, PutCarried, SetTravel
from .waiting import BringBack
from .whole_project import RenameProject, SetCanvas, SetLoop
from .worlds import PutWorld

__all__ = [
    "FRINGE",
    "AddAsset",
    "AddCard",
    "AddColour",
    "AddCue",
    "AddGround",
    "AddLayer",
    "AddMoment",
    "AddPicture",
    "AddPlate",
    "AddShot",
    "AddStandstill",
    "AddTrack",
    "AlignLayers",
    "ArrangeLayers",
    "BringBack",
    "CarryHolds",
    "CarryTo",
    "ChangeCue",
    "ChangeGround",
    "ChangeKeys",
    "ChangeLayer",
    "ChangeLoudness",
    "ChangeMatte",
    "ChangeMix",
    "ChangeMoment",
    "ChangePiece",
    "ChangeStop",
    "ChosenKeys",
    "ClientEdit",
    "Clip",
    "CorrectBeats",
    "DetachSound",
    "Dissolve",
    "DistributeLayers",
    "DressLike",
    "DuplicateGround",
    "DuplicateLayer",
    "Edit",
    "ExchangeGround",
    "FixTrack",
    "FrameByHand",
    "HoldFrame",
    "HoldsOnBeats",
    "IntoKeys",
    "KeepSet",
    "KeysApart",
    "LayGround",
    "MakeGroup",
    "MakeSeparate",
    "MirrorExit",
    "MoveGround",
    "MoveKeys",
    "MoveLayer",
    "NudgeMoment",
    "OneEdit",
    "PasteKeys",
    "PasteLayers",
    "PinLayers",
    "PutAtRest",
    "PutCarried",
    "PutFound",
    "PutMove",
    "PutRecipe",
    "PutSet",
    "PutWorld",
    "RemoveAsset",
    "RemoveCues",
    "RemoveGround",
    "RemoveKey",
    "RemoveKeys",
    "RemoveLayer",
    "RemoveMade",
    "RemoveMoment",
    "RemoveSet",
    "RemoveTrack",
    "RenameAsset",
    "RenameProject",
    "ReverseKeys",
    "SetCanvas",
    "SetKey",
    "SetKeys",
    "SetLoop",
    "SetPalette",
    "SetPlate",
    "SetTravel",
    "SetValue",
    "Several",
    "SlipGround",
    "SlowPush",
    "SoundMove",
    "SplitCue",
    "SplitGround",
    "SpreadKeys",
    "StaggerKeys",
    "SteadyGround",
    "Unpin",
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
    | LayGround
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
    | AddCard
    | PutRecipe
    | RemoveMade
    | AddCue
    | ChangeCue
    | RemoveCues
    | ChangeMix
    | ChangeLoudness
    | DetachSound
    | SplitCue
    | CorrectBeats
    | HoldsOnBeats
    | AddTrack
    | FixTrack
    | SteadyGround
    | RemoveTrack
    | PinLayers
    | Unpin
    | SoundMove
    | FrameByHand
    | AddPicture
    | ArrangeLayers
    | MakeGroup
    | Dissolve
    | BringBack
    | RenameAsset
    | RemoveAsset
    | MoveKeys
    | ChangeKeys
    | RemoveKeys
    | ReverseKeys
    | SpreadKeys
    | PasteKeys
    | StaggerKeys
    | KeysApart
    | IntoKeys
    | ChangePiece
    | DressLike
    | SetPalette
    | KeepSet
    | RemoveSet
    | PutSet
    | PutMove
    | PutWorld
    | MirrorExit
    | SlowPush
    | AlignLayers
    | DistributeLayers,
    Field(discriminator="kind"),
]
"""What can be done by itself, or together with others of these."""

Several.model_rebuild(_types_namespace={"OneEdit": OneEdit})
ClientEdit = Annotated[OneEdit | Several, Field(discriminator="kind")]
"""What a client may ask for: not AddShot, AddAsset, PutCarried, CarryHolds, PutFound and NudgeMoment, which are how
long work ends, nor PasteLayers, of which a client gives only what it copied, by an id."""

client_edit: TypeAdapter[Edit] = TypeAdapter(ClientEdit)
