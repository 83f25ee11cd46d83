"""Shots, holds, and the document that an evaluation reads: a project with everything it refers to."""

from collections import Counter
from collections.abc import Sequence
from fractions import Fraction
from itertools import islice
from operator import lt
from typing import Annotated, Literal

from pydantic import Field, model_validator

from .base import MOST_FRAMES, FrameNumber, Id, Model, Name, Rate, new_id
from .beat_grid import Counted
from .layers import Layer
from .matte import Matte, Travel
from .project import GroundItem, Project
from .track import Track

MOST_SECONDS = 6 * 3600
"""No shot lasts longer."""


def take_of(frame: int, frames: int, cuts: Sequence[int]) -> range:
    """The frames of footage of so many frames that belong to the same take as one of them."""
    return range(
        max((c for c in cuts if c <= frame), default=0),
        min((c for c in cuts if c > frame), default=frames),
    )


class Moment(Model):
    """A flagged frame of a shot; its tag is a colour by which a person tells it from others."""

    id: Id = Field(default_factory=new_id)
    frame: FrameNumber
    name: Name = "Moment"
    tag: Annotated[Name, Field(max_length=24)] | None = None


class Shot(Model):
    """An imported file, as its frames came out of the decoder.

    `ticks` are the frames' times in units of `tick` seconds (a fraction), counted from the first; its last
    entry is the end of the last frame, so it is one longer than the number of frames. `cuts` are the frames at
    which another take begins, if the file holds more than one.
    """

    id: Id = Field(default_factory=new_id)
    name: Name
    file: str
    width: Annotated[int, Field(ge=1, le=8192)]
    height: Annotated[int, Field(ge=1, le=8192)]
    rate: Rate
    variable: bool
    tick: str
    ticks: Annotated[list[Annotated[int, Field(ge=0, lt=1 << 62)]], Field(min_length=2, max_length=MOST_FRAMES)]
    cuts: list[int] = []
    colour: str = "BT.709"
    depth: int = 8
    rotation: int = 0
    has_sound: bool = False
    sound_file: str | None = None
    proxy_file: str
    note: str | None = None
    moments: list[Moment] = []

    @model_validator(mode="after")
    def _runs(self) -> "Shot":
        try:
            tick = Fraction(self.tick)
        except (ValueError, ZeroDivisionError):
            tick = Fraction(0)
        if tick <= 0:
            raise ValueError("a tick is a fraction of a second, like 1/15360")
        rise = all(map(lt, self.ticks, islice(self.ticks, 1, None)))
        if self.ticks[0] != 0 or not rise or self.ticks[-1] * tick > MOST_SECONDS:
            raise ValueError("the times of frames begin at 0 and rise, within six hours")
        if any(not 0 < c < self.frames for c in self.cuts):
            raise ValueError("takes begin at frames that there are")
        return self

    @property
    def frames(self) -> int:
        """How many frames there are."""
        return len(self.ticks) - 1

    def take(self, frame: int) -> range:
        """The frames of the same take as one of them, between two cuts."""
        return take_of(frame, self.frames, self.cuts)


class Asset(Model):
    """What a project has on its shelf besides shots: a picture, a sound, a table of colours, a font, a recipe, by the
    hash of its file.

    A picture has a width and a height in pixels; a sound so many seconds, and beats if some were found; a table is so
    many entries wide, and as high if red, green and blue go together in it, else 1 high.
    """

    id: Id = Field(default_factory=new_id)
    kind: Literal["picture", "sound", "table", "font", "recipe"]
    name: Name
    file: Annotated[str, Field(pattern="^[0-9a-f]{64}$")]
    width: Annotated[int, Field(ge=0, le=32768)] = 0
    height: Annotated[int, Field(ge=0, le=32768)] = 0
    seconds: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    beats: Counted | None = None


class Hold(Model):
    """The still taken at a moment: a source frame of a shot, with its matte.

    `plate` is the scene behind it without the subject, by the hash of its picture. With `travel` the matte goes
    through other frames as well; what it does to its pieces (grow, soften …) is the same everywhere.
    """

    id: Id = Field(default_factory=new_id)
    shot: Id
    frame: FrameNumber
    name: Name = "Hold"
    matte: Matte = Matte()
    plate: Annotated[str, Field(pattern="^[0-9a-f]{64}$")] | None = None
    travel: Travel | None = None

    def matte_at(self, frame: int) -> Matte | None:
        """The matte at a source frame; None where it has not travelled to."""
        if frame == self.frame:
            return self.matte
        stop = self.travel.at(frame) if self.travel else None
        return None if stop is None else self.matte.model_copy(update={"pieces": stop.pieces})


class Document(Model):
    """A project, and the shots and holds it refers to, by id."""

    project: Project
    shots: dict[str, Shot] = {}
    holds: dict[str, Hold] = {}
    assets: dict[str, Asset] = {}
    tracks: dict[str, Track] = {}

    def layer(self, id_: str) -> Layer | None:
        """The layer with this id, or None."""
        return next((x for x in self.project.layers if x.id == id_), None)

    def item(self, id_: str) -> GroundItem | None:
        """The ground item with this id, or None."""
        return next((x for x in self.project.ground if x.id == id_), None)

    def ground_names(self) -> dict[str, str]:
        """What the ground's items are called, by their ids: in order and numbered where several show the same."""
        plain = [x.source.called(self) for x in self.project.ground]
        often, so_far, names = Counter(plain), Counter[str](), {}
        for item, name in zip(self.project.ground, plain, strict=True):
            so_far[name] += 1
            names[item.id] = f"{name} {so_far[name]}" if often[name] > 1 else name
        return names

    def called(self, item: GroundItem) -> str:
        """What an item of the ground is called there, or would be if it is none yet."""
        return self.ground_names().get(item.id) or item.source.called(self)
