"""Files that are sent: each bounded before it is read, and read by routes without ``async``, so never on the event loop."""

from __future__ import annotations

from fastapi import UploadFile
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from eurythm.model.errors import EurythmError

MOST_SENT_BYTES = 420_000_000
"""What any request may send: the largest file, and what stands around it."""
MOST_JSON_BYTES = 8_000_000
"""What a request may send that is no file: an edit with thousands of outlines has 2 MB."""
TOO_LARGE = b'{"code": "too-large", "path": "body", "message": "This is more than is taken at once."}'


def named(file: UploadFile, otherwise: str) -> str:
    """Return a file's name without folders, by which errors speak of it."""
    return (file.filename or otherwise).replace("\\", "/").split("/")[-1][:200] or otherwise


def taken(file: UploadFile, most: int, name: str) -> bytes:
    """Return what a file holds.

    Raises
    ------
    EurythmError
        ``too-large``, before anything is read.
    """
    refuse_larger(file, most, name)
    return file.file.read()


def refuse_larger(file: UploadFile, most: int, name: str) -> None:
    """Raise EurythmError ``too-large`` where a file has more than `most` bytes."""
    if (file.size or 0) > most:
        raise EurythmError("too-large", f"“{name}” has more than {most / 1e6:.0f} MB.", name)


class Bounded:
    """Refuses requests that send too much, by what they say of themselves or once they have sent it."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Count what a request sends."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        heads = dict(scope["headers"])
        form = heads.get(b"content-type", b"").startswith(b"multipart/")
        most, said = (MOST_SENT_BYTES if form else MOST_JSON_BYTES), heads.get(b"content-length", b"0")
        if said.isdigit() and int(said) > most:
            await _refuse(send)
            return
        counted, refused, begun = 0, False, False

        async def counting() -> Message:
            nonlocal counted
            message = await receive()
            counted += len(message.get("body", b""))
            if counted > most:
                raise EurythmError("too-large", "This is more than is taken at once.", "body")
            return message

        async def sending(message: Message) -> None:
            nonlocal refused, begun
            if counted > most and not begun:  # whatever became of the fault on its way
                if not refused:
                    refused = True
                    await _refuse(send)
                return
            begun = True
            await send(message)

        await self._app(scope, counting, sending)


async def _refuse(send: Send) -> None:
    head = [(b"content-type", b"application/json"), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": 413, "headers": head})
    await send({"type": "http.response.body", "body": TOO_LARGE})
