"""Studies, their cases, and pins."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from sqlalchemy import func, insert, select, update
from sqlalchemy.orm import Session

from eurythm.model.errors import EurythmError, NotFound
from eurythm.model.project import Project
from eurythm.model.reading import dump, read_document
from eurythm.model.study import StudySpec
from eurythm.store.database import Database, pack, unpack
from eurythm.store.projects import new_id
from eurythm.store.tables import CaseRow, ClimateRow, PinRow, StudyRow
from eurythm.study.kinds import KINDS, Rows
from eurythm.study.levers import CaseInputs
from eurythm.study.plan import Case, case_at, count, levers_of, rows_of
from eurythm.study.runner import CaseResult

AT_ONCE = 500
"""How many cases are read from the database, or first written to it, in one go."""


@dataclass(frozen=True)
class Progress:
    """How far a study is."""

    status: str
    done: int
    failed: int
    waiting: int
    total: int


@dataclass(frozen=True)
class StudyState:
    """A study as it stands; status is waiting, running, done, cancelled or broken."""

    id: str
    project_id: str
    name: str
    status: str
    total: int
    done: int
    failed: int
    waiting: int
    seconds: float
    revision: int
    spec: StudySpec
    base: Project
    climates: Mapping[str, str]
    processes: int | None

    def inputs(self) -> CaseInputs:
        """Return the documents that its cases start from: those of the revision on which it was asked."""
        project = self.base
        scheme = project.scheme(self.spec.scheme or project.reference)
        return CaseInputs(project.place, project.library, project.factors, scheme, project.schemes, self.climates)


@dataclass(frozen=True)
class CaseState:
    """A case as it stands."""

    number: int
    status: str
    attempts: int
    figures: dict[str, Any] | None
    reason: str


class Studies:
    """All studies of a database."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def create(self, project_id: str, revision: int, project: Project, spec: StudySpec, processes: int | None = None) -> StudyState:
        """Keep a study with all its cases waiting; of a search, those of its first generation. It is run by so many workers, by all unless said."""
        made, rows = new_id(), rows_of(spec)
        with self._database.write() as session:
            session.add(
                StudyRow(
                    id=made,
                    project_id=project_id,
                    name=spec.name,
                    spec=pack(dump(spec)),
                    base=pack(dump(project)),
                    revision=revision,
                    status="waiting",
                    total=count(spec),
                    seconds=0.0,
                    processes=processes,
                )
            )
            session.flush()
            _add(session, made, spec, 0, rows)
        return self.state(made)

    def add(self, study_id: str, first: int, rows: Rows) -> None:
        """Keep more waiting cases, numbered from `first` on; those that are there already stay as they are."""
        with self._database.write() as session:
            spec = read_document(StudySpec, unpack(self._row(session, study_id).spec))
            have = _how_many(session, study_id)
            _add(session, study_id, spec, max(first, have), rows[max(have - first, 0) :])

    def extend(self, study_id: str, size: int) -> None:
        """Give a sample more cases; what ran stays.

        Raises
        ------
        EurythmError
            ``no-sample``, ``not-larger``, or what is wrong with the size.
        """
        with self._database.write() as session:
            row = self._row(session, study_id)
            spec = read_document(StudySpec, unpack(row.spec))
            have = _how_many(session, study_id)
            if spec.kind != "sample":
                raise EurythmError("no-sample", "Only a sample can be extended.", "size")
            if size <= have:
                raise EurythmError("not-larger", f"The sample has {have:,} cases already; ask for more.", "size")
            longer = spec.model_copy(update={"size": size})
            rows = rows_of(longer)
            row.spec, row.total, row.status = pack(dump(longer)), len(rows), "waiting"
            _add(session, study_id, longer, have, rows[have:])

    def ended_at(self, study_id: str) -> None:
        """Set the number of cases to those that there are: a search may end before its most."""
        with self._database.write() as session:
            self._row(session, study_id).total = _how_many(session, study_id)

    def rows(self, study_id: str, spec: StudySpec, first: int = 0) -> Rows:
        """Return the cases of a study from one number on, as they were drawn, or as their numbers say."""
        if not KINDS[spec.kind].drawn:
            return rows_of(spec)[first:]
        asked = select(CaseRow.row).where(CaseRow.study_id == study_id, CaseRow.number >= first).order_by(CaseRow.number)
        with self._database.read() as session:
            kept = list(session.scalars(asked))
        return np.frombuffer(b"".join(row or b"" for row in kept)).reshape(len(kept), len(levers_of(spec)))

    def case(self, study: StudyState, number: int) -> Case:
        """Return a case of a study by its number. Raises NotFound."""
        if not KINDS[study.spec.kind].drawn:
            rows = rows_of(study.spec)
            if 0 <= number < len(rows):
                return case_at(study.spec, number, rows[number])
        else:
            with self._database.read() as session:
                kept = session.get(CaseRow, (study.id, number))
                if kept is not None and kept.row is not None:
                    return case_at(study.spec, number, np.frombuffer(kept.row).tolist())
        raise NotFound("no-such-case", f"The study has no case {number}.", "number")

    def listed(self, project_id: str) -> list[StudyState]:
        """Return a project's studies, the latest first."""
        with self._database.read() as session:
            rows = session.scalars(select(StudyRow).where(StudyRow.project_id == project_id).order_by(StudyRow.made.desc())).all()
            return [self._state(session, r) for r in rows]

    def unfinished(self, project_id: str | None = None) -> list[str]:
        """Return the studies that wait or run, or did when the server stopped; of one project where it is named."""
        asked = select(StudyRow.id).where(StudyRow.status.in_(("waiting", "running")))
        if project_id is not None:
            asked = asked.where(StudyRow.project_id == project_id)
        with self._database.read() as session:
            return list(session.scalars(asked.order_by(StudyRow.made)))

    def state(self, study_id: str) -> StudyState:
        """Return a study as it stands. Raises NotFound."""
        with self._database.read() as session:
            return self._state(session, self._row(session, study_id))

    def refuse_other(self, project_id: str, study_id: str) -> None:
        """Raise NotFound where there is no such study in a project."""
        with self._database.read() as session:
            if self._row(session, study_id).project_id != project_id:
                raise _unknown(study_id)

    def progress(self, study_id: str) -> Progress:
        """Return how far a study is, without its documents. Raises NotFound."""
        with self._database.read() as session:
            return _progress(session, self._row(session, study_id))

    def cases(self, study_id: str, numbers: Sequence[int] | None = None) -> Iterator[CaseState]:
        """Yield cases in the order of their numbers, read so many at a time: all, or those that are named."""
        if numbers is None:
            with self._database.read() as session:
                numbers = list(session.scalars(select(CaseRow.number).where(CaseRow.study_id == study_id)))
        wanted = sorted(numbers)
        for at in range(0, len(wanted), AT_ONCE):
            with self._database.read() as session:
                columns = (CaseRow.number, CaseRow.status, CaseRow.attempts, CaseRow.figures, CaseRow.reason)
                asked = select(*columns).where(CaseRow.study_id == study_id, CaseRow.number.in_(wanted[at : at + AT_ONCE]))
                rows = session.execute(asked.order_by(CaseRow.number)).all()
            for number, status, attempts, figures, reason in rows:
                yield CaseState(number, status, attempts, unpack(figures) if figures else None, reason)

    def attempts(self, study_id: str, numbers: Sequence[int]) -> dict[int, int]:
        """Return how often cases were begun, by their numbers."""
        with self._database.read() as session:
            asked = select(CaseRow.number, CaseRow.attempts).where(CaseRow.study_id == study_id, CaseRow.number.in_(numbers))
            return {number: attempts for number, attempts in session.execute(asked)}  # noqa: C416 (rows are no pairs to the type checker)

    def came_after(self, study_id: str, last: int) -> list[tuple[int, int]]:
        """Return the order and the number of the results that came after another one."""
        with self._database.read() as session:
            asked = select(CaseRow.came, CaseRow.number).where(CaseRow.study_id == study_id, CaseRow.came > last)
            return [(came or 0, number) for came, number in session.execute(asked.order_by(CaseRow.came))]

    def figures(self, study_id: str, numbers: range) -> list[dict[str, Any] | None]:
        """Return what neighbouring cases came to, None for those that failed."""
        with self._database.read() as session:
            asked = select(CaseRow.figures).where(
                CaseRow.study_id == study_id, CaseRow.number >= numbers.start, CaseRow.number < numbers.stop
            )
            return [unpack(kept) if kept else None for kept in session.scalars(asked.order_by(CaseRow.number))]

    def waiting(self, study_id: str) -> set[int]:
        """Return the numbers of cases without a committed result."""
        with self._database.read() as session:
            return set(session.scalars(select(CaseRow.number).where(CaseRow.study_id == study_id, CaseRow.status == "waiting")))

    def spent(self, study_id: str, attempts: int) -> list[int]:
        """Return the numbers of waiting cases that were begun so often."""
        with self._database.read() as session:
            wanted = (CaseRow.study_id == study_id, CaseRow.status == "waiting", CaseRow.attempts >= attempts)
            return list(session.scalars(select(CaseRow.number).where(*wanted).order_by(CaseRow.number)))

    def starting(self, study_id: str, numbers: list[int]) -> None:
        """Count one more attempt of cases that are about to run."""
        with self._database.write() as session:
            session.execute(
                update(CaseRow).where(CaseRow.study_id == study_id, CaseRow.number.in_(numbers)).values(attempts=CaseRow.attempts + 1)
            )

    def keep(self, study_id: str, results: list[CaseResult]) -> None:
        """Commit a lot of results."""
        with self._database.write() as session:
            came = session.scalar(select(func.max(CaseRow.came)).where(CaseRow.study_id == study_id)) or 0
            asked = select(CaseRow.number, CaseRow.status)  # not by status, whose index leads through all that wait
            asked = asked.where(CaseRow.study_id == study_id, CaseRow.number.in_([r.number for r in results]))
            waiting = {number for number, status in session.execute(asked) if status == "waiting"}
            new = [
                {
                    "study_id": study_id,
                    "number": r.number,
                    "status": r.status,
                    "reason": r.reason,
                    "came": came + place,
                    "figures": pack(r.figures) if r.figures is not None else None,
                }
                for place, r in enumerate((r for r in results if r.number in waiting), start=1)
            ]
            if new:
                session.execute(update(CaseRow), new)

    def mark(self, study_id: str, status: str | None, seconds: float | None = None) -> None:
        """Set a study's status, None to leave it, and add the seconds that it ran. Raises NotFound."""
        with self._database.write() as session:
            row = self._row(session, study_id)
            row.status = status or row.status
            if seconds is not None:
                row.seconds += seconds

    def cancel(self, study_id: str) -> None:
        """Mark a study that waits or runs as cancelled; another one stays as it is. Raises NotFound."""
        with self._database.write() as session:
            row = self._row(session, study_id)
            if row.status in ("waiting", "running"):
                row.status = "cancelled"

    def remove(self, study_id: str) -> None:
        """Remove a study with its cases and pins."""
        with self._database.write() as session:
            session.delete(self._row(session, study_id))

    def pins(self, project_id: str) -> list[PinRow]:
        """Return a project's pins in their order; those that were never moved stand as they were made."""
        with self._database.read() as session:
            return list(
                session.scalars(select(PinRow).where(PinRow.project_id == project_id).order_by(PinRow.place, PinRow.made, PinRow.id))
            )

    def pin_of(self, project_id: str, pin_id: str) -> PinRow:
        """Return one pin of a project. Raises NotFound."""
        for row in self.pins(project_id):
            if row.id == pin_id:
                return row
        raise NotFound("no-such-pin", f"There is no pin “{pin_id}”.", "pin")

    def pin(self, project_id: str, study_id: str | None, number: int | None, scheme_id: str | None) -> str:
        """Pin a case or a scheme; the same one is pinned once."""
        with self._database.write() as session:
            for row in session.scalars(select(PinRow).where(PinRow.project_id == project_id)):
                if (row.study_id, row.number, row.scheme_id) == (study_id, number, scheme_id):
                    return row.id
            made = new_id()
            last = session.scalar(select(func.max(PinRow.place)).where(PinRow.project_id == project_id)) or 0
            session.add(PinRow(id=made, place=last, project_id=project_id, study_id=study_id, number=number, scheme_id=scheme_id, note=""))
        return made

    def note(self, pin_id: str, note: str) -> None:
        """Write a note on a pin."""
        with self._database.write() as session:
            self._pin(session, pin_id).note = note

    def name_pin(self, pin_id: str, name: str) -> None:
        """Call a pin something; nothing for what it is."""
        with self._database.write() as session:
            self._pin(session, pin_id).name = name

    def order_pins(self, project_id: str, pin_ids: Sequence[str]) -> None:
        """Set the order of pins; those that are not named come after them as they stood. Raises NotFound."""
        rest = [row.id for row in self.pins(project_id) if row.id not in pin_ids]
        with self._database.write() as session:
            for place, pin_id in enumerate([*pin_ids, *rest], start=1):
                row = self._pin(session, pin_id)
                if row.project_id != project_id:
                    raise NotFound("no-such-pin", f"There is no pin “{pin_id:.60}”.", "pin")
                row.place = place

    def unpin(self, pin_id: str) -> None:
        """Take a pin away."""
        with self._database.write() as session:
            session.delete(self._pin(session, pin_id))

    def _pin(self, session: Session, pin_id: str) -> PinRow:
        row = session.get(PinRow, pin_id)
        if row is None:
            raise NotFound("no-such-pin", f"There is no pin “{pin_id}”.", "pin")
        return row

    def _row(self, session: Session, study_id: str) -> StudyRow:
        row = session.get(StudyRow, study_id)
        if row is None:
            raise _unknown(study_id)
        return row

    def _state(self, session: Session, row: StudyRow) -> StudyState:
        far = _progress(session, row)
        climates = session.execute(select(ClimateRow.digest, ClimateRow.name).where(ClimateRow.project_id == row.project_id))
        return StudyState(
            id=row.id,
            project_id=row.project_id,
            name=row.name,
            status=far.status,
            total=far.total,
            done=far.done,
            failed=far.failed,
            waiting=far.waiting,
            seconds=row.seconds,
            revision=row.revision,
            spec=read_document(StudySpec, unpack(row.spec)),
            base=read_document(Project, unpack(row.base)),
            climates={digest: name for digest, name in climates},  # noqa: C416 (rows are no pairs to the type checker)
            processes=row.processes,
        )


def _how_many(session: Session, study_id: str) -> int:
    return session.scalar(select(func.count()).select_from(CaseRow).where(CaseRow.study_id == study_id)) or 0


def _add(session: Session, study_id: str, spec: StudySpec, first: int, rows: Rows) -> None:
    drawn = KINDS[spec.kind].drawn
    for at in range(0, len(rows), AT_ONCE):
        new = [
            {
                "study_id": study_id,
                "number": first + at + k,
                "status": "waiting",
                "attempts": 0,
                "reason": "",
                "row": row.tobytes() if drawn else None,
            }
            for k, row in enumerate(np.ascontiguousarray(rows[at : at + AT_ONCE]))
        ]
        session.execute(insert(CaseRow), new)


def _unknown(study_id: str) -> NotFound:
    return NotFound("no-such-study", f"There is no study “{study_id:.60}”.", "study")


def _progress(session: Session, row: StudyRow) -> Progress:
    groups = session.execute(select(CaseRow.status, func.count()).where(CaseRow.study_id == row.id).group_by(CaseRow.status))
    counted = {status: number for status, number in groups.all()}  # noqa: C416 (rows are no pairs to the type checker)
    return Progress(row.status, counted.get("done", 0), counted.get("failed", 0), counted.get("waiting", 0), row.total)
