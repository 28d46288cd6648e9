"""Cases that are drawn are kept as they were drawn; results tell in which order they came."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Add the columns; results that are there count as having come in the order of their numbers."""
    op.add_column("study_case", sa.Column("row", sa.LargeBinary(), nullable=True))
    op.add_column("study_case", sa.Column("came", sa.Integer(), nullable=True))
    op.execute("UPDATE study_case SET came = number + 1 WHERE status != 'waiting'")
    op.create_index("ix_case_status", "study_case", ["study_id", "status"])
    op.create_index("ix_case_came", "study_case", ["study_id", "came"])


def downgrade() -> None:
    """Remove them."""
    op.drop_index("ix_case_came", "study_case")
    op.drop_index("ix_case_status", "study_case")
    op.drop_column("study_case", "came")
    op.drop_column("study_case", "row")
