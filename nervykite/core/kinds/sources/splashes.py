"""Backdrops of paint and paper, with nothing around them: a blot, torn paper, swipes of a brush."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ...craft.finishing.compositing import over
from ...craft.finishing.noise import cloud
from ...craft.finishing.setting_fields import Seed, degrees, hue, percent, px
from ...piece.model.base import Colour
from .backdrop import Backdrop, Boils, Colours, Every, Two, coloured, field
from .worked import Plane


class BlotBackdrop(Boils, Backdrop):
    """A blot of ink, ragged, with what it threw off around it."""

    kind: Literal["blot"] = "blot"
    title: ClassVar[str] = "Blot"
    hint: ClassVar[str] = "A blot of ink, splashed"
    rank: ClassVar[int] = 27

    last: Annotated[Colour, hue("Ink")] = "#16181D"
    wide: Annotated[float, px("Size", 3000, 4, usual=900)] = 300.0
    ragged: Annotated[float, percent("Ragged", 0, 2)] = 0.7
    splashes: Annotated[float, percent("Splashes", 0, 2)] = 0.8
    drops: Annotated[int, Field(ge=0, le=200, title="Drops", json_schema_extra={"step": 1})] = 46
    every: Every = 0
    seed: Seed = 1

    @property
    def colours(self) -> Colours:
        return None, self.last

    def share(self, plane: Plane, seconds: float, canvas: tuple[int, int]) -> np.ndarray:
        from ...craft.finishing.compiled.fields_kernels import drops

        seed = self.chance(seconds)
        out = field("blot", plane, self.wide, self.ragged, self.splashes, seed)
        drops(plane.matrix, np.float32(self.wide), np.float32(self.splashes), self.drops, seed, plane.fine, out)
        return out


class TornPaperBackdrop(Two, Backdrop):
    """A strip of paper, torn along both edges."""

    kind: Literal["torn-paper"] = "torn-paper"
    title: ClassVar[str] = "Torn paper"
    hint: ClassVar[str] = "A strip of paper, torn along its edges"
    rank: ClassVar[int] = 28

    angle: Annotated[float, degrees("Angle")] = -6.0
    first: Annotated[Colour, hue("Paper")] = "#E0A11B"
    last: Annotated[Colour, hue("Torn edge")] = "#FBF6EA"
    wide: Annotated[float, px("Height", 4000, 4, usual=900)] = 380.0
    ragged: Annotated[float, px("Ragged", 200, 1, usual=80)] = 26.0
    rim: Annotated[float, px("Edge", 120, 0, usual=40)] = 14.0
    grain: Annotated[float, percent("Grain")] = 0.3
    seed: Seed = 1

    def share(self, plane: Plane, seconds: float, canvas: tuple[int, int]) -> np.ndarray:
        return self._parts(plane)[1]

    def painted(self, plane: Plane, seconds: float, canvas: tuple[int, int]) -> np.ndarray:
        paper, edge = self._parts(plane)
        rgba = coloured(edge, self.colours)
        rows = np.flatnonzero(paper.any(1))
        if self.grain and len(rows):
            # Only where there is paper.
            strip, size = slice(rows[0], rows[-1] + 1), max(1.0, 3 * float(plane.fine))
            shape = strip.stop - strip.start, plane.shape[1]
            tooth = cloud(shape, size, self.seed, top=int(strip.start), octaves=3) - np.float32(0.5)
            tooth = np.float32(0.35 * self.grain) * tooth + np.float32(1)
            rgba[strip, :, :3] = np.minimum(rgba[strip, :, :3] * tooth[..., None], 1)
        return np.multiply(rgba, paper[..., None], out=rgba)

    def _parts(self, plane: Plane) -> tuple[np.ndarray, np.ndarray]:
        """Where the paper is, and where its edge."""
        from ...craft.finishing.compiled.fields_kernels import torn

        paper, edge = plane.empty(), plane.empty()
        wide, ragged, rim = (np.float32(v) for v in (self.wide, self.ragged, self.rim))
        torn(plane.matrix, wide, ragged, rim, self.seed, plane.fine, paper, edge)
        return paper, edge


class BrushBackdrop(Backdrop):
    """Swipes of a broad brush that runs dry; drawn on by keys."""

    kind: Literal["brush"] = "brush"
    title: ClassVar[str] = "Brush swipes"
    hint: ClassVar[str] = "Swipes of a broad brush"
    rank: ClassVar[int] = 29

    angle: Annotated[float, degrees("Angle")] = -8.0
    last: Annotated[Colour, hue("Paint")] = "#D63F22"
    first: Annotated[Colour, hue("Behind", when={"filled": [True]})] = "#F4EEDF"
    filled: Annotated[bool, Field(title="Filled behind")] = False
    wide: Annotated[float, px("Length", 4000, 20, usual=1200)] = 640.0
    high: Annotated[float, px("Brush", 1000, 4, usual=300)] = 120.0
    rows: Annotated[int, Field(ge=1, le=16, title="Swipes", json_schema_extra={"step": 1})] = 3
    dry: Annotated[float, percent("Runs dry", 0, 1)] = 0.5
    progress: Annotated[float, percent("Drawn")] = 1.0
    seed: Seed = 1

    @property
    def colours(self) -> Colours:
        return None, self.last

    def painted(self, plane: Plane, seconds: float, canvas: tuple[int, int]) -> np.ndarray:
        paint = coloured(self.share(plane, seconds, canvas), self.colours)
        if not self.filled:
            return paint
        return over(paint, coloured(np.zeros(plane.shape, np.float32), (self.first, self.first)))

    def share(self, plane: Plane, seconds: float, canvas: tuple[int, int]) -> np.ndarray:
        return field("brushed", plane, self.wide, self.high, self.rows, self.dry, self.progress, self.seed)
