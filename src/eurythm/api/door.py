"""Where the server will stand: its folder, port and name, seen to before anything of weight is imported or warmed."""

from __future__ import annotations

import errno
import socket
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from eurythm.api.access import Access, opened
from eurythm.model.errors import EurythmError
from eurythm.store.database import open_database
from eurythm.store.folder import claim


@dataclass(frozen=True)
class Door:
    """A folder and a port that are this process's own, under which names it is called, and what asks for a token."""

    data: Path
    host: str
    socket: socket.socket
    names: tuple[str, ...] = ()
    access: Access | None = None


@contextmanager
def taken_up(host: str, port: int, data: Path, names: Sequence[str] = ()) -> Iterator[Door]:
    """Make a folder and a port this process's own.

    Raises
    ------
    EurythmError
        Where the folder, its database, the port or the host cannot be used.
    """
    with claim(data), _bound(host, port) as door:
        access, token = opened(host, set(names), data)
        open_database(data).close()
        if token:
            print(f"Token for those who call it from elsewhere (shown this once): {token}", flush=True)
        yield Door(data, host, door, tuple(names), access)


def _bound(host: str, port: int) -> socket.socket:
    """Return a socket of ours on a port; nobody is answered yet.

    Raises
    ------
    EurythmError
        ``port-in-use``, ``port-not-allowed`` or ``no-such-host``.
    """
    try:
        family, _, _, _, address = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)[0]
    except OSError:
        raise EurythmError("no-such-host", f"“{host}” is no address of this computer.", "host") from None
    door = socket.socket(family, socket.SOCK_STREAM)
    door.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        door.bind(address)
    except OSError as fault:
        door.close()
        if fault.errno == errno.EADDRINUSE:
            said = f"Port {port} is in use. End what uses it, or name another one (--port); 0 takes any that is free."
            raise EurythmError("port-in-use", said, "port") from None
        if fault.errno in (errno.EACCES, errno.EPERM):
            raise EurythmError("port-not-allowed", f"Port {port} may not be used by you. Name one above 1023 (--port).", "port") from None
        raise EurythmError("no-such-host", f"“{host}” is no address of this computer.", "host") from None
    return door
