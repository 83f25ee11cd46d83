"""The sound of a piece. Both answers say in `X-Sound` what they are the sound of: the view's `sound`."""

from collections.abc import Iterator
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query, Response
from fastapi.responses import StreamingResponse

from ...core.model import Sounding
from ...core.sound.hit import Hit
from ...core.sound.mix import Mixer
from ...core.sound.plan import RATE, SoundPlan, plan_of
from ...core.sound.wav import header, packed
from ...store.projects import Missing
from ..answers import ASK_AGAIN, FOREVER, bounded_router
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

    @router.get("/api/hits/{kind}.wav", response_class=Response)
    def hit(kind: str) -> Response:
        """A hit as it comes."""
        found = Sounding.family.all().get(kind)
        if found is None or not issubclass(found, Hit):
            raise Missing("There is no such sound.")
        made = found().made()
        return Response(header(made.shape[1]) + packed(made), media_type="audio/wav", headers=FOREVER)

    @router.get("/api/projects/{project}/assets/{asset}.wav", response_class=StreamingResponse)
    def shelved(project: str, asset: str) -> StreamingResponse:
        """A sound of the shelf, its first minute."""
        found = studio.state(project).document.assets.get(asset)
        if found is None or found.kind != "sound":
            raise Missing("There is no such sound on this project's shelf.")
        whole = studio.sound_in(found.file)[:, : 60 * RATE]

        def blocks() -> Iterator[bytes]:
            yield header(whole.shape[1])
            for first in range(0, whole.shape[1], BLOCK):
                part = whole[:, first : first + BLOCK].astype(np.float32)
                yield packed(part / 32767 if whole.dtype == np.int16 else part)

        return StreamingResponse(blocks(), media_type="audio/wav", headers=FOREVER)

    return router
