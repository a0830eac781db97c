"""The first schema: stations, bench, runs and their traces."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def _id() -> sa.Column[int]:
    return sa.Column("id", sa.Integer, primary_key=True)


def _text(name: str, *, null: bool = False) -> sa.Column[str]:
    return sa.Column(name, sa.Text, nullable=null)


def _real(name: str, *, null: bool = False) -> sa.Column[float]:
    return sa.Column(name, sa.Float, nullable=null)


def _flag(name: str) -> sa.Column[bool]:
    return sa.Column(name, sa.Boolean, nullable=False)


def _link(name: str, target: str, *, null: bool = False, key: bool = False) -> sa.Column[int]:
    return sa.Column(
        name, sa.Integer, sa.ForeignKey(f"{target}.id"), nullable=null, primary_key=key
    )


def upgrade() -> None:
    """Create every table of version 1."""
    op.create_table(
        "yard",
        _id(),
        _text("name"),
        _text("created_at"),
        _text("rule"),
        sa.Column("yardstick_id", sa.Integer, nullable=True),
    )
    op.create_table(
        "station",
        _id(),
        *(_text(n) for n in ("name", "chemistry", "source", "note")),
        *(_real(n) for n in ("rated_wh", "rated_w")),
        _flag("removed"),
    )
    op.create_table(
        "meter",
        _id(),
        *(_text(n) for n in ("name", "profile", "address")),
        *(_real(n) for n in ("reading_share", "floor_w", "own_draw_w")),
        _real("max_w", null=True),
        _flag("removed"),
    )
    op.create_table("load", _id(), _text("name"), _real("watts"), _flag("removed"))
    op.create_table(
        "yardstick", _id(), _text("name"), _real("limit_ratio"), _text("basis"), _flag("removed")
    )
    op.create_table(
        "run",
        _id(),
        _link("station_id", "station"),
        sa.Column("number", sa.Integer, nullable=False),
        *(_text(n) for n in ("method", "state", "origin", "started_at", "void_reason")),
        _text("ended_at", null=True),
        _link("meter_id", "meter", null=True),
        _link("load_id", "load", null=True),
        _real("target_w", null=True),
        *(_real(n) for n in ("own_draw_w", "soc_from", "soc_to")),
        sa.Column("conditions", sa.JSON, nullable=False),
    )
    op.create_table(
        "mark", _id(), _link("run_id", "run"), _real("time_s"), _text("word"), _flag("withdrawn")
    )
    op.create_table(
        "reading",
        _id(),
        _link("run_id", "run"),
        _real("time_s"),
        _text("kind"),
        _real("value"),
        _flag("withdrawn"),
    )
    op.create_table(
        "trace",
        _link("run_id", "run", key=True),
        sa.Column("quantities", sa.JSON, nullable=False),
        _text("name"),
        _real("clock_s", null=True),
        _text("clock_basis", null=True),
        sa.Column("notices", sa.JSON, nullable=False),
    )
    op.create_table(
        "trace_block",
        _link("run_id", "run", key=True),
        sa.Column("seq", sa.Integer, primary_key=True),
        sa.Column("row_count", sa.Integer, nullable=False),
        _real("kept_at_s"),
        sa.Column("data", sa.LargeBinary, nullable=False),
    )
