"""Pins bear names and stand in an order of their own."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Add the columns; pins stay in the order in which they were made."""
    op.add_column("pin", sa.Column("name", sa.String(), nullable=False, server_default=""))
    op.add_column("pin", sa.Column("place", sa.Integer(), nullable=False, server_default="0"))


def downgrade() -> None:
    """Remove them."""
    op.drop_column("pin", "place")
    op.drop_column("pin", "name")
