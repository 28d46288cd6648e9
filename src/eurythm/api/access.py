"""Who is let in beyond this computer: a token, made at the first start, shown once, and kept only as a digest.

On this computer alone nobody is asked. As soon as another name is served, every request needs the token, as a cookie that the page
`/enter` sets; wrong tries are answered one after another, a second each.
"""

from __future__ import annotations

import asyncio
import hashlib
import hmac
import ipaddress
import os
import secrets
from collections.abc import Awaitable, Callable
from pathlib import Path
from urllib.parse import parse_qs

from fastapi import FastAPI, Request
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse, Response

from eurythm.model.errors import EurythmError

FILE = "access"
COOKIE = "eurythm-access"
ENTER = "/enter"
DAYS = 30
WRONG_S = 1.0
MOST_WAITING = 20
"""So many wrong tries may wait for their answer; more are told to come back later."""
SENT = 1000
"""What the page's form may send, bytes."""


def loopback(host: str) -> bool:
    """Whether a host to bind to is this computer alone."""
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return host == "localhost"


def new_token(folder: Path) -> str:
    """Make a token that replaces any other, keep its digest in the folder, and return it."""
    token = secrets.token_urlsafe(24)
    path = folder / FILE
    path.unlink(missing_ok=True)
    with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as file:
        file.write(_digest(token))
    return token


def opened(host: str, names: set[str], folder: Path) -> tuple[Access | None, str]:
    """Return what asks for the token, None where only this computer is served; and the token where it was made just now.

    Raises
    ------
    EurythmError
        ``host-not-allowed`` for a host beyond this computer without a name to serve under.
    """
    if not names:
        if loopback(host):
            return None, ""
        raise EurythmError(
            "host-not-allowed",
            f"--host {host} would open Eurythm to other computers. Say under which name they call it, with --allow-host NAME; "
            "each of them is then asked for a token, which is made and shown at the first start.",
            "host",
        )
    made = "" if (folder / FILE).is_file() else new_token(folder)
    return Access((folder / FILE).read_text().strip()), made


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


class Access:
    """Lets in who brings the token."""

    def __init__(self, digest: str) -> None:
        self._digest = digest
        self._turn = asyncio.Lock()
        self._waiting = 0

    def holds(self, token: str) -> bool:
        """Whether this is the token; takes as long whether it is or not."""
        return hmac.compare_digest(_digest(token), self._digest)

    def guard(self, app: FastAPI) -> None:
        """Ask for the token before any other answer, and serve the page where it is given."""

        @app.middleware("http")
        async def check(request: Request, follow: Callable[[Request], Awaitable[Response]]) -> Response:
            if request.url.path == ENTER or self.holds(request.cookies.get(COOKIE, "")):
                return await follow(request)
            if request.url.path.startswith("/api/") or request.method != "GET":
                said = "Give the token first, on the page /enter."
                return JSONResponse({"code": "no-access", "path": "", "message": said}, 401)
            return RedirectResponse(ENTER, 303)

        @app.get(ENTER, include_in_schema=False)
        async def page() -> Response:
            return _page("")

        @app.post(ENTER, include_in_schema=False)
        async def enter(request: Request) -> Response:
            return await self._enter(request)

    async def _enter(self, request: Request) -> Response:
        sent = (await request.body())[:SENT].decode(errors="replace")
        token = parse_qs(sent).get("token", [""])[0].strip()
        if not self.holds(token):
            if self._waiting >= MOST_WAITING:
                return _page("Too many tries at once. Wait a moment, then try again.", 429)
            self._waiting += 1
            try:
                async with self._turn:
                    await asyncio.sleep(WRONG_S)
            finally:
                self._waiting -= 1
            return _page("This is not the token. It was shown where Eurythm was first started; “eurythm token” makes another.", 403)
        answer = RedirectResponse("/", 303)
        safe = "https" in (request.url.scheme, request.headers.get("x-forwarded-proto", ""))
        answer.set_cookie(COOKIE, token, max_age=DAYS * 86400, httponly=True, samesite="strict", secure=safe)
        return answer


def _page(said: str, status: int = 200) -> HTMLResponse:
    wrong = f'<p role="alert">{said}</p>' if said else ""
    # without any referrer browsers call the origin of a form "null", and it would be taken for a stranger's
    return HTMLResponse(PAGE.replace("<!-- said -->", wrong), status, {"Referrer-Policy": "same-origin"})


PAGE = """<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>Eurythm</title>
<style>
body { margin: 0; min-height: 100vh; display: grid; place-items: center; background: #f4f2ec; color: #23302f; font: 16px/1.5 system-ui, sans-serif; }
form { width: min(22rem, 86vw); }
h1 { font-weight: 500; font-size: 1.7rem; margin: 0 0 .3rem; }
p { margin: 0 0 1rem; }
[role=alert] { border-left: 3px solid #a8452e; padding-left: .7rem; }
label { display: block; font-size: .85rem; }
input { width: 100%; box-sizing: border-box; font: inherit; padding: .5rem .6rem; border: 1px solid #8d9a97; background: #fff; border-radius: 3px; }
button { margin-top: 1rem; font: inherit; padding: .45rem 1.2rem; border: 0; border-radius: 3px; background: #1f6f78; color: #fff; cursor: pointer; }
:focus-visible { outline: 2px solid #1f6f78; outline-offset: 2px; }
</style>
</head>
<body>
<form method="post" action="/enter">
<h1>Eurythm</h1>
<p>Whoever started it has a token for you.</p>
<!-- said -->
<label for="token">Token</label>
<input id="token" name="token" type="password" autocomplete="current-password" autofocus required>
<button>Enter</button>
</form>
</body>
</html>
"""
