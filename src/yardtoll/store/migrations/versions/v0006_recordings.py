"""A run has any number of recordings, each of one instrument; what ended it is a mark's flag."""

import json
import time

import numpy as np
import sqlalchemy as sa
from alembic import op

from yardtoll.core.electrical.roles import Role
from yardtoll.store.earlier import END_WORDS, LOGGER, LOGGER_QUANTITIES, logger_of, role_of

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    """Traces become recordings; so does a logger that was kept in a run's conditions."""
    op.add_column("mark", sa.Column("ends_run", sa.Boolean, nullable=False, server_default="0"))
    op.add_column("reading", sa.Column("subject", sa.Text, nullable=False, server_default=""))
    words = ", ".join(f"'{word}'" for word in END_WORDS)
    op.execute(f"UPDATE mark SET ends_run = 1 WHERE word IN ({words})")  # noqa: S608 - constants
    _make_tables()
    connection = op.get_bind()
    _move_traces(connection)
    _move_loggers(connection)
    op.drop_table("trace_block")
    op.drop_table("trace")


def _make_tables() -> None:
    op.create_table(
        "recording",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("run_id", sa.Integer, sa.ForeignKey("run.id"), nullable=False),
        sa.Column("role", sa.Text, nullable=False),
        sa.Column("instrument", sa.Text, nullable=False),
        sa.Column("meter_id", sa.Integer, sa.ForeignKey("meter.id"), nullable=True),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("quantities", sa.JSON, nullable=False),
        sa.Column("offset_s", sa.Float, nullable=False),
        sa.Column("clock_s", sa.Float, nullable=True),
        sa.Column("clock_basis", sa.Text, nullable=True),
        sa.Column("notices", sa.JSON, nullable=False),
        sa.Column("withdrawn", sa.Boolean, nullable=False),
    )
    op.create_table(
        "recording_block",
        sa.Column("recording_id", sa.Integer, sa.ForeignKey("recording.id"), primary_key=True),
        sa.Column("seq", sa.Integer, primary_key=True),
        sa.Column("row_count", sa.Integer, nullable=False),
        sa.Column("kept_at_s", sa.Float, nullable=False),
        sa.Column("data", sa.LargeBinary, nullable=False),
    )


def _move_traces(connection: sa.Connection) -> None:
    """One recording a trace, of the run's one meter; its blocks stay as they are."""
    rows = connection.exec_driver_sql(
        "SELECT trace.run_id, run.method, coalesce(meter.name, ''), trace.name, trace.quantities,"
        " trace.clock_s, trace.clock_basis, trace.notices"
        " FROM trace JOIN run ON run.id = trace.run_id"
        " LEFT JOIN meter ON meter.id = run.meter_id ORDER BY trace.run_id"
    ).all()
    for run_id, method, instrument, *facts in rows:
        connection.exec_driver_sql(
            "INSERT INTO recording (run_id, role, instrument, meter_id, offset_s, withdrawn, name,"
            " quantities, clock_s, clock_basis, notices)"
            " VALUES (?, ?, ?, NULL, 0, 0, ?, ?, ?, ?, ?)",
            (run_id, role_of(method).value, instrument, *facts),
        )
    connection.exec_driver_sql(
        "INSERT INTO recording_block (recording_id, seq, row_count, kept_at_s, data)"
        " SELECT recording.id, seq, row_count, kept_at_s, data"
        " FROM trace_block JOIN recording ON recording.run_id = trace_block.run_id"
    )


def _move_loggers(connection: sa.Connection) -> None:
    for run_id, text in connection.exec_driver_sql("SELECT id, conditions FROM run").all():
        conditions = json.loads(text)
        found = logger_of(conditions)
        if found is None:
            continue
        name, time_s, w_m2 = found
        kept = connection.exec_driver_sql(
            "INSERT INTO recording (run_id, role, instrument, meter_id, name, quantities, offset_s,"
            " clock_s, clock_basis, notices, withdrawn)"
            " VALUES (?, ?, '', NULL, ?, ?, ?, NULL, NULL, '[]', 0)",
            (
                run_id,
                Role.IRRADIANCE.value,
                name,
                json.dumps([q.value for q in LOGGER_QUANTITIES]),
                float(time_s[0]),
            ),
        )
        data = np.stack([time_s - time_s[0], w_m2]).astype("<f8").tobytes()
        connection.exec_driver_sql(
            "INSERT INTO recording_block VALUES (?, 0, ?, ?, ?)",
            (kept.lastrowid, time_s.size, time.time(), data),
        )
        del conditions[LOGGER]
        connection.exec_driver_sql(
            "UPDATE run SET conditions = ? WHERE id = ?", (json.dumps(conditions), run_id)
        )
