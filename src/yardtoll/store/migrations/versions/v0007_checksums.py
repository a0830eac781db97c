"""Each block of samples has a checksum, and when it was kept by a clock that nobody sets."""

import zlib

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    """Blocks as they are now are taken as sound."""
    op.add_column("recording_block", sa.Column("kept_boot_s", sa.Float, nullable=True))
    op.add_column("recording_block", sa.Column("boot_id", sa.Text, nullable=True))
    op.add_column("recording_block", sa.Column("checksum", sa.Integer, nullable=True))
    connection = op.get_bind()
    keys = connection.exec_driver_sql("SELECT recording_id, seq FROM recording_block").all()
    for recording_id, seq in keys:
        key = (recording_id, seq)
        data = connection.exec_driver_sql(
            "SELECT data FROM recording_block WHERE recording_id = ? AND seq = ?", key
        ).scalar()
        connection.exec_driver_sql(
            "UPDATE recording_block SET checksum = ? WHERE recording_id = ? AND seq = ?",
            (zlib.crc32(data or b""), *key),
        )
