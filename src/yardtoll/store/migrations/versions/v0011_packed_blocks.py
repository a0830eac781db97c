"""Samples of runs that have ended are packed; an earlier program would take them for damaged."""

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    """Blocks stay as they are: bare ones are read as before."""
