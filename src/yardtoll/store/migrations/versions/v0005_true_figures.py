"""What figures rest on: meters' further limits, how claims are read, what ended a run and what its
doubts are explained by, repeatability, the site's time zone.
"""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"

TEXTS = (("claim", "wording"), ("claim", "judged_as"), ("run", "ended_by"), ("site", "time_zone"))
UNKNOWN = ("step_wh", "volts_share", "volts_floor_v", "hertz_floor_hz")


def upgrade() -> None:
    """New columns: nothing is said yet, and what is usual where something must be."""
    for table, name in TEXTS:
        op.add_column(table, sa.Column(name, sa.Text, nullable=False, server_default=""))
    op.add_column("run", sa.Column("explained", sa.JSON, nullable=False, server_default="{}"))
    op.add_column(
        "meter", sa.Column("common_share", sa.Float, nullable=False, server_default="0.5")
    )
    op.add_column("meter", sa.Column("phase_deg", sa.Float, nullable=False, server_default="0"))
    for name in UNKNOWN:
        op.add_column("meter", sa.Column(name, sa.Float, nullable=True))
    op.add_column(
        "yard", sa.Column("repeatability", sa.Float, nullable=False, server_default="0.005")
    )
    op.add_column(
        "site", sa.Column("sensor_share", sa.Float, nullable=False, server_default="0.05")
    )
    op.execute("UPDATE yard SET rule = 'likely' WHERE rule = 'shared'")
