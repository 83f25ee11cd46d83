"""Keeps other sites out: this server answers only pages that it served itself."""

from urllib.parse import urlsplit

from starlette.datastructures import Headers
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

LOCAL = {"127.0.0.1", "localhost", "::1"}
POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' blob: data:; "
    "font-src 'self'; media-src 'self' blob:; connect-src 'self'; base-uri 'none'; form-action 'none'; "
    "frame-ancestors 'none'"
)


class Safety:
    """Refuses requests with a foreign Host or Origin, and puts a strict policy on every answer."""

    def __init__(self, app: ASGIApp, hosts: set[str] = LOCAL) -> None:
        self._app, self._hosts = app, hosts

    def _trusts(self, host: str, origin: str | None) -> bool:
        try:
            known = urlsplit(f"//{host}").hostname in self._hosts
            return known and (origin is None or urlsplit(origin).netloc == host)
        except ValueError:  # it is no address at all
            return False

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Lets the request through, or answers it with 403."""
        if scope["type"] not in ("http", "websocket"):
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        if not self._trusts(headers.get("host", ""), headers.get("origin")):
            if scope["type"] == "websocket":
                await send({"type": "websocket.close", "code": 1008})
            else:
                body = {"message": "This server answers only its own page, on this machine."}
                await JSONResponse(body, 403)(scope, receive, send)
            return

        async def guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                message["headers"] = [
                    *message["headers"],
                    (b"content-security-policy", POLICY.encode()),
                    (b"x-content-type-options", b"nosniff"),
                    (b"referrer-policy", b"no-referrer"),
                    (b"cross-origin-resource-policy", b"same-origin"),
                ]
            await send(message)

        await self._app(scope, receive, guarded)
