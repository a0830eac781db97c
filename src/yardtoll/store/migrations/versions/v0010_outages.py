"""Configurations of a station, prices and size classes, outages, the reviewer's appliances."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    """Every station so far is one alone; new tables with nothing in them yet."""
    for column in (
        sa.Column("base_id", sa.Integer, nullable=True),
        sa.Column("packs_wh", sa.JSON, nullable=False, server_default=sa.text("'[]'")),
        sa.Column("units", sa.Integer, nullable=False, server_default=sa.text("1")),
        sa.Column("tags", sa.JSON, nullable=False, server_default=sa.text("'[]'")),
    ):
        op.add_column("station", column)
    op.add_column("yard", sa.Column("uid", sa.Text, nullable=False, server_default=""))
    op.execute("UPDATE yard SET uid = lower(hex(randomblob(16)))")
    op.create_table(
        "price",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("station_id", sa.Integer, sa.ForeignKey("station.id"), nullable=False),
        *(sa.Column(n, sa.Text, nullable=False) for n in ("kind", "currency", "day", "words")),
        sa.Column("amount", sa.Float, nullable=False),
        sa.Column("units", sa.Integer, nullable=False),
        sa.Column("removed", sa.Boolean, nullable=False),
    )
    op.create_table(
        "size_class",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.Text, nullable=False),
        *(sa.Column(n, sa.Float, nullable=False) for n in ("low_wh", "high_wh")),
        sa.Column("removed", sa.Boolean, nullable=False),
    )
    op.create_table(
        "score_template",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("points", sa.JSON, nullable=False),
        sa.Column("made_on", sa.Text, nullable=False),
        sa.Column("removed", sa.Boolean, nullable=False),
    )
    op.create_table(
        "standing",
        sa.Column("station_id", sa.Integer, sa.ForeignKey("station.id"), primary_key=True),
        sa.Column("asked", sa.Text, primary_key=True),
        sa.Column("quantity", sa.Text, primary_key=True),
        sa.Column("made_of", sa.Text, nullable=False),
        sa.Column("answer", sa.JSON, nullable=False),
    )
    op.create_table(
        "appliance",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.Text, nullable=False),
        *(sa.Column(n, sa.Float, nullable=False) for n in ("watts", "duty")),
        *(sa.Column(n, sa.Float, nullable=False) for n in ("low_share", "high_share")),
        sa.Column("inrush_w", sa.Float, nullable=True),
        sa.Column("run_id", sa.Integer, sa.ForeignKey("run.id"), nullable=True),
        sa.Column("note", sa.Text, nullable=False),
        sa.Column("removed", sa.Boolean, nullable=False),
    )
    op.create_table(
        "outage",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("station_id", sa.Integer, sa.ForeignKey("station.id"), nullable=False),
        *(sa.Column(n, sa.Text, nullable=False) for n in ("name", "begins_at", "sun", "weather")),
        sa.Column("note", sa.Text, nullable=False),
        sa.Column("hours", sa.Float, nullable=False),
        *(sa.Column(n, sa.JSON, nullable=False) for n in ("uses", "feeds", "array_ids")),
        sa.Column("packs_wh", sa.JSON, nullable=False),
        *(sa.Column(n, sa.Integer, nullable=False) for n in ("more_panels", "units")),
        *(sa.Column(n, sa.Float, nullable=True) for n in ("cap_w", "store_wh", "overhead_w")),
        sa.Column("conversion", sa.Float, nullable=True),
        *(
            sa.Column(n, sa.Integer, sa.ForeignKey("run.id"), nullable=True)
            for n in ("sun_run_id", "run_id")
        ),
        sa.Column("removed", sa.Boolean, nullable=False),
    )
