"""The sound of a piece. Both answers say in `X-Sound` what they are the sound of: the view's `sound`."""

import io
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query, Response

from ...core.sound.mix import mix, write_wav
from ...core.sound.plan import plan_of
from ..answers import ASK_AGAIN
from ..desk import Desk


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio = APIRouter(), desk.studio

    def heard(project: str) -> tuple[np.ndarray, str]:
        plan = plan_of(studio.evaluation(studio.state(project)).timeline)
        return mix(plan, studio.sound_in), plan.key

    @router.get("/api/projects/{project}/sound.wav", response_class=Response)
    def sound(project: str) -> Response:
        """The sound of the whole piece."""
        out = io.BytesIO()
        track, key = heard(project)
        write_wav(out, track)
        return Response(out.getvalue(), media_type="audio/wav", headers={**ASK_AGAIN, "X-Sound": key})

    @router.get("/api/projects/{project}/peaks")
    def peaks(project: str, response: Response, points: Annotated[int, Query(ge=1, le=4000)] = 600) -> list[float]:
        """The loudest sample, 0…1, of each of so many equal parts of the piece."""
        track, key = heard(project)
        response.headers["X-Sound"] = key
        return [float(part.max()) if len(part) else 0.0 for part in np.array_split(np.abs(track).max(0), points)]

    return router
