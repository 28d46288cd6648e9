"""Schemes that were turned before glass could turn with the building: their sides stay those of the compass."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from eurythm.store.database import pack, unpack

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """State in every kept document what held for it until now."""
    rows = sa.table("revision", sa.column("project_id"), sa.column("number"), sa.column("document"))
    bind = op.get_bind()
    for project_id, number, document in bind.execute(sa.select(rows.c.project_id, rows.c.number, rows.c.document)).fetchall():
        project = unpack(document)
        turned = [s for s in project.get("schemes", []) if s.get("turn_deg") and "turn_with" not in s.get("skin", {})]
        for scheme in turned:
            scheme.setdefault("skin", {})["turn_with"] = "compass"
        if turned:
            here = (rows.c.project_id == project_id) & (rows.c.number == number)
            bind.execute(sa.update(rows).where(here).values(document=pack(project)))


def downgrade() -> None:
    """Leave the documents as they are: older programs do not read what they do not know."""
