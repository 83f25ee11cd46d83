"""The sound of a piece. Both answers say in `X-Sound` what they are the sound of: the view's `sound`."""

from collections.abc import Iterator
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query, Response
from fastapi.responses import StreamingResponse

from ...core.sound.mix import Mixer
from ...core.sound.plan import RATE, SoundPlan, plan_of
from ...core.sound.wav import header, packed
from ..answers import ASK_AGAIN, bounded_router
from ..desk import Desk

BLOCK = 30 * RATE
"""So many samples are made in one go: a long piece is never in memory as a whole."""


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio = bounded_router(), desk.studio

    def plan(project: str) -> SoundPlan:
        return plan_of(studio.evaluation(studio.state(project)).timeline)

    @router.get("/api/projects/{project}/sound.wav", response_class=StreamingResponse)
    def sound(project: str) -> StreamingResponse:
        """The sound of the whole piece."""
        heard = plan(project)

        mixer = Mixer(heard, studio.sound_in)

        def blocks() -> Iterator[bytes]:
            yield header(heard.length)
            for first in range(0, heard.length, BLOCK):
                yield packed(mixer.samples(first, min(first + BLOCK, heard.length)))

        size = {"Content-Length": str(len(header(0)) + 4 * heard.length), "X-Sound": heard.key}
        return StreamingResponse(blocks(), media_type="audio/wav", headers={**ASK_AGAIN, **size})

    @router.get("/api/projects/{project}/peaks")
    def peaks(project: str, response: Response, points: Annotated[int, Query(ge=1, le=4000)] = 600) -> list[float]:
        """The loudest sample, 0…1, of each of so many equal parts of the piece."""
        heard = plan(project)
        response.headers["X-Sound"] = heard.key
        mixer = Mixer(heard, studio.sound_in)
        edges = np.linspace(0, heard.length, points + 1).astype(int)
        loudest = np.zeros(points, np.float32)
        for first in range(0, heard.length, BLOCK):
            past = min(first + BLOCK, heard.length)
            block = np.abs(mixer.samples(first, past)).max(0)
            begins = np.unique([first, *edges[(edges > first) & (edges < past)]])
            parts = np.searchsorted(edges, begins, side="right") - 1
            np.maximum.at(loudest, parts, np.maximum.reduceat(block, begins - first))
        return loudest.tolist()

    return router
