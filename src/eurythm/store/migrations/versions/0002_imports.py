"""Imports: files that were received, the decisions about them, and what they came to; drawings to trace over."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the tables of imports and drawings."""
    op.create_table(
        "import",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("project_id", sa.String(), sa.ForeignKey("project.id", ondelete="CASCADE"), nullable=False),
        sa.Column("file", sa.String(), nullable=False),
        sa.Column("status", sa.String(), nullable=False),
        sa.Column("attempts", sa.Integer(), nullable=False),
        sa.Column("ask", sa.LargeBinary(), nullable=False),
        sa.Column("fault", sa.LargeBinary(), nullable=True),
        sa.Column("received", sa.LargeBinary(), nullable=True),
        sa.Column("sift", sa.LargeBinary(), nullable=False),
        sa.Column("follows", sa.String(), nullable=True),
        sa.Column("scheme_id", sa.String(), nullable=True),
        sa.Column("base", sa.LargeBinary(), nullable=True),
        sa.Column("made", sa.String(), nullable=False),
    )
    op.create_table(
        "drawing",
        sa.Column("project_id", sa.String(), sa.ForeignKey("project.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("digest", sa.String(), primary_key=True),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("drawn", sa.LargeBinary(), nullable=False),
    )
    op.create_index("ix_import_project_id", "import", ["project_id"])


def downgrade() -> None:
    """Remove the tables."""
    op.drop_table("drawing")
    op.drop_table("import")
