"""What several routers answer with: errors as sentences, downloads, bodies that are read with a limit."""

from urllib.parse import quote

from fastapi import FastAPI, HTTPException, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException as AnyHTTPException

from ..core.errors import Refusal
from ..store.projects import Missing, Stale
from .requests import Trouble

FOREVER = {"Cache-Control": "private, max-age=31536000, immutable"}
ASK_AGAIN = {"Cache-Control": "no-cache"}
ERRORS: dict[int | str, dict] = {
    400: {"model": Trouble}, 404: {"model": Trouble}, 409: {"model": Trouble}, 413: {"model": Trouble},
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
        return JSONResponse({"message": str(refusal)}, 404 if isinstance(refusal, Missing) else 400)

    @app.exception_handler(Stale)
    def stale(_request: Request, error: Stale) -> JSONResponse:
        return JSONResponse({"message": str(error), "revision": error.revision}, 409)

    @app.exception_handler(RequestValidationError)
    def not_understood(_request: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        where = ".".join(str(x) for x in first["loc"] if x not in ("body", "query", "path", "edit"))
        message = str(first["msg"]).removeprefix("Value error, ")
        return JSONResponse({"message": f"{where}: {message}." if where else f"{message}."}, 400)

    @app.exception_handler(AnyHTTPException)
    def http_error(_request: Request, error: AnyHTTPException) -> JSONResponse:
        sentence = WORDS.get(error.status_code, str(error.detail)) if error.detail in PLAIN else str(error.detail)
        return JSONResponse({"message": sentence}, error.status_code, headers=error.headers)


def download(data: bytes, kind: str, name: str) -> Response:
    """A file for the person to keep."""
    safe = "".join(c if c.isalnum() or c in "-_. " else "-" for c in name)
    return Response(
        data, media_type=kind, headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(safe)}"}
    )


async def received(request: Request, name: str, what: str, limit: int) -> bytes:
    """A request's body, at most `limit` bytes. Raises HTTPException 413 with a sentence."""
    data = bytearray()
    async for block in request.stream():
        data += block
        if len(data) > limit:
            raise HTTPException(413, f"{name} is larger than {limit >> 20} MB, too large for {what}.")
    return bytes(data)
