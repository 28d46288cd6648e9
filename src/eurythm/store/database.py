"""Opening the database and bringing it up to date."""

from __future__ import annotations

import json
import zlib
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.orm import Session, sessionmaker

MIGRATIONS = Path(__file__).parent / "migrations"


def open_database(folder: Path) -> sessionmaker[Session]:
    """Open (or make) the database in a folder, migrate it, and return a maker of sessions."""
    folder.mkdir(parents=True, exist_ok=True)
    engine = create_engine(f"sqlite:///{folder / 'eurythm.sqlite'}", connect_args={"timeout": 30})
    event.listen(engine, "connect", _settings)
    _migrate(engine)
    return sessionmaker(engine, expire_on_commit=False)


def _settings(connection: Any, _: Any) -> None:
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
