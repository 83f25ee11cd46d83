"""The preview stream: one WebSocket a page, for frames, mattes, job progress and changes made elsewhere.

The page asks in JSON: `{"type": "frame", "seq", "frame", "width", "height", "exact"?, "draft"?}` or `{"type": "matte",
"seq", "hold", "width", "height", "frame"?, "cut"?, "draft"?}` or `{"type": "cling", "seq", "shot", "frame", "start",
"to"}` or `{"type": "rough", "seq", "hold", "frame", "piece"?, "combine"?, "added"}`, strokes that were drawn, for about
what the hold's matte will be; or it says `{"type": "at work"}`, that somebody is, and what can wait waits for a while.
A draft is an edit that is drawn but not made; of drafts that wait, only the newest is drawn. The answer is binary: the
header's length (unsigned 32-bit, little endian), the header in JSON, then the picture; that of a matte is the part
`box` (left, top, width, height) of one of the `size` (width, height) that was asked for, as nothing is beyond it. With
a draft, a frame's header says in `spans` which layers it lays elsewhere in time, [start, end), in `ground` which items
of the ground, and in `keys` which keys of layers, each with its frame.
News come as JSON text: `{"type": "changed", "revision"}`, `{"type": "job", …}`.
"""

import asyncio
import json
import logging
import struct
from concurrent.futures import ThreadPoolExecutor
from typing import Annotated, Any, Literal

from fastapi import WebSocket, WebSocketDisconnect
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, Field, TypeAdapter, ValidationError

from ..core.edits import ClientEdit
from ..core.errors import Refusal
from ..core.model import Document, Hold
from ..core.model.base import Number
from ..core.picture.evaluate import Evaluation
from ..core.timeline.timeline import Timeline
from ..studio import Studio, carving
from ..studio.carving import RoughRequest
from .hub import Hub
from .pictures import Pictures, corners_of, outline_of, packed_matte
from .quiet import Quiet

log = logging.getLogger("nervykite")
MOST_WAITING = 64
"""How many requests of one page wait at most."""
LONG = 1 << 16
"""From so many bytes on a request is read in a thread, so that others are answered meanwhile."""
Side = Annotated[int, Field(ge=2, le=4096)]


class FrameRequest(BaseModel):
    """A preview frame, at a size that is rounded to even numbers; `exact`: of the footage itself, as it is sent."""

    type: Literal["frame"]
    seq: int
    frame: Annotated[int, Field(ge=0)]
    width: Side
    height: Side
    exact: bool = False
    draft: ClientEdit | None = None


class MatteRequest(BaseModel):
    """A hold's matte at a size; `frame` is a source frame that it travels to (None: the held one).

    With `cut` the cutout itself, with the colours that its edge has where it flies.
    """

    type: Literal["matte"]
    seq: int
    hold: str
    frame: Annotated[int, Field(ge=0)] | None = None
    width: Side
    height: Side
    cut: bool = False
    draft: ClientEdit | None = None


class ClingRequest(BaseModel):
    """A line along the edges of a source frame, from one point to another, in source pixels."""

    type: Literal["cling"]
    seq: int
    shot: str
    frame: Annotated[int, Field(ge=0)]
    start: tuple[Number, Number]
    to: tuple[Number, Number]
    draft: None = None


class RoughMatteRequest(RoughRequest):
    """About what a hold's matte will be once strokes are worked out; small."""

    type: Literal["rough"]
    seq: int
    hold: str
    draft: None = None


class AtWorkRequest(BaseModel):
    """Somebody has a hand on the page, or plays: what can wait waits. It is not answered."""

    type: Literal["at work"]


AnyRequest = FrameRequest | MatteRequest | ClingRequest | RoughMatteRequest
_request: TypeAdapter[AnyRequest | AtWorkRequest] = TypeAdapter(
    Annotated[AnyRequest | AtWorkRequest, Field(discriminator="type")]
)


class Live:
    """Serves the sockets."""

    def __init__(self, studio: Studio, pictures: Pictures, hub: Hub, quiet: Quiet) -> None:
        self._studio, self._pictures, self._hub, self._quiet = studio, pictures, hub, quiet
        self._pool = ThreadPoolExecutor(2, "preview")

    def close(self) -> None:
        """Stops the threads."""
        self._pool.shutdown(cancel_futures=True)

    async def serve(self, socket: WebSocket, project: str) -> None:
        """Talks to one page until it leaves."""
        await socket.accept()
        news = self._hub.listen(project)
        waiting: list[AnyRequest] = []
        wake, room = asyncio.Event(), asyncio.Event()
        sending = asyncio.Lock()

        async def send_news() -> None:
            while True:
                message = await news.get()
                async with sending:
                    await socket.send_json(message)

        async def draw() -> None:
            while True:
                await wake.wait()
                if not waiting:
                    wake.clear()
                    continue
                request = waiting.pop(0)
                room.set()
                # A newer draft of the same kind makes this one pointless.
                stale = request.draft and any(w.draft and w.type == request.type for w in waiting)
                with self._quiet.frame():
                    answer = await asyncio.get_running_loop().run_in_executor(
                        self._pool, self._answer, project, request, bool(stale)
                    )
                async with sending:
                    await socket.send_bytes(answer)

        async def take_in() -> None:
            while True:
                while len(waiting) >= MOST_WAITING:  # nothing more is taken in until there is room again
                    room.clear()
                    await room.wait()
                message = await socket.receive()
                if message["type"] == "websocket.disconnect":
                    return
                text = message.get("text") or message.get("bytes") or b""
                try:
                    read = _request.validate_json
                    request = read(text) if len(text) < LONG else await run_in_threadpool(read, text)
                    if isinstance(request, AtWorkRequest):
                        self._quiet.hold()
                        continue
                    waiting.append(request)
                    wake.set()
                except (ValidationError, RecursionError) as error:
                    problem = error.errors()[0]["msg"] if isinstance(error, ValidationError) else "nested too deeply"
                    async with sending:
                        await socket.send_json(
                            {"type": "trouble", "message": f"A request was not understood: {problem}."}
                        )

        tasks = [asyncio.create_task(t()) for t in (take_in, send_news, draw, draw)]
        try:
            done, _ = await asyncio.wait(tasks, return_when=asyncio.FIRST_COMPLETED)
        finally:
            self._hub.leave(project, news)
            for task in tasks:
                task.cancel()
        for task in done:
            error = task.exception()
            if error is not None and not isinstance(error, WebSocketDisconnect | RuntimeError):  # the page has left
                raise error

    def _answer(self, project: str, request: AnyRequest, skip: bool) -> bytes:
        header: dict[str, Any] = {"type": request.type, "seq": request.seq}
        data = b""
        try:
            if skip:
                return _packed(header | {"skipped": True}, b"")
            state = self._studio.state(project)
            if isinstance(request, ClingRequest):
                header["points"] = self._pictures.cling(state.document, request.shot, request.frame, request.start)(
                    request.to
                )
                return _packed(header, b"")
            if isinstance(request, RoughMatteRequest):
                alpha = carving.at_once(self._studio, state.document, hold_in(state.document, request.hold), request)
                header["size"] = alpha.shape[::-1]
                header["box"], data = packed_matte(alpha)
                return _packed(header, data)
            header["revision"] = state.revision
            if request.draft is not None:
                document = request.draft.apply(state.document)
                known = self._studio.evaluation(state)
                evaluation = Evaluation(document, Timeline(document, known.timeline))
                if request.type == "frame":
                    header["spans"] = _moved(known, evaluation)
                    header["ground"] = _ground(known.timeline, evaluation.timeline)
                    header["keys"] = _keys(known, evaluation)
            else:
                evaluation = self._studio.evaluation(state)
            size = request.width // 2 * 2, request.height // 2 * 2
            if request.type == "frame":
                data = self._frame(header, evaluation, request.frame, size, request.exact)
            else:
                data = self._matte(header, evaluation, request, size)
        except Refusal as refusal:
            header["trouble"] = str(refusal)
        except Exception:
            # The stream goes on: one frame that cannot be drawn must not leave the page waiting for all others.
            log.exception("a preview could not be drawn")
            header["trouble"] = "This frame cannot be drawn. Undo the last step, or reload the page; the log has more."
        return _packed(header, data)

    def _frame(
        self, header: dict[str, Any], evaluation: Evaluation, frame: int, size: tuple[int, int], exact: bool
    ) -> bytes:
        document = evaluation.document
        draws = evaluation.at(frame)
        outlines = (outline_of(evaluation, x, frame) for x in document.project.layers if x.visible)
        header |= {"frame": frame, "key": draws.key, "layers": [o for o in outlines if o]}
        shown = evaluation.timeline.item_at(frame)
        if shown:
            values = evaluation.lying(shown.item).values(frame) | evaluation.settings(shown.item, frame)
            corners = corners_of(evaluation, shown.item, frame)
            header["source"] = {"item": shown.item.id, "frame": shown.frame, "values": values, "corners": corners}
        return self._pictures.frame(document, draws, size, exact)

    def _matte(
        self, header: dict[str, Any], evaluation: Evaluation, request: MatteRequest, size: tuple[int, int]
    ) -> bytes:
        hold = hold_in(evaluation.document, request.hold)
        header["hold"] = hold.id
        at = hold.frame if request.frame is None else request.frame
        matte = hold.matte_at(at) or hold.matte.model_copy(update={"pieces": []})
        draw = self._pictures.cut if request.cut else self._pictures.matte
        header["box"], data = draw(matte, evaluation.document.shots[hold.shot], at, size)
        header["size"] = size
        return data


def hold_in(document: Document, hold: str) -> Hold:
    """A document's hold. Raises Refusal."""
    found = document.holds.get(hold)
    if found is None:
        raise Refusal("That hold is no longer there. Choose another.")
    return found


def _moved(before: Evaluation, after: Evaluation) -> dict[str, tuple[int, int]]:
    """The spans of layers that lie elsewhere in time than they did, half-open."""
    old = before.timeline.spans
    return {k: (s.start, s.end) for k, s in after.timeline.spans.items() if s is not None and s != old.get(k)}


def _ground(before: Timeline, after: Timeline) -> dict[str, tuple[int, int]]:
    """Where ground items lie that lie elsewhere in time than they did, half-open."""
    old, new = ({k: (t.starts[k], t.end_of(k)) for k in t.starts} for t in (before, after))
    return {k: place for k, place in new.items() if old.get(k) != place}


def _keys(before: Evaluation, after: Evaluation) -> dict[str, int]:
    """The frames of keys of layers that lie elsewhere in time than they did."""
    found: dict[str, int] = {}
    old, new = before.timeline, after.timeline
    cut = old.starts != new.starts
    layers = {x.id: x for x in before.document.project.layers}
    for layer in after.document.project.layers:
        was = layers.get(layer.id)
        still = layer is was and not cut and old.spans.get(layer.id) == new.spans.get(layer.id)
        if still or not layer.keys or new.spans.get(layer.id) is None:
            continue
        known = {k.id: k for k in was.keys} if was and old.spans.get(layer.id) else {}
        ties, then = new.ties_of(layer), old.ties_of(was) if was and known else None
        for key in layer.keys:
            frame = ties.frame(key)
            if then is None or key.id not in known or then.frame(known[key.id]) != frame:
                found[key.id] = frame
    return found


def _packed(header: dict[str, Any], data: bytes) -> bytes:
    head = json.dumps(header).encode()
    return struct.pack("<I", len(head)) + head + data
