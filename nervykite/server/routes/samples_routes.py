"""The samples of what is worked out or drawn, each kind as it comes, small: backdrops, shapes, things in the air."""

import cv2
import numpy as np
from fastapi import APIRouter, Response

from ...core.common.colour import rgb_of
from ...core.common.kept import Kept
from ...core.craft.lettering.paint import painted
from ...core.kinds.sources.air import Air
from ...core.kinds.sources.shape import DrawnShape
from ...core.kinds.sources.worked import Worked, plane_of
from ...core.piece.model import Source
from ...store.projects import Missing
from ..answers import FOREVER, bounded_router
from ..desk import Desk

WIDE, TALL, BY = 220, 168, 0.3
"""How large such a picture is, in pixels, and how large a canvas pixel is in it."""
BEHIND, NIGHT = "#C9D3DC", "#33414F"
"""What shows where there is nothing; behind things in the air, of which many are pale."""
AT = 2.3
"""At how many seconds things in the air are seen."""


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router = bounded_router()
    known: Kept[bytes] = Kept(60)

    @router.get("/api/samples/{kind}.jpg", response_class=Response)
    def sample(kind: str) -> Response:
        """A backdrop, a shape or something in the air as it comes."""
        found = Source.family.all().get(kind)
        if found is None or not issubclass(found, Worked | DrawnShape):
            raise Missing("There is nothing of that kind.")
        data = known.get(kind, lambda: _picture(found()))
        return Response(data, media_type="image/jpeg", headers=FOREVER)

    return router


def _picture(source: Worked | DrawnShape) -> bytes:
    canvas = round(WIDE / BY), round(TALL / BY)
    box = 0, 0, WIDE, TALL
    if isinstance(source, DrawnShape):
        matrix = np.array([[BY, 0, WIDE / 2], [0, BY, TALL / 2], [0, 0, 1]])
        rgba = painted(source.now(), source.look, matrix, box)
    else:
        if isinstance(source, Air):
            source = source.model_copy(update={"amount": 2.0})
        rgba = source.painted(plane_of(source, np.diag([BY, BY, 1.0]), box, canvas), AT, canvas)
    behind = NIGHT if isinstance(source, Air) else BEHIND
    rgb = rgba[..., :3] + np.array(rgb_of(behind), np.float32) * (1 - rgba[..., 3:])
    bgr = np.round(np.clip(rgb[..., ::-1], 0, 1) * 255).astype(np.uint8)
    return cv2.imencode(".jpg", np.ascontiguousarray(bgr), [cv2.IMWRITE_JPEG_QUALITY, 90])[1].tobytes()
