"""The preview stream: one WebSocket a page, for frames, mattes, job progress and changes made elsewhere."""

import asyncio
import logging
from concurrent.futures import ThreadPoolExecutor

from fastapi import WebSocket, WebSocketDisconnect
from fastapi.concurrency import run_in_threadpool
from pydantic import ValidationError

from ..core.common.errors import Refusal
from ..core.draw.picture.evaluate import Evaluation
from ..core.piece.model import Document, Hold
from ..core.piece.timeline.timeline import Timeline
from ..store.projects import State
from ..studio import Studio, carving
from .hub import Hub
from .messages import (
    AnyRequest,
    AtWorkRequest,
    ClingHeader,
    ClingRequest,
    FrameHeader,
    FrameRequest,
    Header,
    MatteHeader,
    MatteRequest,
    RoughMatteRequest,
    ShownItem,
    TroubleNews,
    packed,
    request_of,
)
from .pictures import Pictures, corners_of, outline_of, packed_matte
from .quiet import Quiet

log = logging.getLogger("nervykite")
MOST_WAITING = 64
"""How many requests of one page wait at most."""
LONG = 1 << 16
"""From so many bytes on a request is read in a thread, so that others are answered meanwhile."""
HEADERS: dict[str, type[Header]] = {
    "frame": FrameHeader, "matte": MatteHeader, "rough": MatteHeader, "cling": ClingHeader,
}  # fmt: skip


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
                    await socket.send_text(message.model_dump_json())

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
                    read = request_of.validate_json
                    request = read(text) if len(text) < LONG else await run_in_threadpool(read, text)
                    if isinstance(request, AtWorkRequest):
                        self._quiet.hold()
                        continue
                    waiting.append(request)
                    wake.set()
                except (ValidationError, RecursionError) as error:
                    problem = error.errors()[0]["msg"] if isinstance(error, ValidationError) else "nested too deeply"
                    async with sending:
                        told = TroubleNews(message=f"A request was not understood: {problem}.")
                        await socket.send_text(told.model_dump_json())

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
        header = HEADERS[request.type].model_validate({"seq": request.seq, "type": request.type})
        if skip:
            header.skipped = True
            return packed(header)
        try:
            state = self._studio.state(project)
            match request, header:
                case FrameRequest(), FrameHeader():
                    return packed(header, self._frame(header, state, request))
                case MatteRequest(), MatteHeader():
                    return packed(header, self._matte(header, state, request))
                case RoughMatteRequest(), MatteHeader():
                    hold = hold_in(state.document, request.hold)
                    alpha = carving.at_once(self._studio, state.document, hold, request)
                    header.size = alpha.shape[1], alpha.shape[0]
                    header.box, data = packed_matte(alpha)
                    return packed(header, data)
                case ClingRequest(), ClingHeader():
                    along = self._pictures.cling(state.document, request.shot, request.frame, request.start)
                    header.points = along(request.to)
        except Refusal as refusal:
            header.trouble = str(refusal)
        except Exception:
            # The stream goes on: one frame that cannot be drawn must not leave the page waiting for all others.
            log.exception("a preview could not be drawn")
            header.trouble = "This frame cannot be drawn. Undo the last step, or reload the page; the log has more."
        return packed(header)

    def _drafted(self, state: State, request: FrameRequest | MatteRequest) -> tuple[Evaluation, Evaluation]:
        """The document, and the one that it would be with the request's draft."""
        known = self._studio.evaluation(state)
        if request.draft is None:
            return known, known
        document = request.draft.apply(state.document)
        return known, Evaluation(document, Timeline(document, known.timeline))

    def _frame(self, header: FrameHeader, state: State, request: FrameRequest) -> bytes:
        known, evaluation = self._drafted(state, request)
        document, frame = evaluation.document, request.frame
        if request.draft is not None:
            header.spans = _moved(known, evaluation)
            header.ground = _ground(known.timeline, evaluation.timeline)
            header.keys = _keys(known, evaluation)
        draws = evaluation.at(frame)
        header.revision, header.frame, header.key = state.revision, frame, draws.key
        outlines = (outline_of(evaluation, x, frame) for x in document.project.layers if x.visible)
        header.layers = [o for o in outlines if o]
        shown = evaluation.timeline.item_at(frame)
        if shown:
            values = evaluation.lying(shown.item).values(frame) | evaluation.settings(shown.item, frame)
            corners = corners_of(evaluation, shown.item, frame)
            header.source = ShownItem(item=shown.item.id, frame=shown.frame, values=values, corners=corners)
        return self._pictures.frame(document, draws, _even(request), request.exact)

    def _matte(self, header: MatteHeader, state: State, request: MatteRequest) -> bytes:
        _, evaluation = self._drafted(state, request)
        hold = hold_in(evaluation.document, request.hold)
        at = hold.frame if request.frame is None else request.frame
        matte = hold.matte_at(at) or hold.matte.model_copy(update={"pieces": []})
        draw = self._pictures.cut if request.cut else self._pictures.matte
        header.size = _even(request)
        header.box, data = draw(matte, evaluation.document.shots[hold.shot], at, header.size)
        return data


def _even(request: FrameRequest | MatteRequest) -> tuple[int, int]:
    return request.width // 2 * 2, request.height // 2 * 2


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
