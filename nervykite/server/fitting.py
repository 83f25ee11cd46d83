"""Small pictures of a thing with each finish on, to choose from; and the colours of what it shows."""

import math
from dataclasses import replace
from functools import cache
from typing import Any

import cv2
import numpy as np

from ..core.common.colour import rgb_of
from ..core.common.errors import Refusal
from ..core.common.kept import Kept
from ..core.craft.finishing.compositing import over
from ..core.craft.finishing.likeness import tones_of
from ..core.craft.finishing.swatches import swatches
from ..core.draw.picture.canvas import Canvas
from ..core.draw.picture.draws import Worn
from ..core.draw.picture.evaluate import Evaluation
from ..core.draw.picture.finish_stages import dressed
from ..core.draw.picture.opened import opened
from ..core.draw.picture.sprite import as_rgba, without_fringe
from ..core.kinds.sources.picture import Grid, Patch, digest, picture_or_uncut
from ..core.piece.model import Asset, FinishKind, GroundItem, Layer, When
from ..core.piece.model.finish import Stage
from ..studio import Studio
from .pictures import whole_group

WIDE, TALL = 220, 168
"""How large such a picture is, in pixels."""
PAPER, DARK = "#E7E0D3", "#1C1D21"
SHOWN_BYTES = 60_000_000
AHEAD = When(since=2, lasts=60, landing=0)
"""The time at which finishes that change by themselves are shown."""


@cache
def settings_schema(kind: str) -> dict[str, Any]:
    """The settings of a finish as JSON Schema, by name."""
    return FinishKind.family[kind].settings_schema()["properties"]


class Fitting:
    """Makes them from a studio."""

    def __init__(self, studio: Studio) -> None:
        self._studio = studio
        self._shown: Kept[bytes] = Kept(SHOWN_BYTES, len)
        self._patches: Kept[Patch | None] = Kept(24)

    def picture(self, evaluation: Evaluation, owner: Layer | GroundItem, kind: str, frame: int) -> bytes:
        """A thing with a finish on after those that it has, as JPEG. Raises Refusal if there is no such finish."""
        look = FinishKind.family.parse({"kind": kind, **self.beginning(evaluation, owner, kind, frame)})
        look = look.pictured
        layer = owner if isinstance(owner, Layer) and not owner.source.washes else None
        worn = tuple(Worn(f.look, f.look.moment(AHEAD)) for f in owner.finishes if f.visible)
        chain = (*worn, Worn(look, look.moment(AHEAD)))
        what, patch, stage = self._patch(evaluation, layer) if layer else self._whole(evaluation, frame)

        def make() -> bytes:
            if patch is None:
                return _jpeg(np.full((TALL, WIDE, 3), rgb_of(PAPER), np.float32))
            done = dressed(patch, chain, stage)
            assert done.rgba is not None
            back = DARK if look.looks == "light" or kind in ("glow", "neon-edges") else PAPER
            return _jpeg(_shown(done, patch, back) if layer else _middle(done.rgba))

        return self._shown.get((what, digest(*chain)), make)

    def beginning(self, evaluation: Evaluation, owner: Layer | GroundItem, kind: str, frame: int) -> dict[str, Any]:
        """Settings that a finish begins with on something where these depend on what is there: a file of the shelf, the
        tones of the ground at a frame; on what covers the canvas, those of what flies nearest there.

        Raises Refusal if there is no such finish.
        """
        if kind not in FinishKind.family.all():
            raise Refusal("There is no such finish.")
        found: dict[str, Any] = {}
        shelf = evaluation.document.assets.values()
        for name, schema in settings_schema(kind).items():
            if schema.get("format") == "shelved":
                found[name] = next((a.file for a in shelf if a.kind == schema["of"]), None)
            elif schema.get("format") == "tones":
                found[name] = self.tones(evaluation, frame, self._other(evaluation, owner, frame))
        return found

    @staticmethod
    def _other(evaluation: Evaluation, owner: Layer | GroundItem, frame: int) -> Layer | None:
        """Thing that something is matched to at first, if not to the ground: the ground would be matched to itself."""
        if isinstance(owner, Layer) and not owner.source.washes:
            return None
        spans, layers = evaluation.timeline.spans, reversed(evaluation.document.project.layers)
        there = (x for x in layers if not x.source.washes and (s := spans[x.id]) and s.start <= frame < s.end)
        return next(there, None)

    def tones(
        self, evaluation: Evaluation, frame: int, layer: Layer | None = None, asset: Asset | None = None
    ) -> list[float] | None:
        """The tones of a layer, or a picture of the shelf, else of the ground at a frame; None if there is nothing."""
        if asset is not None:
            small = cv2.resize(self._studio.library.drawing(asset.file), (WIDE, TALL), interpolation=cv2.INTER_AREA)
            rgba = small.astype(np.float32) / 255
            rgba = rgba if rgba.shape[2] == 4 else np.dstack([rgba, np.ones(rgba.shape[:2], np.float32)])
            rgba[..., :3] *= rgba[..., 3:]
            return tones_of(rgba)
        patch = self._patch(evaluation, layer)[1] if layer else self._whole(evaluation, frame, ground=True)[1]
        return None if patch is None or patch.rgba is None else tones_of(patch.rgba)

    def clothes(self, evaluation: Evaluation, layer: Layer) -> list[str]:
        """The colours of what a layer shows; none while there is nothing to see."""
        _, patch, _ = self._patch(evaluation, layer)
        return [] if patch is None or patch.rgba is None else swatches(patch.rgba)

    def _patch(self, evaluation: Evaluation, layer: Layer) -> tuple[object, Patch | None, Stage]:
        """Picture of a layer, about as large as it is looked at; of a group, all of it in the middle of its time."""
        document, project = evaluation.document, evaluation.document.project
        if layer.source.gathers:
            return self._gathered(evaluation, layer)
        shown = layer.source.shows(document, None)
        picture = picture_or_uncut(layer.source, document, shown)
        if picture is None:
            return "nothing", None, Stage(1.0)
        framing = evaluation.framing(layer)
        left, top, right, bottom = layer.source.bounds(document) or (0, 0, *layer.source.size(document))
        rest = evaluation.rest(layer)
        across = float(np.hypot(*rest[:2, 0])) * (right - left)
        down = float(np.hypot(*rest[:2, 1])) * (bottom - top)
        wide = max(across * 1.3, min(down, across * 2.2) * WIDE / TALL, 8)
        scale = min(1.5, WIDE / wide)
        size = (max(2, round(project.width * scale / 2) * 2), max(2, round(project.height * scale / 2) * 2))
        grid = Grid(size, size[0] / project.width, framing, project.background, draft=True)
        what = "flies", picture.digest, grid

        def make() -> Patch | None:
            stock = self._studio.renderer.sprites.supplies(document)
            cut = picture.cut(stock, grid, 0)
            return None if cut is None else Patch(cut.left, cut.top, rgba=as_rgba(without_fringe(cut)))

        supplies = self._studio.renderer.sprites.supplies(document)
        return what, self._patches.get(what, make), Stage(grid.scale, canvas=size, supplies=supplies)

    def _gathered(self, evaluation: Evaluation, group: Layer) -> tuple[object, Patch | None, Stage]:
        draws, span = whole_group(evaluation, group), evaluation.timeline.span(group)
        box = None if draws is None or span is None else evaluation.box(group, (span.start + span.end) // 2)
        if draws is None or box is None:
            return "nothing", None, Stage(1.0)
        document, project = evaluation.document, evaluation.document.project
        across, down = box[2] - box[0], box[3] - box[1]
        scale = min(1.5, WIDE / max(across * 1.3, min(down, across * 2.2) * WIDE / TALL, 8))
        size = (max(2, round(project.width * scale / 2) * 2), max(2, round(project.height * scale / 2) * 2))
        what = "gathered", draws.key, size

        def make() -> Patch | None:
            glass = self._studio.renderer.alone(Canvas(document, size, draft=True), [draws])
            return None if glass is None else Patch(glass.left, glass.top, rgba=glass.rgba)

        supplies = self._studio.renderer.sprites.supplies(document)
        return what, self._patches.get(what, make), Stage(size[0] / project.width, canvas=size, supplies=supplies)

    def _whole(self, evaluation: Evaluation, frame: int, ground: bool = False) -> tuple[object, Patch | None, Stage]:
        """A frame of the piece, or of its ground alone, about as large as it is looked at."""
        project = evaluation.document.project
        if not evaluation.length:
            return "nothing", None, Stage(1.0)
        scale = max(WIDE / project.width, TALL / project.height)
        size = (2 * math.ceil(project.width * scale / 2), 2 * math.ceil(project.height * scale / 2))
        draws = evaluation.at(min(frame, evaluation.length - 1))
        draws = replace(draws, layers=()) if ground else draws
        what = "covers", draws.key, size
        supplies = self._studio.renderer.sprites.supplies(evaluation.document)
        stage = Stage(size[0] / project.width, canvas=size, opaque=True, supplies=supplies)

        def make() -> Patch | None:
            planes = self._studio.renderer.render(Canvas(evaluation.document, size, draft=True), draws)
            return Patch(0, 0, rgba=opened(planes))

        return what, self._patches.get(what, make), stage


def _shown(done: Patch, plain: Patch, back: str) -> np.ndarray:
    """The upper part of what flies over a colour: float32 (TALL, WIDE, 3)."""
    assert done.rgba is not None
    assert plain.rgba is not None
    ys, xs = np.flatnonzero(plain.rgba[..., 3].max(1) > 0.1), np.flatnonzero(plain.rgba[..., 3].max(0) > 0.1)
    middle = plain.left + (int(xs[0]) + int(xs[-1])) // 2 if len(xs) else plain.left
    top = plain.top + (int(ys[0]) if len(ys) else 0)
    tall = int(ys[-1] - ys[0]) + 1 if len(ys) else 1
    top -= (TALL - tall) // 2 if tall < TALL * 0.9 else round(TALL * 0.09)
    out = np.empty((TALL, WIDE, 4), np.float32)
    out[:] = (*rgb_of(back), 1)
    x, y = done.left - (middle - WIDE // 2), done.top - top
    h, w = done.rgba.shape[:2]
    x0, y0, x1, y1 = max(0, x), max(0, y), min(WIDE, x + w), min(TALL, y + h)
    if x0 < x1 and y0 < y1:
        out[y0:y1, x0:x1] = over(done.rgba[y0 - y : y1 - y, x0 - x : x1 - x], out[y0:y1, x0:x1])
    return out[..., :3]


def _middle(rgba: np.ndarray) -> np.ndarray:
    h, w = rgba.shape[:2]
    y, x = max(0, (h - TALL) // 3), max(0, (w - WIDE) // 2)
    return rgba[y : y + TALL, x : x + WIDE, :3]


def _jpeg(rgb: np.ndarray) -> bytes:
    bgr = np.round(np.clip(rgb[..., ::-1], 0, 1) * 255).astype(np.uint8)
    return cv2.imencode(".jpg", np.ascontiguousarray(bgr), [cv2.IMWRITE_JPEG_QUALITY, 88])[1].tobytes()
