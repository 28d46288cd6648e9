"""The user's own library, common to all projects."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table of what is kept for all projects."""
    op.create_table(
        "kept",
        sa.Column("kind", sa.String(), primary_key=True),
        sa.Column("entry", sa.String(), primary_key=True),
        sa.Column("body", sa.LargeBinary(), nullable=False),
    )


def downgrade() -> None:
    """Remove it."""
    op.drop_table("kept")
