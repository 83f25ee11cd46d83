"""The part of a piece that is sent: all, the ground alone, or some layers over nothing; which frames, how large, how
fast.
"""

import math
from fractions import Fraction
from typing import Annotated, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...piece.model import Document, Project
from ...piece.model.base import Id, Model, Rate
from ...piece.model.project import Side


class Sending(Model):
    """The order for a file.

    `what`: the *piece*, its *ground* alone, or `layers`, whole groups among them, over *nothing* or over the *plate* of
    the scene that the first of them was held in. `span`: project frames, half-open; `size`, `rate`: None are the
    project's own. Another shape is filled up with the background.
    """

    what: Literal["piece", "ground", "layers"] = "piece"
    layers: Annotated[list[Id], Field(max_length=500)] = []
    over: Literal["nothing", "plate"] = "nothing"
    span: tuple[int, int] | None = None
    size: tuple[Side, Side] | None = None
    rate: Rate | None = None

    @property
    def clear(self) -> bool:
        """True if it is seen over nothing."""
        return self.what == "layers" and self.over == "nothing"

    def document(self, document: Document) -> Document:
        """The document of which all is seen that is to be sent. Raises Refusal if some of that is gone."""
        project = document.project
        if self.what == "piece":
            return document
        if self.what == "ground":
            return document.model_copy(update={"project": project.model_copy(update={"layers": []})})
        known = {x.id: x for x in project.layers}
        if not self.layers or any(i not in known for i in self.layers):
            raise Refusal("What was to be sent is no longer there. Choose layers again.")
        shown, wanted = _below(known, self.layers), set(self.layers)
        for id_ in self.layers:
            # What it belongs to carries and dresses it.
            above = known[id_].group
            while above is not None and above in known:
                wanted.add(above)
                above = known[above].group
        shown |= wanted
        layers = [
            x.model_copy(update={"visible": x.visible or x.id in wanted, "solo": False})
            if x.id in shown
            else x.model_copy(update={"visible": False, "solo": False})
            for x in project.layers
        ]
        return document.model_copy(update={"project": project.model_copy(update={"layers": layers})})

    def times(self, project: Project, length: int) -> list[float]:
        """The project times of the frames that are sent. Raises Refusal if there are none."""
        start, end = self.span or (0, length)
        if length == 0:
            raise Refusal(f"{project.name} has no footage yet. Import a shot first.")
        if not 0 <= start < end <= length:
            raise Refusal(f"The range {start}:{end} lies outside the piece, which has frames 0 to {length - 1}.")
        rate = self.rate or project.rate
        if rate == project.rate:
            return [float(t) for t in range(start, end)]
        step = project.rate / rate
        count = max(1, math.ceil(Fraction(end - start) / step))
        return [float(start + n * step) for n in range(count)]


def _below(known: dict, tops: list[str]) -> set[str]:
    """All that belongs to some layers, however deep."""
    found: set[str] = set(tops)
    while more := {i for i, x in known.items() if x.group in found and i not in found}:
        found |= more
    return found


def fits(inner: tuple[int, int], outer: tuple[int, int]) -> tuple[int, int, int, int]:
    """Where a picture of a shape (w, h) lies whole in another, in even pixels: left, top, width, height."""
    scale = min(outer[0] / inner[0], outer[1] / inner[1])
    w, h = (min(o, max(2, 2 * round(i * scale / 2))) for i, o in zip(inner, outer, strict=True))
    return (outer[0] - w) // 4 * 2, (outer[1] - h) // 4 * 2, w, h
