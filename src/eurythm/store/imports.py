"""Imports: the files themselves beside the database, what was read from them and decided about them in it."""

from __future__ import annotations

import shutil
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path
from threading import Lock
from typing import Any, BinaryIO

from sqlalchemy import select
from sqlalchemy.orm import Session

from eurythm.exchange.intake.received import Received, received_from
from eurythm.exchange.intake.sift import Sift
from eurythm.exchange.project_file import ImportedModel
from eurythm.model.errors import NotFound
from eurythm.store.database import Database, pack, unpack
from eurythm.store.projects import new_id
from eurythm.store.tables import ImportRow, now

KEPT = 4
MOST_ATTEMPTS = 2


@dataclass(frozen=True)
class ImportState:
    """An import as it stands; status is reading, read, failed or cancelled."""

    id: str
    project_id: str
    file: str
    status: str
    attempts: int
    ask: dict[str, str]
    fault: dict[str, Any] | None
    sift: Sift
    follows: str | None
    scheme_id: str | None
    made: str


class Imports:
    """All imports of a database; `folder` holds the files as they came."""

    def __init__(self, database: Database, folder: Path) -> None:
        self._database, self._folder = database, folder
        self._received: OrderedDict[str, Received] = OrderedDict()
        self._lock = Lock()
        folder.mkdir(parents=True, exist_ok=True)

    def path(self, import_id: str) -> Path:
        """Where an import's file lies."""
        return self._folder / import_id

    def body(self, import_id: str) -> bytes | None:
        """An import's file as it came; None where it was too large to come along in a project's file."""
        path = self.path(import_id)
        return path.read_bytes() if path.exists() else None

    def create(self, project_id: str, file: str, body: BinaryIO, ask: dict[str, str], follows: str | None) -> ImportState:
        """Keep a file that is to be read; it takes over the decisions about the one that it follows."""
        made = new_id()
        with self.path(made).open("wb") as copy:
            shutil.copyfileobj(body, copy)
        with self._database.write() as session:
            sift = pack({})
            if follows is not None:
                sift = self._row(session, project_id, follows).sift
            session.add(
                ImportRow(id=made, project_id=project_id, file=file[:300], status="reading", ask=pack(ask), sift=sift, follows=follows)
            )
        return self.state(project_id, made)

    def state(self, project_id: str, import_id: str) -> ImportState:
        """Return an import as it stands. Raises NotFound."""
        with self._database.read() as session:
            return _state(self._row(session, project_id, import_id))

    def listed(self, project_id: str) -> list[ImportState]:
        """List a project's imports, the latest first."""
        with self._database.read() as session:
            rows = session.scalars(select(ImportRow).where(ImportRow.project_id == project_id).order_by(ImportRow.made.desc())).all()
            return [_state(row) for row in rows]

    def unfinished(self) -> list[ImportState]:
        """Return imports that were being read when the server stopped."""
        with self._database.read() as session:
            return [_state(row) for row in session.scalars(select(ImportRow).where(ImportRow.status == "reading")).all()]

    def begin(self, import_id: str) -> bool:
        """Count an attempt at reading; False where it broke down too often before."""
        with self._database.write() as session:
            row = session.get(ImportRow, import_id)
            if row is None or row.attempts >= MOST_ATTEMPTS:
                return False
            row.attempts += 1
            return True

    def end(self, import_id: str, status: str, received: Received | None = None, fault: dict[str, Any] | None = None) -> None:
        """Keep what was read, or why it was not; one that was removed meanwhile is passed over."""
        with self._database.write() as session:
            row = session.get(ImportRow, import_id)
            if row is not None:
                row.status = status
                row.received = None if received is None else pack(received.model_dump(mode="json"))
                row.fault = None if fault is None else pack(fault)

    def received(self, project_id: str, import_id: str) -> Received:
        """Return what was read. Raises NotFound where nothing was."""
        with self._lock:
            if import_id in self._received:
                self._received.move_to_end(import_id)
                return self._received[import_id]
        with self._database.read() as session:
            blob = self._row(session, project_id, import_id).received
        if blob is None:
            raise NotFound("nothing-read", "Nothing was read from this file yet.", f"imports/{import_id}")
        found = received_from(unpack(blob))
        with self._lock:
            self._received[import_id] = found
            while len(self._received) > KEPT:
                self._received.popitem(last=False)
        return found

    def decide(self, project_id: str, import_id: str, sift: Sift) -> ImportState:
        """Keep decisions about a file."""
        with self._database.write() as session:
            row = self._row(session, project_id, import_id)
            row.sift = pack(sift.model_dump(mode="json", exclude_unset=True))
            return _state(row)

    def accepted(self, project_id: str, import_id: str, scheme_id: str, base: dict[str, Any]) -> None:
        """Note which scheme came of an import, and how the file alone made it."""
        with self._database.write() as session:
            row = self._row(session, project_id, import_id)
            row.scheme_id, row.base = scheme_id, pack(base)

    def base(self, project_id: str, import_id: str) -> dict[str, Any] | None:
        """Return the scheme as an import made it, before anything was changed by hand."""
        with self._database.read() as session:
            blob = self._row(session, project_id, import_id).base
            found: dict[str, Any] | None = None if blob is None else unpack(blob)
            return found

    def models(self, project_id: str) -> list[ImportedModel]:
        """Return all models that were read, the earliest first, as they go into a project's file."""
        with self._database.read() as session:
            wanted = select(ImportRow).where(ImportRow.project_id == project_id, ImportRow.status == "read").order_by(ImportRow.made)
            rows = session.scalars(wanted).all()
        number = {row.id: k for k, row in enumerate(rows)}
        found = []
        for row in rows:
            assert row.received is not None
            found.append(
                ImportedModel(
                    file=row.file,
                    body=self.body(row.id),
                    ask=unpack(row.ask),
                    received=received_from(unpack(row.received)),
                    sift=Sift.model_validate(unpack(row.sift)),
                    scheme=row.scheme_id,
                    base=None if row.base is None else unpack(row.base),
                    follows=number.get(row.follows or ""),
                )
            )
        return found

    def restore(self, project_id: str, models: Sequence[ImportedModel]) -> None:
        """Keep the models of a project's file with the project that was made of it."""
        names = [new_id() for _ in models]
        first = datetime.fromisoformat(now())
        for name, model in zip(names, models, strict=True):
            if model.body is not None:
                self.path(name).write_bytes(model.body)
        with self._database.write() as session:
            for number, (name, model) in enumerate(zip(names, models, strict=True)):
                made = (first + timedelta(milliseconds=number)).isoformat(timespec="milliseconds")
                session.add(
                    ImportRow(
                        id=name,
                        project_id=project_id,
                        file=model.file,
                        status="read",
                        ask=pack(model.ask),
                        received=pack(model.received.model_dump(mode="json")),
                        sift=pack(model.sift.model_dump(mode="json", exclude_unset=True)),
                        follows=None if model.follows is None else names[model.follows],
                        scheme_id=model.scheme,
                        base=None if model.base is None else pack(model.base),
                        made=made,
                    )
                )

    def remove(self, project_id: str, import_id: str) -> None:
        """Remove an import with its file; a scheme that came of it stays."""
        with self._database.write() as session:
            session.delete(self._row(session, project_id, import_id))
        self.forget([import_id])

    def forget(self, import_ids: Sequence[str]) -> None:
        """Remove the files of imports that are gone."""
        for import_id in import_ids:
            self.path(import_id).unlink(missing_ok=True)
            with self._lock:
                self._received.pop(import_id, None)

    def _row(self, session: Session, project_id: str, import_id: str) -> ImportRow:
        row = session.get(ImportRow, import_id)
        if row is None or row.project_id != project_id:
            raise NotFound("no-such-import", f"There is no import “{import_id}”.", f"imports/{import_id}")
        return row


def _state(row: ImportRow) -> ImportState:
    fault = None if row.fault is None else unpack(row.fault)
    sift = Sift.model_validate(unpack(row.sift))
    return ImportState(
        row.id, row.project_id, row.file, row.status, row.attempts, unpack(row.ask), fault, sift, row.follows, row.scheme_id, row.made
    )
