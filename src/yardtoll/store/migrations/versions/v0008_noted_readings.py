"""A reading keeps the digits it was read to and how sure its time is; a mark may begin a run, or
tell of an end that nobody saw.
"""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    """Ends marked so far were seen."""
    op.add_column("reading", sa.Column("step", sa.Float, nullable=True))
    op.add_column("reading", sa.Column("within_s", sa.Float, nullable=True))
    op.add_column("mark", sa.Column("within_s", sa.Float, nullable=True))
    false, true = sa.text("0"), sa.text("1")
    op.add_column("mark", sa.Column("starts_run", sa.Boolean, nullable=False, server_default=false))
    op.add_column("mark", sa.Column("seen", sa.Boolean, nullable=False, server_default=true))
