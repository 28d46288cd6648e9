"""Opening the database and bringing it up to date."""

from __future__ import annotations

import json
import zlib
from contextlib import AbstractContextManager
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Connection, Engine, create_engine, event
from sqlalchemy.orm import Session, sessionmaker

MIGRATIONS = Path(__file__).parent / "migrations"


class Database:
    """Sessions that read, and sessions that write.

    A writing one holds the database's only write lock from its first moment, so that what it reads is still true when
    it writes: two edits of the same revision cannot both be kept.
    """

    def __init__(self, engine: Engine) -> None:
        self._reading = sessionmaker(engine, expire_on_commit=False)
        self._writing = sessionmaker(engine.execution_options(writes=True), expire_on_commit=False)

    def read(self) -> Session:
        """Return a session for reading, a context manager."""
        return self._reading()

    def write(self) -> AbstractContextManager[Session]:
        """Return a session for writing, a context manager: all is committed at its end, or nothing."""
        return self._writing.begin()


def open_database(folder: Path) -> Database:
    """Open (or make) the database in a folder, and migrate it."""
    folder.mkdir(parents=True, exist_ok=True)
    engine = create_engine(f"sqlite:///{folder / 'eurythm.sqlite'}", connect_args={"timeout": 30})
    event.listen(engine, "connect", _settings)
    event.listen(engine, "begin", _begin)
    _migrate(engine)
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
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
        connection.commit()


def pack(data: Any) -> bytes:
    """Compress plain data as JSON."""
    return zlib.compress(json.dumps(data, ensure_ascii=False, separators=(",", ":")).encode(), 6)


def unpack(blob: bytes) -> Any:
    """Return what `pack` was given."""
    return json.loads(zlib.decompress(blob))
