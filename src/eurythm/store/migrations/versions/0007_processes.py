"""A study may be run by some of the workers alone."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Add the column; studies that are there are run by all."""
    op.add_column("study", sa.Column("processes", sa.Integer(), nullable=True))


def downgrade() -> None:
    """Remove it."""
    op.drop_column("study", "processes")
