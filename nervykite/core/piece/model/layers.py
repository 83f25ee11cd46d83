"""Layers in the sky, and what is put on them."""

from typing import Annotated, Any

from pydantic import Field, model_validator

from .arrangement import Arrangement
from .base import Id, Model, Name, Number, new_id
from .behaviour import Behaviour
from .blend import BlendMode
from .finish import FinishKind
from .framing import Framing
from .keys import Key
from .move import PutOn
from .source import Source
from .ties import Tied
from .track import Pin


class Finish(Model):
    """One step of restyling: which, and its settings, filled in and checked against the finish's own model."""

    id: Id = Field(default_factory=new_id)
    kind: Annotated[str, Field(pattern=r"^[a-z][a-z-]{0,40}$")]
    settings: dict[str, Any] = {}
    visible: bool = True

    @model_validator(mode="before")
    @classmethod
    def _filled_in(cls, given: Any) -> Any:
        if isinstance(given, dict) and isinstance(given.get("kind"), str):
            made = FinishKind.family.parse({**(given.get("settings") or {}), "kind": given["kind"]})
            return {**given, "settings": made.settings}
        return given

    @property
    def look(self) -> FinishKind:
        """The finish itself, with these settings."""
        return FinishKind.family.parse({**self.settings, "kind": self.kind})


Factor = Annotated[float, Field(ge=-50, le=50)]


class Pose(Model):
    """Where a layer is in a channel that has no keys; as it stands here, at rest on its own place.

    Position is in project pixels from the place of rest; scale 1 = as it rests, width and height multiply it along its
    own axes (below 0 it is seen from behind); rotation in degrees clockwise; shear in degrees that its upright lines
    lean to the left; opacity 0…1.
    """

    position: tuple[Number, Number] = (0.0, 0.0)
    scale: Annotated[float, Field(ge=0, le=50)] = 1.0
    width: Factor = 1.0
    height: Factor = 1.0
    rotation: Number = 0.0
    shear: Annotated[float, Field(ge=-80, le=80)] = 0.0
    opacity: Annotated[float, Field(ge=0, le=1)] = 1.0


class Way(Model):
    """The way a layer goes along its motion path.

    `whole`: it is one journey from the first key to the last, eased as the first key says; those between give it its
    shape alone. Otherwise each stretch between two keys is eased by itself. `turns`: it turns along with the path, and
    is upright where it lands.
    """

    whole: bool = False
    turns: bool = False


class Blur(Model):
    """Motion blur: for so many degrees of the time from frame to frame the shutter is open, from so many on.

    360° are the whole time; `phase` counts from the frame, so that −90 with 180 is evenly around it. 0° is none.
    """

    shutter: Annotated[float, Field(ge=0, le=720)] = 180.0
    phase: Annotated[float, Field(ge=-720, le=720)] = -90.0


class Layer(Model):
    """Something that flies: what it shows (`source`), how it lies in time, where it is.

    `over` is the ground item whose footage shows its moment (None: it hangs over none). `starts` and `ends` are the
    free ends of its span, where the arrangement has any (None: the piece's own). `framing` is how it rests on the
    canvas (None: as what it hangs over). `anchor` is in the source's own pixels (None: the middle of what there is to
    see). `apart` says that across and down have keys of their own, in place of position. `blur` is its own motion
    blur (None: that of what it belongs to). `entrance` and `exit` are the moves that were put on it. `group` is the
    group that it belongs to, `pin` what fixes it to the scene, `tag` a word that somebody marked it with; while some
    layers are `solo`, no others are seen.
    """

    id: Id = Field(default_factory=new_id)
    name: Name
    source: Source
    over: Id | None = None
    group: Id | None = None
    arrangement: Arrangement
    starts: Tied | None = None
    ends: Tied | None = None
    framing: Framing | None = None
    anchor: tuple[Number, Number] | None = None
    visible: bool = True
    locked: bool = False
    solo: bool = False
    tag: Annotated[Name, Field(max_length=24)] | None = None
    blend: BlendMode = "normal"
    pose: Pose = Pose()
    pin: Pin | None = None
    apart: bool = False
    way: Way = Way()
    blur: Blur | None = None
    entrance: PutOn | None = None
    exit: PutOn | None = None
    keys: list[Key] = []
    finishes: list[Finish] = []
    behaviours: list[Behaviour] = []
