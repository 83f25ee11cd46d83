"""The silhouettes of subjects in the picture, small: where there is room for words, and what line runs around them."""

import numpy as np

from ..core.craft.lettering.contour import contour
from ..core.craft.lettering.curve import Point
from ..core.draw.picture.canvas import Canvas
from ..core.draw.picture.evaluate import Evaluation
from ..core.piece.model import Layer
from ..core.see.find.prior import people
from ..core.see.footage.planes import to_bgr
from ..studio import Studio

SMALL, FINE = 144, 360
"""How many pixels wide the canvas is looked at, for room, and for lines."""
MOST = 0.5
"""What covers more of the canvas than that is a backdrop, and no card is in its way."""


class CoverFinder:
    """Looks at a studio's pieces."""

    def __init__(self, studio: Studio) -> None:
        self._studio = studio

    def subjects(self, evaluation: Evaluation, frame: int) -> tuple[np.ndarray, np.ndarray]:
        """The coverage of a frame by its cutouts together, where there are none, by people in the footage; and what
        else flies there, but for what lies over most of it: float32 (h, w) each.
        """
        document, size = evaluation.document, self._size(evaluation, SMALL)
        others, cutouts = np.zeros(size[::-1], np.float32), []
        for layer in document.project.layers:
            draws = evaluation.covering(layer.id, frame) if layer.visible and not layer.source.gathers else None
            if draws is None:
                continue
            if layer.source.needs:
                cutouts.append(draws)
                continue
            cover = self._studio.renderer.cover(Canvas(document, size, draft=True), [draws])
            if cover.mean() < MOST:
                others = np.maximum(others, cover)
        if cutouts:
            return self._studio.renderer.cover(Canvas(document, size, draft=True), cutouts), others
        planes = self._studio.renderer.render(Canvas(document, size, draft=True), evaluation.at(frame))
        found = people(np.ascontiguousarray(to_bgr(planes)[..., ::-1]), quick=True)
        return np.zeros(size[::-1], np.float32) if found is None else found.astype(np.float32), others

    def line_around(self, evaluation: Evaluation, layer: Layer, frame: int, away: float) -> list[Point]:
        """Points of a line around what a layer covers at a frame, so many project pixels outside of it, from the middle
        of the canvas; none if it covers nothing then.
        """
        document = evaluation.document
        draws = evaluation.covering(layer.id, frame)
        if draws is None:
            return []
        size = self._size(evaluation, FINE)
        by = document.project.width / size[0]
        points = contour(self._studio.renderer.cover(Canvas(document, size, draft=True), [draws]), away / by)
        middle = document.project.width / 2, document.project.height / 2
        return [(round(x * by - middle[0], 1), round(y * by - middle[1], 1)) for x, y in points]

    @staticmethod
    def _size(evaluation: Evaluation, wide: int) -> tuple[int, int]:
        project = evaluation.document.project
        wide = min(wide, project.width // 2 * 2)
        return wide, max(2, round(wide * project.height / project.width / 2) * 2)
