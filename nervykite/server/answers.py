"""The answers that several routers share: errors as sentences, downloads, bodies that are read with a limit."""

import asyncio
import contextlib
import functools
import inspect
import logging
import re
import threading
from collections.abc import AsyncIterator, Callable, Coroutine
from typing import Any, TypeVar
from urllib.parse import quote

from anyio import CapacityLimiter, to_thread
from anyio.lowlevel import RunVar
from fastapi import APIRouter, FastAPI, HTTPException, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from fastapi.routing import APIRoute
from starlette.exceptions import HTTPException as AnyHTTPException
from starlette.requests import ClientDisconnect

from ..core.common.errors import Cancelled, Refusal
from ..store.database import Busy
from ..store.projects import Missing, Stale, Unreadable
from ..studio import Studio
from ..studio.troubles import told
from .requests import Trouble

log = logging.getLogger("nervykite")
T = TypeVar("T")
Report = Callable[[float], None]
"""What some work calls now and then, with the share done."""
PATIENCE = 60.0
"""Seconds for which nothing of a request may come."""
LONGEST = 60.0
"""Seconds after which an answer that somebody waits for is given up."""
MOST_JSON = 16 << 20
"""How many bytes of JSON a request has at most."""
HASH = re.compile("[0-9a-f]{64}")
"""What the hash of a stored file looks like."""
FOREVER = {"Cache-Control": "private, max-age=31536000, immutable"}
ASK_AGAIN = {"Cache-Control": "no-cache"}
ERRORS: dict[int | str, dict] = {
    code: {"model": Trouble} for code in (400, 403, 404, 405, 408, 409, 413, 422, 500, 503)
}  # fmt: skip


WORDS = {
    400: "The request could not be read: its body is not JSON in UTF-8. Reload the page, and do that again.",
    404: "There is nothing at that address.",
    405: "That cannot be asked for in this way.",
}
PLAIN = {"There was an error parsing the body", "Not Found", "Method Not Allowed"}
"""What the framework says by itself, and what a person is told instead."""


def add_errors(app: FastAPI) -> None:
    """Has every error answered with a sentence."""

    @app.exception_handler(Refusal)
    def refused(_request: Request, refusal: Refusal) -> JSONResponse:
        if isinstance(refusal, Unreadable):
            return JSONResponse({"message": str(refusal), "rescue": True}, 422)
        status = 404 if isinstance(refusal, Missing) else 503 if isinstance(refusal, Busy) else 400
        return JSONResponse({"message": str(refusal)}, status)

    @app.exception_handler(Stale)
    def stale(_request: Request, error: Stale) -> JSONResponse:
        return JSONResponse({"message": str(error), "revision": error.revision}, 409)

    @app.exception_handler(RequestValidationError)
    def not_understood(_request: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        where = ".".join(str(x) for x in first["loc"] if x not in ("body", "query", "path", "edit"))
        message = str(first["msg"]).removeprefix("Value error, ")
        if first["type"] == "union_tag_not_found":
            message = "It has to say its kind"
        return JSONResponse({"message": f"{where}: {message}." if where else f"{message}."}, 400)

    @app.exception_handler(AnyHTTPException)
    def http_error(_request: Request, error: AnyHTTPException) -> JSONResponse:
        sentence = WORDS.get(error.status_code, str(error.detail)) if error.detail in PLAIN else str(error.detail)
        return JSONResponse({"message": sentence}, error.status_code, headers=error.headers)

    @app.exception_handler(Exception)
    def unforeseen(request: Request, error: Exception) -> JSONResponse:
        log.exception("%s %s failed", request.method, request.url.path, exc_info=error)
        return JSONResponse({"message": told(error, "That")}, 500)


MAX_UPLOAD = 8 << 30
"""Bytes that a file that is sent here may have."""


def file_name(given: str, otherwise: str) -> str:
    """The name of a file that is sent here, as it is shown: without folders and what cannot be printed."""
    return "".join(c for c in given.replace("\\", "/").split("/")[-1] if c.isprintable()).strip() or otherwise


def download(data: bytes, kind: str, name: str) -> Response:
    """A file for the person to keep."""
    safe = "".join(c if c.isalnum() or c in "-_. " else "-" for c in name)
    return Response(
        data, media_type=kind, headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(safe)}"}
    )


async def blocks(request: Request, name: str, what: str, limit: int) -> AsyncIterator[bytes]:
    """A request's body as it comes, of at most `limit` bytes.

    Raises HTTPException with a sentence: 413 if it is larger, 408 if it stops coming, 400 if it breaks off.
    """
    size = f"{limit >> 30} GB" if limit >= 1 << 30 else f"{limit >> 20} MB"
    too_large = HTTPException(413, f"{name} is larger than {size}, too large for {what}.")
    if int(request.headers.get("content-length") or 0) > limit:
        raise await drained(request, too_large)
    coming, done = aiter(request.stream()), 0
    while True:
        try:
            block = await asyncio.wait_for(anext(coming), PATIENCE)
        except StopAsyncIteration:
            return
        except TimeoutError as error:
            raise HTTPException(408, f"{name} stopped arriving. Send it again.") from error
        except ClientDisconnect as error:
            raise HTTPException(400, f"{name} broke off on its way. Send it again.") from error
        done += len(block)
        if done > limit:
            raise too_large
        yield block


async def drained(request: Request, refusal: Exception) -> Exception:
    """The error to be raised about a request once its body has come and gone, as far as it does: until then whoever
    sends it may not hear what is said, as the connection ends before that.
    """
    with contextlib.suppress(ClientDisconnect, TimeoutError):
        async with asyncio.timeout(PATIENCE):
            async for _ in request.stream():
                pass
    return refusal


async def room_for(studio: Studio, request: Request, name: str) -> None:
    """Raises Refusal, once all of a request's body has come, if the disk has no room for it."""
    try:
        await run_in_threadpool(studio.room_for, int(request.headers.get("content-length") or 0), name)
    except Refusal as refusal:
        raise await drained(request, refusal) from refusal


async def received(request: Request, name: str, what: str, limit: int) -> bytes:
    """A request's body, at most `limit` bytes. Raises HTTPException as `blocks` does."""
    return b"".join([block async for block in blocks(request, name, what, limit)])


class Bounded(Request):
    """A request whose body is read with a limit, and not for ever."""

    async def body(self) -> bytes:
        """All of it, at most MOST_JSON bytes."""
        if not hasattr(self, "_body"):
            self._body = await received(self, "What was sent", "one request", MOST_JSON)
        return self._body


CHANGING: RunVar[CapacityLimiter] = RunVar("changing")
"""The threads of a loop in which things are changed: however many wait there, others go on reading."""
MOST_CHANGING = 24


def _beside(endpoint: Callable[..., T]) -> Callable[..., Coroutine[Any, Any, T]]:
    """A function that is answered in one of the threads that are for changes."""

    @functools.wraps(endpoint)
    async def called(*given: Any, **named: Any) -> T:
        try:
            limiter = CHANGING.get()
        except LookupError:
            limiter = CapacityLimiter(MOST_CHANGING)
            CHANGING.set(limiter)
        return await to_thread.run_sync(functools.partial(endpoint, *given, **named), limiter=limiter)

    return called


class BoundedRoute(APIRoute):
    """A route that takes bounded requests; what is asked for in order to change something has threads of its own."""

    def __init__(self, path: str, endpoint: Callable[..., Any], **settings: Any) -> None:
        if settings.get("methods") != ["GET"] and not inspect.iscoroutinefunction(endpoint):
            endpoint = _beside(endpoint)
        super().__init__(path, endpoint, **settings)

    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        """The handler, given such a request."""
        handle = super().get_route_handler()

        async def bounded(request: Request) -> Response:
            return await handle(Bounded(request.scope, request.receive))

        return bounded


def bounded_router() -> APIRouter:
    """A router whose requests are bounded."""
    return APIRouter(route_class=BoundedRoute)


async def attended(request: Request, work: Callable[[Report], T]) -> T:
    """The result of some work, done in a thread as long as the asker is there, and not for too long.

    The work is given a function to report to now and then; that stops it by an exception. Raises HTTPException.
    """
    stop = threading.Event()

    def report(share: float) -> None:
        if stop.is_set():
            raise Cancelled

    doing = asyncio.ensure_future(run_in_threadpool(work, report))
    until = asyncio.get_running_loop().time() + LONGEST
    while not doing.done():
        await asyncio.wait({doing}, timeout=0.25)
        if not doing.done() and (asyncio.get_running_loop().time() > until or await request.is_disconnected()):
            stop.set()
    try:
        return await doing
    except Cancelled as error:
        raise HTTPException(
            400, f"That took longer than {LONGEST:.0f} s. Ask for less, or for something simpler."
        ) from error
