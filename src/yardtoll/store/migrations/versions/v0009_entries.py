"""Runs at the outputs are tables: a line each for a try, a port, a level."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    """A new table; runs so far have no lines."""
    op.create_table(
        "entry",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("run_id", sa.Integer, sa.ForeignKey("run.id"), nullable=False),
        sa.Column("position", sa.Integer, nullable=False),
        sa.Column("fields", sa.JSON, nullable=False),
        sa.Column("withdrawn", sa.Boolean, nullable=False),
    )
