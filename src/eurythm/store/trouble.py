"""What a disk or a database refuses, as a sentence that says what to do; no path of the machine stands in it."""

from __future__ import annotations

import errno
import sqlite3

from sqlalchemy.exc import DBAPIError

from eurythm.model.errors import EurythmError

SAID = {
    "disk-full": "The disk is full, and nothing of this was kept. Free some space, then do it again.",
    "folder-read-only": "The data folder may not be written to. Get the right to write there, or start with another folder (--data).",
    "database-damaged": "The database in the data folder is damaged. Stop Eurythm, set the folder aside, and bring a backup into a new one "
    "(eurythm restore), or begin anew with another folder (--data).",
    "database-busy": "Another program holds the database. End it, then do this again.",
    "database-unreadable": "The database in the data folder cannot be opened. See whether the folder is there and may be read.",
}
OF_SQLITE = {
    "SQLITE_FULL": "disk-full",
    "SQLITE_READONLY": "folder-read-only",
    "SQLITE_PERM": "folder-read-only",
    "SQLITE_NOTADB": "database-damaged",
    "SQLITE_CORRUPT": "database-damaged",
    "SQLITE_BUSY": "database-busy",
    "SQLITE_LOCKED": "database-busy",
    "SQLITE_CANTOPEN": "database-unreadable",
    "SQLITE_IOERR": "database-unreadable",
}
OF_SYSTEM = {
    errno.ENOSPC: "disk-full",
    errno.EDQUOT: "disk-full",
    errno.EROFS: "folder-read-only",
    errno.EACCES: "folder-read-only",
    errno.EPERM: "folder-read-only",
}


class Unusable(EurythmError):
    """The folder, its disk or its database cannot be used as they are."""

    def __init__(self, code: str, message: str = "", path: str = "data") -> None:
        super().__init__(code, message or SAID[code], path)


def trouble(fault: BaseException) -> Unusable | None:
    """Return what to tell of a fault of SQLite or of the system; None where it is none of theirs."""
    inner = fault.orig if isinstance(fault, DBAPIError) else fault
    if isinstance(inner, sqlite3.Error):
        name = getattr(inner, "sqlite_errorname", "") or ""
        code = next((code for start, code in OF_SQLITE.items() if name == start or name.startswith(f"{start}_")), None)
        return None if code is None else Unusable(code)
    if isinstance(inner, OSError) and inner.errno in OF_SYSTEM:
        return Unusable(OF_SYSTEM[inner.errno])
    return None
