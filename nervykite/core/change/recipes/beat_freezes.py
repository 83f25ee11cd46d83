"""Freezes on the beat."""

from collections.abc import Sequence
from itertools import pairwise
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...piece.timeline.beats import beats_of
from ...piece.timeline.timeline import Timeline
from ...see.catch.take import Take
from ..edits.making import Making
from ..edits.worlds import PutWorld
from .controls import Coloured, Strength, between, count


class BeatFreezesRecipe(Coloured):
    """It runs and stands in turns, a beat each time; every other freeze is printed in the piece's colours."""

    kind: Literal["beat-freezes"] = "beat-freezes"
    title: ClassVar[str] = "Beat freezes"
    hint: ClassVar[str] = "Runs and stands in turns, on the beat"
    rank: ClassVar[int] = 8
    when: ClassVar[str] = "A dance, a drill, a row of tricks, cut to music."
    film: ClassVar[str] = "Movement that keeps a rhythm. Put music onto the shelf and into the sound first, if you can."
    missed: ClassVar[str] = "Music whose beats nobody found: have them found at Sound, or set the tempo by hand."

    many: Annotated[int, count(12)] = 4
    tempo: Annotated[int, Field(ge=60, le=200, title="Beats a minute, without music")] = 120
    stands: Annotated[float, Field(ge=0.1, le=0.9, title="Stands for", json_schema_extra={"unit": "%"})] = 0.5
    strength: Strength = 0.5

    def catch(self, takes: Sequence[Take]) -> list[tuple[int, int]]:
        take = takes[0]
        gaps = sorted(b - a for a, b in pairwise(take.beats))
        beat = gaps[len(gaps) // 2] if gaps else 60 / self.tempo * take.rate
        runs = max(1, round((1 - self.stands) * beat))
        return [(0, frame) for frame in take.from_a_beat(self.many, runs)]

    def make(self, making: Making) -> None:
        found = beats_of(Timeline(making.document))
        gaps = sorted(b.frame - a.frame for a, b in pairwise(found))
        beat = gaps[len(gaps) // 2] if gaps else making.rate * 60 / self.tempo
        if gaps:
            making.says(f"It follows the music: {60 * making.rate / beat:.0f} beats a minute.")
        frozen = max(1, round(self.stands * beat))
        beats = sorted({round(b.frame) for b in found})
        for n, cutout in enumerate(making.cutouts):
            lasts = self._until_a_beat(making, n, frozen, beats)
            making.stands(cutout, lasts, heard="runs on")
            making.enters(cutout, "swell", amount=between(0.02, 0.16, self.strength), lasts=max(1, min(4, lasts // 2)))
            making.wears(cutout, ("outline", {"width": making.px(6), "colour": making.inks.paper}))
            if n % 2:
                making.do(PutWorld(layer=cutout, way="coloured", strength=between(0.3, 0.6, self.strength)))
            making.hears(cutout, "slam" if n % 2 else "tick", -8, to="start", seed=n + 1)

    def _until_a_beat(self, making: Making, n: int, frozen: int, beats: Sequence[int]) -> int:
        """For how many frames one stands, so that the next one begins on a beat of the music, where there is any."""
        if n + 1 == len(making.cutouts):
            return frozen
        after = making.span(making.cutouts[n + 1]).landing
        target = next((b for b in beats if b >= after + max(1, frozen // 2)), None)
        return frozen if target is None else target - after
