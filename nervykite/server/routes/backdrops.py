"""Backdrops: each as it comes, small, to choose from."""

import cv2
import numpy as np
from fastapi import APIRouter, Response

from ...core.colour import rgb_of
from ...core.kept import Kept
from ...core.model import Source
from ...core.sources.backdrop import Backdrop, plane_of
from ...store.projects import Missing
from ..answers import FOREVER, bounded_router
from ..desk import Desk

WIDE, TALL, BY = 220, 168, 0.3
"""How large such a picture is, in pixels, and how large a canvas pixel is in it."""
BEHIND = "#C9D3DC"
"""What shows where there is nothing."""


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router = bounded_router()
    known: Kept[bytes] = Kept(60)

    @router.get("/api/backdrops/{kind}.jpg", response_class=Response)
    def sample(kind: str) -> Response:
        """A backdrop as it comes."""
        found = Source.family.all().get(kind)
        if found is None or not issubclass(found, Backdrop):
            raise Missing("There is no such backdrop.")
        data = known.get(kind, lambda: _picture(found()))
        return Response(data, media_type="image/jpeg", headers=FOREVER)

    return router


def _picture(backdrop: Backdrop) -> bytes:
    canvas = round(WIDE / BY), round(TALL / BY)
    plane = plane_of(backdrop, np.diag([BY, BY, 1.0]), (0, 0, WIDE, TALL), canvas)
    rgba = backdrop.painted(plane, 0.0, canvas)
    rgb = rgba[..., :3] + np.array(rgb_of(BEHIND), np.float32) * (1 - rgba[..., 3:])
    bgr = np.round(np.clip(rgb[..., ::-1], 0, 1) * 255).astype(np.uint8)
    return cv2.imencode(".jpg", np.ascontiguousarray(bgr), [cv2.IMWRITE_JPEG_QUALITY, 90])[1].tobytes()
