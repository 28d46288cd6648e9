"""Projects, revisions, climates, studies, cases and pins."""

from __future__ import annotations

from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None

TEXT, WHOLE, BLOB, REAL = sa.String(), sa.Integer(), sa.LargeBinary(), sa.Float()


def _column(name: str, kind: sa.types.TypeEngine[Any], *more: sa.ForeignKey, null: bool = False, key: bool = False) -> sa.Column[Any]:
    return sa.Column(name, kind, *more, nullable=null, primary_key=key)


def _belongs(table: str) -> sa.ForeignKey:
    return sa.ForeignKey(f"{table}.id", ondelete="CASCADE")


def upgrade() -> None:
    """Make the tables."""
    op.create_table(
        "project",
        _column("id", TEXT, key=True),
        _column("name", TEXT),
        _column("revision", WHOLE),
        _column("last", WHOLE),
        _column("created", TEXT),
        _column("changed", TEXT),
    )
    op.create_table(
        "revision",
        _column("project_id", TEXT, _belongs("project"), key=True),
        _column("number", WHOLE, key=True),
        _column("what", TEXT),
        _column("document", BLOB),
        _column("made", TEXT),
    )
    op.create_table(
        "climate",
        _column("project_id", TEXT, _belongs("project"), key=True),
        _column("digest", TEXT, key=True),
        _column("name", TEXT),
        _column("text", BLOB),
    )
    op.create_table(
        "study",
        _column("id", TEXT, key=True),
        _column("project_id", TEXT, _belongs("project")),
        _column("name", TEXT),
        _column("spec", BLOB),
        _column("base", BLOB),
        _column("revision", WHOLE),
        _column("status", TEXT),
        _column("total", WHOLE),
        _column("seconds", REAL),
        _column("made", TEXT),
    )
    op.create_index("ix_study_project_id", "study", ["project_id"])
    op.create_table(
        "study_case",
        _column("study_id", TEXT, _belongs("study"), key=True),
        _column("number", WHOLE, key=True),
        _column("status", TEXT),
        _column("attempts", WHOLE),
        _column("figures", BLOB, null=True),
        _column("reason", TEXT),
    )
    op.create_table(
        "pin",
        _column("id", TEXT, key=True),
        _column("project_id", TEXT, _belongs("project")),
        _column("study_id", TEXT, _belongs("study"), null=True),
        _column("number", WHOLE, null=True),
        _column("scheme_id", TEXT, null=True),
        _column("note", TEXT),
        _column("made", TEXT),
    )
    op.create_index("ix_pin_project_id", "pin", ["project_id"])


def downgrade() -> None:
    """Drop the tables."""
    for table in ("pin", "study_case", "study", "climate", "revision", "project"):
        op.drop_table(table)
