"""Keeps other sites out: this server answers only pages that it served itself."""

import re
from urllib.parse import urlsplit

from starlette.datastructures import Headers
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

PLAIN = re.compile(r"[\w.:\[\]-]+")
"""A host as it is written without a name before it, or anything after it (RFC 9110, 7.2)."""
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

    def _trusts(self, headers: Headers, path: str) -> bool:
        """True if a request is of the program's own page, or of nobody's: a person who types, or another program."""
        hosts, origins = headers.getlist("host"), headers.getlist("origin")
        if len(hosts) != 1 or len(origins) > 1 or not PLAIN.fullmatch(hosts[0]):
            return False
        # Fetch Metadata, 2.2: other sites may lead a person to the page, and nothing else.
        strange = headers.get("sec-fetch-site", "none") not in ("none", "same-origin")
        if strange and (headers.get("sec-fetch-mode") != "navigate" or path.startswith("/api")):
            return False
        try:
            known = urlsplit(f"//{hosts[0]}").hostname in self._hosts
            return known and (not origins or urlsplit(origins[0]).netloc == hosts[0])
        except ValueError:  # it is no address at all
            return False

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Lets the request through, or answers it with 403."""
        if scope["type"] not in ("http", "websocket"):
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        if not self._trusts(headers, scope["path"]):
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
