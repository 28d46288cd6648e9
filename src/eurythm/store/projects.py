"""Projects and their line of revisions: edits, undo, redo, weather files."""

from __future__ import annotations

import secrets
import zlib
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from eurythm.brief.edits import Edit, Together, apply_edit
from eurythm.climate.epw import epw_text, read_epw
from eurythm.memo import MOST_BYTES, Shelf
from eurythm.model.errors import EurythmError, NotFound, StaleRevision
from eurythm.model.place import ClimateRef
from eurythm.model.project import Project
from eurythm.model.reading import dump, read_document
from eurythm.store.database import Database, pack, unpack
from eurythm.store.tables import ClimateRow, ProjectRow, RevisionRow, now


@dataclass(frozen=True)
class State:
    """A project as it stands."""

    id: str
    revision: int
    can_undo: bool
    can_redo: bool
    what: str
    project: Project


def new_id() -> str:
    """Return a short random id."""
    return secrets.token_hex(5)


class Projects:
    """All projects of a database."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def listed(self) -> list[dict[str, Any]]:
        """Return id, name and last change of every project, the latest first."""
        with self._database.read() as session:
            rows = session.scalars(select(ProjectRow).order_by(ProjectRow.changed.desc())).all()
            return [{"id": r.id, "name": r.name, "changed": r.changed} for r in rows]

    def create(self, project: Project, files: dict[str, tuple[str, str]] | None = None, project_id: str | None = None) -> State:
        """Keep a new project; `files` holds name and text of its weather files by digest."""
        made = project_id or new_id()
        with self._database.write() as session:
            session.add(ProjectRow(id=made, name=project.name, revision=1, last=1))
            session.flush()
            session.add(RevisionRow(project_id=made, number=1, what="made", document=pack(dump(project))))
            for digest, (name, text) in (files or {}).items():
                session.add(ClimateRow(project_id=made, digest=digest, name=name, text=zlib.compress(text.encode())))
        return self.state(made)

    def remove(self, project_id: str) -> None:
        """Remove a project with all that belongs to it."""
        with self._database.write() as session:
            session.delete(self._row(session, project_id))

    def state(self, project_id: str) -> State:
        """Return a project as it stands. Raises NotFound."""
        with self._database.read() as session:
            return self._state(session, self._row(session, project_id))

    def edit(self, project_id: str, revision: int, edit: Edit, check: Callable[[Project, Project], None] | None = None) -> State:
        """Apply an edit as a new revision.

        Parameters
        ----------
        check : refuses what comes of it by raising, with the project before and after; the database is not held meanwhile

        Raises
        ------
        StaleRevision
            Where the project has moved on since `revision`.
        EurythmError
            Where the edit does not lead to a sound project; nothing is kept.
        """
        with self._database.read() as session:
            row = self._row(session, project_id)
            self._fresh(row, revision)
            before = self._state(session, row).project
        after = apply_edit(before, edit)
        if check is not None:
            check(before, after)
        with self._database.write() as session:
            row = self._row(session, project_id)
            self._fresh(row, revision)
            self._append(session, row, after, _said(edit))
            return State(row.id, row.revision, can_undo=True, can_redo=False, what=_said(edit), project=after)

    def undo(self, project_id: str, revision: int) -> State:
        """Go one revision back."""
        return self._walk(project_id, revision, -1)

    def redo(self, project_id: str, revision: int) -> State:
        """Go one revision forth."""
        return self._walk(project_id, revision, 1)

    def add_climate(self, project_id: str, revision: int, data: bytes, filename: str) -> State:
        """Keep an EPW of the user's and make it the project's climate year; both or neither."""
        year = read_epw(data)
        with self._database.write() as session:
            row = self._row(session, project_id)
            self._fresh(row, revision)
            if session.get(ClimateRow, (project_id, year.digest)) is None:
                text = zlib.compress(epw_text(data).encode())
                session.add(ClimateRow(project_id=project_id, digest=year.digest, name=filename[:200], text=text))
            project = self._state(session, row).project
            ref = ClimateRef(kind="file", id=year.digest, name=year.location.city or filename)
            place = project.place.model_copy(update={"climate": ref})
            self._append(session, row, project.model_copy(update={"place": place}), f"climate: {filename[:80]}")
            session.flush()
            return self._state(session, row)

    def files(self, project_id: str) -> dict[str, str]:
        """Return the text of the project's weather files by digest."""
        with self._database.read() as session:
            rows = session.scalars(select(ClimateRow).where(ClimateRow.project_id == project_id)).all()
            return {r.digest: zlib.decompress(r.text).decode() for r in rows}

    def file_names(self, project_id: str) -> dict[str, str]:
        """Return the names of the project's weather files by digest."""
        with self._database.read() as session:
            found = session.execute(select(ClimateRow.digest, ClimateRow.name).where(ClimateRow.project_id == project_id))
            return {row.digest: row.name for row in found}

    def _walk(self, project_id: str, revision: int, step: int) -> State:
        with self._database.write() as session:
            row = self._row(session, project_id)
            self._fresh(row, revision)
            beyond = self._beside(session, row, step)
            if beyond is None:
                raise EurythmError(
                    "nothing-to-undo" if step < 0 else "nothing-to-redo", "There is nothing further in this direction.", "revision"
                )
            row.revision = beyond
            row.changed = now()
            state = self._state(session, row)
            row.name = state.project.name
            return state

    def _append(self, session: Session, row: ProjectRow, project: Project, what: str) -> None:
        session.execute(delete(RevisionRow).where(RevisionRow.project_id == row.id, RevisionRow.number > row.revision))
        row.last += 1  # a number is never given twice: who saw it knows what stood there
        row.revision = row.last
        row.name = project.name
        row.changed = now()
        document = pack(dump(project))
        PROJECTS.keep(document, project)  # parts that the edit left alone stay the same objects, and so does what is known of them
        session.add(RevisionRow(project_id=row.id, number=row.revision, what=what, document=document))

    def _beside(self, session: Session, row: ProjectRow, step: int) -> int | None:
        """The revision before or after the one that a project stands at."""
        number = RevisionRow.number
        found = select(func.max(number)).where(number < row.revision) if step < 0 else select(func.min(number)).where(number > row.revision)
        return session.scalar(found.where(RevisionRow.project_id == row.id))

    def revision(self, project_id: str) -> int:
        """Return the revision that a project stands at. Raises NotFound."""
        with self._database.read() as session:
            return self._row(session, project_id).revision

    def _row(self, session: Session, project_id: str) -> ProjectRow:
        row = session.get(ProjectRow, project_id)
        if row is None:
            raise NotFound("no-such-project", f"There is no project “{project_id}”.", "project")
        return row

    def _fresh(self, row: ProjectRow, revision: int) -> None:
        if row.revision != revision:
            raise StaleRevision("stale-revision", f"The project is at revision {row.revision}; this was made on {revision}.", "revision")

    def _state(self, session: Session, row: ProjectRow) -> State:
        kept = session.get(RevisionRow, (row.id, row.revision))
        assert kept is not None
        document = kept.document
        project = PROJECTS.get(document, lambda: read_document(Project, unpack(document)))
        back, forth = (self._beside(session, row, step) is not None for step in (-1, 1))
        return State(row.id, row.revision, back, forth, kept.what, project)


PROJECTS: Shelf[bytes, Project] = Shelf(MOST_BYTES, most=32)
"""Projects as they were read or written last, by their documents."""


def _said(edit: Edit) -> str:
    if isinstance(edit, Together):
        return f"{len(edit.edits)} changes"
    return f"{edit.op}: {getattr(edit, 'path', None) or getattr(edit, 'id', '')}"[:200]
