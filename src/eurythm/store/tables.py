"""The tables."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import ForeignKey, Index, LargeBinary
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    """Base of all tables."""


def now() -> str:
    """Return the present moment as text, UTC."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


class ProjectRow(Base):
    """A project; `revision` is where its line of revisions stands, `last` the highest number ever given."""

    __tablename__ = "project"
    id: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]
    revision: Mapped[int]
    last: Mapped[int]
    created: Mapped[str] = mapped_column(default=now)
    changed: Mapped[str] = mapped_column(default=now)


class RevisionRow(Base):
    """The documents after one edit, as compressed JSON."""

    __tablename__ = "revision"
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    what: Mapped[str]
    document: Mapped[bytes] = mapped_column(LargeBinary)
    made: Mapped[str] = mapped_column(default=now)


class ClimateRow(Base):
    """A weather file of the user's, as compressed text."""

    __tablename__ = "climate"
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), primary_key=True)
    digest: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]
    text: Mapped[bytes] = mapped_column(LargeBinary)


class StudyRow(Base):
    """A study: its question, the documents that it is asked of, how far it is, and by how many workers it is run; all where none is said."""

    __tablename__ = "study"
    id: Mapped[str] = mapped_column(primary_key=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    spec: Mapped[bytes] = mapped_column(LargeBinary)
    base: Mapped[bytes] = mapped_column(LargeBinary)
    revision: Mapped[int]
    status: Mapped[str]
    total: Mapped[int]
    seconds: Mapped[float] = mapped_column(default=0.0)
    processes: Mapped[int | None] = mapped_column(default=None)
    made: Mapped[str] = mapped_column(default=now)


class CaseRow(Base):
    """One case; `attempts` counts how often it was sent to a worker, `came` tells in which order results came, `row` which case it is where it was drawn."""

    __tablename__ = "study_case"
    __table_args__ = (Index("ix_case_status", "study_id", "status"), Index("ix_case_came", "study_id", "came"))
    study_id: Mapped[str] = mapped_column(ForeignKey("study.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    status: Mapped[str] = mapped_column(default="waiting")
    attempts: Mapped[int] = mapped_column(default=0)
    figures: Mapped[bytes | None] = mapped_column(LargeBinary, default=None)
    reason: Mapped[str] = mapped_column(default="")
    row: Mapped[bytes | None] = mapped_column(LargeBinary, default=None)
    came: Mapped[int | None] = mapped_column(default=None)


class PinRow(Base):
    """A pinned case of a study, or a scheme as it stands; `name` is what somebody called it, `place` where it stands among the others."""

    __tablename__ = "pin"
    id: Mapped[str] = mapped_column(primary_key=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), index=True)
    study_id: Mapped[str | None] = mapped_column(ForeignKey("study.id", ondelete="CASCADE"), default=None)
    number: Mapped[int | None] = mapped_column(default=None)
    scheme_id: Mapped[str | None] = mapped_column(default=None)
    note: Mapped[str] = mapped_column(default="")
    made: Mapped[str] = mapped_column(default=now)
    name: Mapped[str] = mapped_column(default="")
    place: Mapped[int] = mapped_column(default=0)


class ImportRow(Base):
    """A file that was received; `base` is the scheme as the file alone made it, to tell later what was changed by hand."""

    __tablename__ = "import"
    id: Mapped[str] = mapped_column(primary_key=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), index=True)
    file: Mapped[str]
    status: Mapped[str]
    attempts: Mapped[int] = mapped_column(default=0)
    ask: Mapped[bytes] = mapped_column(LargeBinary)
    fault: Mapped[bytes | None] = mapped_column(LargeBinary, default=None)
    received: Mapped[bytes | None] = mapped_column(LargeBinary, default=None)
    sift: Mapped[bytes] = mapped_column(LargeBinary)
    follows: Mapped[str | None] = mapped_column(default=None)
    scheme_id: Mapped[str | None] = mapped_column(default=None)
    base: Mapped[bytes | None] = mapped_column(LargeBinary, default=None)
    made: Mapped[str] = mapped_column(default=now)


class KeptRow(Base):
    """A thing of the user's own library, common to all projects, as compressed JSON."""

    __tablename__ = "kept"
    kind: Mapped[str] = mapped_column(primary_key=True)
    entry: Mapped[str] = mapped_column(primary_key=True)
    body: Mapped[bytes] = mapped_column(LargeBinary)


class DrawingRow(Base):
    """A drawing of the user's to trace over, as compressed JSON."""

    __tablename__ = "drawing"
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), primary_key=True)
    digest: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]
    drawn: Mapped[bytes] = mapped_column(LargeBinary)
