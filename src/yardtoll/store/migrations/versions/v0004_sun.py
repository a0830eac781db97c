"""The sun: how panels are turned and warmed, record temperatures, what stands in the way."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"

ARRAY = (
    ("beta_voc", "-0.0029"),
    ("gamma", "-0.0037"),
    ("tilt_deg", "30"),
    ("azimuth_deg", "180"),
    ("wiring_loss", "0.02"),
)
OBSTACLE = ("obstacle_from_deg", "obstacle_to_deg", "obstacle_height_deg")


def upgrade() -> None:
    """New columns with the usual values of folding panels; nothing known stays nothing."""
    for name, usual in ARRAY:
        op.add_column(
            "solar_array", sa.Column(name, sa.Float, nullable=False, server_default=usual)
        )
    op.add_column(
        "solar_array", sa.Column("on_ground", sa.Boolean, nullable=False, server_default="0")
    )
    for name in ("coldest_c", "hottest_c"):
        op.add_column("site", sa.Column(name, sa.Float, nullable=True))
    for name in OBSTACLE:
        op.add_column("site", sa.Column(name, sa.Float, nullable=False, server_default="0"))
