"""Opening the database and bringing it up to date."""

from __future__ import annotations

import json
import sqlite3
import zlib
from contextlib import AbstractContextManager
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Connection, Engine, create_engine, event
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from eurythm.store.trouble import Unusable, trouble

MIGRATIONS = Path(__file__).parent / "migrations"
FILE = "eurythm.sqlite"


class Database:
    """Sessions that read, and sessions that write.

    A writing one holds the database's only write lock from its first moment, so that what it reads is still true when
    it writes: two edits of the same revision cannot both be kept.
    """

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._reading = sessionmaker(engine, expire_on_commit=False)
        self._writing = sessionmaker(engine.execution_options(writes=True), expire_on_commit=False)

    def read(self) -> Session:
        """Return a session for reading, a context manager."""
        return self._reading()

    def write(self) -> AbstractContextManager[Session]:
        """Return a session for writing, a context manager: all is committed at its end, or nothing."""
        return self._writing.begin()

    def close(self) -> None:
        """Bring all that was written into the database's one file, and let go of it."""
        with self._engine.connect() as connection:
            connection.connection.cursor().execute("PRAGMA wal_checkpoint(TRUNCATE)")
        self._engine.dispose()


def open_database(folder: Path) -> Database:
    """Open (or make) the database in a folder, see whether it is sound, and migrate it.

    Raises
    ------
    Unusable
        Where it is damaged, made by a newer Eurythm, held by another program, or the disk refuses it.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
        engine = create_engine(f"sqlite:///{folder / FILE}", connect_args={"timeout": 30})
        event.listen(engine, "connect", _settings)
        event.listen(engine, "begin", _begin)
        _migrate(engine)
    except (OSError, DBAPIError, sqlite3.Error) as fault:
        raise trouble(fault) or fault from None
    return Database(engine)


def _begin(connection: Connection) -> None:
    connection.exec_driver_sql("BEGIN IMMEDIATE" if connection.get_execution_options().get("writes") else "BEGIN")


def _settings(connection: Any, _: Any) -> None:
    connection.isolation_level = None  # transactions are begun by `_begin`, not by the driver
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode=WAL")
    cursor.execute("PRAGMA synchronous=FULL")
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.close()


def _migrate(engine: Engine) -> None:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.connect() as connection:
        if connection.exec_driver_sql("PRAGMA quick_check(1)").scalar() != "ok":
            raise Unusable("database-damaged")
        stands = MigrationContext.configure(connection).get_current_revision()
        if stands is not None and stands not in {r.revision for r in ScriptDirectory.from_config(config).walk_revisions()}:
            raise Unusable(
                "database-newer", "The database was made by a newer Eurythm. Open it with that one, or start with another folder (--data)."
            )
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
        connection.commit()


def pack(data: Any) -> bytes:
    """Compress plain data as JSON."""
    return zlib.compress(json.dumps(data, ensure_ascii=False, separators=(",", ":")).encode(), 6)


def unpack(blob: bytes) -> Any:
    """Return what `pack` was given."""
    return json.loads(zlib.decompress(blob))
