"""The sound of a piece, in blocks of a second, and the sounds that there are to choose from."""

import math
from collections.abc import Iterator
from itertools import pairwise
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Path, Query, Response
from fastapi.responses import StreamingResponse

from ...core.change.edits.cueing import cue_of
from ...core.common.errors import Refusal
from ...core.craft.synthesis.sample_rate import RATE
from ...core.draw.sound.master import Master
from ...core.draw.sound.plan import BLOCK
from ...core.draw.sound.taken import as_float
from ...core.draw.sound.wav import header, packed
from ...core.kinds.hits.hit import Hit
from ...core.piece.model import Counted, Sounding
from ...store.projects import Missing
from ..answers import FOREVER, bounded_router
from ..desk import Desk
from ..requests import LoudnessView, SoundView


def routes(desk: Desk) -> APIRouter:
    """The routes over a desk."""
    router, studio = bounded_router(), desk.studio

    def master(project: str) -> Master:
        return studio.master(studio.evaluation(studio.state(project)).timeline)

    @router.get("/api/projects/{project}/sound")
    def sound(project: str) -> SoundView:
        """The blocks of the piece's sound."""
        heard = master(project)
        blocks = [heard.key(n) for n in range(heard.plan.blocks)]
        return SoundView(key=heard.plan.key, samples=heard.plan.length, silent=heard.plan.silent, blocks=blocks)

    @router.get("/api/projects/{project}/loudness")
    def loudness(project: str) -> LoudnessView:
        """The loudness of the piece as it is heard and sent."""
        heard = master(project)
        lufs, peak = heard.measured
        top = round(20 * math.log10(peak), 2) if peak > 0 else None
        return LoudnessView(key=heard.plan.key, gain=heard.gain, loudness=lufs, peak=top)

    @router.get("/api/projects/{project}/sound/{number}", response_class=Response)
    def block(project: str, number: Annotated[int, Path(ge=0, le=100_000)], key: str) -> Response:
        """A second of the sound, if its key is still that: see `SoundView`."""
        heard = master(project)
        if number >= heard.plan.blocks or heard.key(number) != key:
            raise Missing("That was changed meanwhile. Ask what the sound is made of now.")
        levels, samples = heard.levels(number), heard.finished(number)
        data = levels.astype("<f4").tobytes() + samples.astype("<f4").tobytes()
        return Response(data, media_type="application/octet-stream", headers=FOREVER)

    @router.get("/api/projects/{project}/peaks")
    def peaks(project: str, response: Response, points: Annotated[int, Query(ge=1, le=4000)] = 600) -> list[float]:
        """The loudest sample, 0…1, of each of so many equal parts of the piece."""
        heard = master(project)
        response.headers["X-Sound"] = heard.plan.key
        length = heard.plan.length
        edges = np.linspace(0, length, points + 1).astype(int)
        loudest = np.zeros(points, np.float32)
        for number in range(heard.plan.blocks):
            first = number * BLOCK
            with desk.quiet.small():
                block = np.abs(heard.finished(number)).max(0)
            begins = np.unique([first, *edges[(edges > first) & (edges < first + len(block))]])
            parts = np.searchsorted(edges, begins, side="right") - 1
            np.maximum.at(loudest, parts, np.maximum.reduceat(block, begins - first))
        return loudest.tolist()

    @router.get("/api/projects/{project}/wave")
    def wave(
        project: str,
        cue: str | None = None,
        shot: str | None = None,
        first: Annotated[float, Query(ge=0, le=100_000)] = 0,
        past: Annotated[float, Query(ge=0, le=100_000)] = 100_000,
        points: Annotated[int, Query(ge=1, le=4000)] = 600,
    ) -> list[float]:
        """The loudest sample, 0…1, of each of so many equal parts of a stretch of a cue's or a shot's own seconds."""
        document = studio.state(project).document
        found = next((c for c in document.project.cues if c.id == cue), None)
        file = found.sound.file if found else document.shots[shot].sound_file if shot in document.shots else None
        if found is None and file is None:
            raise Missing("There is no such sound in this project.")
        whole = studio.sounds.whole(file or found.sound)  # type: ignore[union-attr]
        edges = np.linspace(first * RATE, min(past * RATE, whole.shape[1]), points + 1).astype(int)
        return peaks_in(whole, edges).tolist()

    @router.get("/api/projects/{project}/cues/{cue}/beats")
    def beats(project: str, cue: str) -> Counted:
        """The beats that are found in a cue's sound."""
        found = cue_of(studio.state(project).document, cue)
        counted = studio.beats_in(found.sound.file) if found.sound.file else None
        if counted is None:
            raise Refusal(f"No beats can be found in {found.name}. Tap along with it instead.")
        return counted

    @router.get("/api/hits")
    def hits(points: Annotated[int, Query(ge=1, le=400)] = 48) -> dict[str, list[float]]:
        """The waveform of each hit: the loudest sample of each of so many equal parts of it."""
        found = {}
        for name, kind in Sounding.family.all().items():
            if issubclass(kind, Hit):
                whole = studio.sounds.whole(kind())
                found[name] = peaks_in(whole, np.linspace(0, whole.shape[1], points + 1).astype(int)).tolist()
        return found

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
                yield packed(as_float(whole[:, first : first + BLOCK]))

        return StreamingResponse(blocks(), media_type="audio/wav", headers=FOREVER)

    return router


def peaks_in(sound: np.ndarray, edges: np.ndarray) -> np.ndarray:
    """The loudest sample, 0…1, between each two of some places in a sound, float32 or int16 (2, n): float32."""
    parts = (sound[:, a : max(b, a + 1)] for a, b in pairwise(edges.tolist()))
    peaks = np.array([np.abs(p.astype(np.float32)).max(initial=0) for p in parts], np.float32)
    return peaks / 32767 if sound.dtype == np.int16 else peaks
