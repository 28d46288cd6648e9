"""What stands before every route: whose name we answer to, whose pages may write, and what every answer tells the browser."""

from __future__ import annotations

from collections.abc import Set
from urllib.parse import urlsplit

from fastapi.responses import JSONResponse
from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

READING = {"GET", "HEAD", "OPTIONS"}
HEADS = {
    "Content-Security-Policy": "default-src 'self'; img-src 'self' data: blob:; font-src 'self' data:; style-src 'self' 'unsafe-inline'; "
    "worker-src 'self' blob:; connect-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "X-Frame-Options": "DENY",
}
"""What every answer tells the browser: nothing is loaded from elsewhere, nothing frames us, nothing is guessed. Styles are set by script."""


class Guard:
    """Answers only to our own host names, and takes writes only from our own pages."""

    def __init__(self, app: ASGIApp, hosts: Set[str]) -> None:
        self.app, self.hosts = app, hosts

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Hand a request on, or refuse it."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return

        under_way = False

        async def sending(message: Message) -> None:
            nonlocal under_way
            under_way = message["type"] == "http.response.start" or message.get("more_body", False)
            if message["type"] == "http.response.start":
                told = MutableHeaders(scope=message)
                for head, value in HEADS.items():
                    told.setdefault(head, value)
            await send(message)

        refused = self._refused(scope["method"], Headers(scope=scope))
        await (self.app if refused is None else refused)(scope, receive, sending)
        if under_way:  # what is followed stops in the middle where the server does
            await send({"type": "http.response.body", "body": b"", "more_body": False})

    def _refused(self, method: str, heads: Headers) -> JSONResponse | None:
        host = heads.get("host", "")
        origin, called = heads.get("origin"), {host}
        if _name(forwarded := heads.get("x-forwarded-host", "")) in self.hosts:
            called.add(forwarded)  # behind a proxy the page is called by another name than we are
        if _name(host) not in self.hosts:
            return JSONResponse({"code": "wrong-host", "path": "host", "message": "This host name is not served."}, 400)
        if method not in READING and origin is not None and urlsplit(origin).netloc not in called:
            said = "Writes are taken from our own pages only."
            return JSONResponse({"code": "wrong-origin", "path": "origin", "message": said}, 403)
        return None


def _name(host: str) -> str:
    """A host without its port."""
    return host.rsplit(":", 1)[0] if not host.endswith("]") else host
