"""A wash: no picture of its own; its finishes work on everything below it."""

from typing import Annotated, ClassVar, Literal

import cv2
import numpy as np
from pydantic import Field

from ...piece.model import Document, Framing
from ...piece.model.base import Id
from ...piece.model.framing import Box
from ...piece.model.source import On, Source
from ...see.footage.framing_matrix import covered, even, fit_matrix
from .picture import Grid, Material, Patch, Picture, digest

Side = Annotated[float, Field(ge=1, le=20_000)]
DRAWN = {"where": ["box", "oval"]}


class WashSource(Source):
    """Everything below, in its span; in a group, what lies below it there. `where` says where on the canvas: a figure
    lies about the middle, so wide and high, in project pixels, and moves, turns and grows with the layer; or it is what
    another layer (`of`) covers, wherever that goes. `outside`: everywhere but there.
    """

    kind: Literal["wash"] = "wash"
    title: ClassVar[str] = "Wash"
    hint: ClassVar[str] = "Finishes on everything below it"
    on: ClassVar[tuple[On, ...]] = ("sky",)
    washes: ClassVar[bool] = True

    where: Annotated[
        Literal["all", "box", "oval", "cover"],
        Field(
            title="Where",
            json_schema_extra={
                "words": {"all": {"title": "Everywhere"}, "cover": {"title": "A layer", "hint": "What it covers"}}
            },
        ),
    ] = "all"
    of: Annotated[
        Id | None, Field(title="Layer", json_schema_extra={"format": "layer", "when": {"where": ["cover"]}})
    ] = None
    wide: Annotated[Side, Field(title="Width", json_schema_extra={"unit": "px", "when": DRAWN})] = 400.0
    high: Annotated[Side, Field(title="Height", json_schema_extra={"unit": "px", "when": DRAWN})] = 400.0
    soft: Annotated[float, Field(ge=0, le=500, title="Softness", json_schema_extra={"unit": "px", "when": DRAWN})] = (
        20.0
    )
    outside: Annotated[
        bool, Field(title="Outside of it", json_schema_extra={"when": {"where": ["box", "oval", "cover"]}})
    ] = False

    def size(self, document: Document) -> tuple[int, int]:
        return document.project.width, document.project.height

    @property
    def located(self) -> bool:
        return self.where in DRAWN["where"]

    def lies(self, document: Document) -> Framing | None:
        return Framing()

    def bounds(self, document: Document) -> Box | None:
        width, height = self.size(document)
        if self.where not in ("box", "oval"):
            return 0.0, 0.0, float(width), float(height)
        return (width - self.wide) / 2, (height - self.high) / 2, (width + self.wide) / 2, (height + self.high) / 2

    def picture(self, document: Document, frame: int, landed: bool = False) -> Picture | None:
        bounds = self.bounds(document)
        assert bounds is not None
        return MaskPicture(self.size(document), bounds, self.where == "oval", self.soft)

    def called(self, document: Document) -> str:
        return "Wash"


class MaskPicture(Picture):
    """A white oval or box, with a soft edge about its line."""

    def __init__(self, size: tuple[int, int], box: Box, oval: bool, soft: float) -> None:
        self.size, self.box, self.oval, self.soft = size, box, oval, soft
        self.digest = digest("figure", size, box, oval, soft)

    def cut(self, material: Material, grid: Grid, margin: int) -> Patch | None:
        matrix = fit_matrix(self.size, grid.size, grid.framing)
        by = float(np.sqrt(abs(np.linalg.det(matrix[:2, :2]))))
        left, top, right, bottom = self.box
        pad = margin + 2 + int(np.ceil(self.soft * by))
        around = left - self.soft, top - self.soft, right + self.soft, bottom + self.soft
        first, upper, last, lower = covered(matrix, around)
        x0, y0, x1, y1 = even(first - pad, upper - pad, last + pad, lower + pad)
        y, x = np.mgrid[y0:y1, x0:x1].astype(np.float32) + np.float32(0.5)
        inverse = np.linalg.inv(matrix)
        u = inverse[0, 0] * x + inverse[0, 1] * y + inverse[0, 2] - (left + right) / 2
        v = inverse[1, 0] * x + inverse[1, 1] * y + inverse[1, 2] - (top + bottom) / 2
        wide, high = (right - left) / 2, (bottom - top) / 2
        if self.oval:
            # How far from the line, to first order: f over the length of its gradient.
            far = np.hypot(u / wide, v / high)
            steep = np.hypot(u / wide**2, v / high**2) / np.maximum(far, 1e-6)
            away = (far - 1) / np.maximum(steep, 1e-6)
        else:
            away = np.maximum(np.abs(u) - wide, np.abs(v) - high)
        soft = max(self.soft, 0.5 / by)
        alpha = np.clip(0.5 - away / (2 * soft), 0, 1)
        alpha = (alpha * alpha * (3 - 2 * alpha) if self.soft else alpha).astype(np.float32)
        return Patch(x0, y0, rgba=cv2.merge([alpha] * 4))
