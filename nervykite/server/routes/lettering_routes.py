"""Lettering: the words of a layer in each face, to choose from."""

import cv2
import numpy as np
from fastapi import APIRouter, Response

from ...core.common.kept import Kept
from ...core.craft.lettering.faces import SHIPPED
from ...core.craft.lettering.layout import Typesetting, laid
from ...core.craft.lettering.paint import LetterStyle, painted
from ...core.kinds.sources.lettering import LetteringSource
from ...store.projects import Missing
from ..answers import FOREVER, bounded_router
from ..catalogue import face_view
from ..desk import Desk
from ..requests import FaceView

WIDE, TALL, MARGIN = 320, 96, 8
"""How large a sample is, in pixels, and what stays free around it."""
MOST = 16
"""How many characters of the words it shows."""


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio = bounded_router(), desk.studio
    known: Kept[bytes] = Kept(200)

    @router.get("/api/projects/{project}/faces")
    def own_faces(project: str) -> list[FaceView]:
        """The faces of the fonts on a project's shelf."""
        shelf = studio.state(project).document.assets.values()
        return [view for a in shelf if a.kind == "font" and (view := face_view(a.file, a.name, "own")) is not None]

    @router.get("/api/projects/{project}/layers/{layer}/faces/{face}.png", response_class=Response)
    def sample(project: str, layer: str, face: str) -> Response:
        """The first words of a layer in a face: what they cover, white on nothing."""
        document = studio.state(project).document
        found, own = document.layer(layer), {a.file for a in document.assets.values() if a.kind == "font"}
        if found is None or not isinstance(found.source, LetteringSource) or not (face in SHIPPED or face in own):
            raise Missing("There is no such lettering, or no such face.")
        words = next((w.strip() for w in found.source.words.split("\n") if w.strip()), "Name")[:MOST]
        setting = Typesetting(words, face, size=64, case=found.source.case)
        data = known.get((words, face, found.source.case), lambda: _picture(setting))
        return Response(data, media_type="image/png", headers=FOREVER)

    return router


def _picture(setting: Typesetting) -> bytes:
    """Words as large as they fit, as PNG with alpha."""
    words = laid(setting)
    rgba = np.zeros((TALL, WIDE, 4), np.float32)
    if words.box is not None:
        left, top, right, bottom = words.box
        by = min((WIDE - 2 * MARGIN) / max(1, right - left), (TALL - 2 * MARGIN) / max(1, bottom - top), 1.4)
        x, y = WIDE / 2 - by * (left + right) / 2, TALL / 2 - by * (top + bottom) / 2
        matrix = np.array([[by, 0, x], [0, by, y], [0, 0, 1]])
        rgba = painted(words, LetterStyle(), matrix, (0, 0, WIDE, TALL))
    alpha = np.round(np.clip(rgba[..., 3], 0, 1) * 255).astype(np.uint8)
    white = np.full_like(alpha, 255)
    return cv2.imencode(".png", cv2.merge([white, white, white, alpha]))[1].tobytes()
