"""A project and its ground."""

from fractions import Fraction
from typing import Annotated

from pydantic import Field

from .base import Colour, Id, Model, Name, Rate, new_id
from .behaviour import Behaviour
from .cue import Cue
from .framing import Framing
from .keys import Key
from .layers import Blur, Finish, Layer
from .mixing import Loudness, Mix
from .recipe import Made
from .source import Source
from .track import Steady


class GroundItem(Model):
    """A stretch of the ground: what it shows, how that lies on the canvas, what it wears, and how loud it is.

    `fade` is how many of its frames what lies before it takes to go over into it; `steady` how it is steadied.
    """

    id: Id = Field(default_factory=new_id)
    source: Source
    framing: Framing = Framing()
    fade: Annotated[int, Field(ge=0, le=600)] = 0
    finishes: list[Finish] = []
    behaviours: list[Behaviour] = []
    keys: list[Key] = []
    loudness: Loudness = Loudness()
    steady: Steady | None = None

    @property
    def stirs(self) -> bool:
        """True if it may lie otherwise at one time than at another."""
        return bool(self.keys or self.behaviours or self.steady)


Side = Annotated[int, Field(ge=16, le=4096, multiple_of=2)]


class FinishSet(Model):
    """Finishes under a name, to be put on others."""

    id: Id = Field(default_factory=new_id)
    name: Name
    finishes: list[Finish]


class Project(Model):
    """A piece of work: canvas, rate, ground in order, layers from the farthest to the nearest, cues, mix.

    Its behaviours move all that is seen; its motion blur is that of all that has none of its own. `palette` and `sets`
    are what is kept for dressing, `made` is what recipes made of it.
    """

    id: Id = Field(default_factory=new_id)
    name: Name
    width: Side = 1080
    height: Side = 1920
    rate: Rate = Fraction(30)
    background: Colour = "#000000"
    ground: list[GroundItem] = []
    layers: list[Layer] = []
    cues: list[Cue] = []
    mix: Mix = Mix()
    loop: tuple[int, int] | None = None
    behaviours: list[Behaviour] = []
    blur: Blur = Blur(shutter=0)
    palette: list[Colour] = []
    sets: list[FinishSet] = []
    made: list[Made] = []

    @property
    def owners(self) -> list[Layer | GroundItem]:
        """All that can have keys: layers and ground items."""
        return [*self.layers, *self.ground]
