"""The data folder: one server at a time, copied while it runs, brought back from a copy."""

from __future__ import annotations

import os
import shutil
import sqlite3
import tempfile
import zipfile
from pathlib import Path
from typing import IO

from eurythm.model.errors import EurythmError
from eurythm.store.database import FILE, open_database
from eurythm.store.trouble import Unusable, trouble

try:
    import fcntl
except ImportError:  # no POSIX system: SQLite's own locks have to do
    fcntl = None  # type: ignore[assignment]

LOCK = "in-use"
IMPORTS = "imports"


def claim(folder: Path) -> IO[str]:
    """Make the folder this process's own until the returned file is closed or the process ends, however it does.

    Raises
    ------
    Unusable
        ``folder-in-use``, or what the disk refuses.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
        lock = (folder / LOCK).open("a", encoding="utf-8")
    except NotADirectoryError:
        raise Unusable("no-folder", "What --data names is no folder. Name another one.") from None
    except FileExistsError:
        raise Unusable("no-folder", "What --data names is a file, no folder. Name another one.") from None
    except OSError as fault:
        raise trouble(fault) or Unusable("no-folder", f"The data folder cannot be made: {fault.strerror}.") from None
    if fcntl is not None:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            lock.close()
            raise Unusable(
                "folder-in-use",
                "Eurythm already runs on this data folder. Use its page, end it first, or start with another folder (--data).",
            ) from None
    return lock


def backup(folder: Path, target: Path) -> dict[str, int]:
    """Write all that the folder holds into one zip file, also while a server works on it; return how many bytes and imported files it has.

    The database is copied by SQLite itself, as it stood at one moment; imported files follow it. The file appears whole or not at all.

    Raises
    ------
    EurythmError
        Where there is no database, it is damaged, or the disk is full.
    """
    if not (folder / FILE).is_file():
        raise EurythmError("no-database", "There is no database in the data folder (--data).", "data")
    try:
        with tempfile.TemporaryDirectory(prefix="eurythm-backup-", dir=target.absolute().parent) as place:
            copy, packed = Path(place) / FILE, Path(place) / "backup.zip"
            _copied(folder / FILE, copy)
            files = _imports_in(copy)
            count = 0
            with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
                archive.write(copy, FILE)
                for name in files:
                    if (folder / IMPORTS / name).is_file():  # else it was removed meanwhile
                        archive.write(folder / IMPORTS / name, f"{IMPORTS}/{name}")
                        count += 1
            with packed.open("rb+") as written:
                os.fsync(written.fileno())
            packed.replace(target)
    except (OSError, sqlite3.Error) as fault:
        raise trouble(fault) or EurythmError("no-backup", "The backup cannot be written there.", target.name) from None
    return {"bytes": target.stat().st_size, "imported_files": count}


def restore(source: Path, folder: Path) -> None:
    """Bring what `backup` wrote into an empty or new folder.

    Raises
    ------
    EurythmError
        ``folder-not-empty``, so that nothing is written over; ``no-backup`` where the file is none.
    """
    if folder.exists() and any(folder.iterdir()):
        raise EurythmError("folder-not-empty", "The data folder (--data) holds something already. Name a new or empty one.", "data")
    folder.mkdir(parents=True, exist_ok=True)
    try:
        with zipfile.ZipFile(source) as archive:
            for part in archive.infolist():
                name = Path(part.filename)
                if part.filename != FILE and (name.parent.as_posix() != IMPORTS or not name.name.isalnum()):
                    raise EurythmError("no-backup", f"“{source.name}” is no backup of Eurythm's.", source.name)
                (folder / name).parent.mkdir(exist_ok=True)
                with archive.open(part) as packed, (folder / name).open("wb") as file:
                    shutil.copyfileobj(packed, file)
        if not (folder / FILE).is_file():
            raise EurythmError("no-backup", f"“{source.name}” is no backup of Eurythm's.", source.name)
        open_database(folder).close()
    except (zipfile.BadZipFile, OSError) as fault:
        shutil.rmtree(folder, ignore_errors=True)
        raise trouble(fault) or EurythmError("no-backup", f"“{source.name}” cannot be read as a backup.", source.name) from None
    except EurythmError:
        shutil.rmtree(folder, ignore_errors=True)
        raise


def _copied(database: Path, copy: Path) -> None:
    """Copy a database by SQLite's own means, which waits for nobody and disturbs nobody; raise sqlite3.Error where the copy is not sound."""
    with sqlite3.connect(f"file:{database}?mode=ro", uri=True, timeout=30) as source, sqlite3.connect(copy) as into:
        source.backup(into, pages=2000)
        if into.execute("PRAGMA quick_check(1)").fetchone() != ("ok",):
            raise Unusable("database-damaged")
    source.close()
    into.close()


def _imports_in(database: Path) -> list[str]:
    connection = sqlite3.connect(f"file:{database}?mode=ro", uri=True)
    try:
        return [row[0] for row in connection.execute("SELECT id FROM import")]
    finally:
        connection.close()
