"""Stored times as shown: in the reviewer's own zone."""

from datetime import datetime


def local(iso: str) -> datetime:
    """A stored ISO 8601 time in the local zone."""
    return datetime.fromisoformat(iso).astimezone()


def local_date(iso: str) -> str:
    """The local calendar day of a stored time, as 2026-05-14."""
    return f"{local(iso):%Y-%m-%d}"
