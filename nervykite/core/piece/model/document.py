"""Holds, what lies on the shelf, and the document that an evaluation reads: a project with everything it refers to."""

from collections import Counter
from typing import Annotated, Literal

from pydantic import Field

from .base import FrameNumber, Id, Model, Name, new_id
from .beat_grid import Counted
from .layers import Layer
from .matte import Matte, Travel
from .project import GroundItem, Project
from .shot import Shot
from .track import Track


class Asset(Model):
    """A thing that a project has on its shelf besides shots: a picture, a sound, a table of colours, a font, a recipe,
    by the hash of its file.

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
        """The names of the ground's items, by their ids: in order and numbered where several show the same."""
        plain = [x.source.called(self) for x in self.project.ground]
        often, so_far, names = Counter(plain), Counter[str](), {}
        for item, name in zip(self.project.ground, plain, strict=True):
            so_far[name] += 1
            names[item.id] = f"{name} {so_far[name]}" if often[name] > 1 else name
        return names

    def called(self, item: GroundItem) -> str:
        """The name of an item of the ground there, or the one it would have if it is none yet."""
        return self.ground_names().get(item.id) or item.source.called(self)
