"""The logs named on a command line: tables that programs wrote, and notes that people did."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING
from zoneinfo import ZoneInfo

from yardtoll.core.electrical.trace import Trace
from yardtoll.store.logs.notes import notes_in
from yardtoll.store.logs.read import PowerFromVoltsAmps, read_log

if TYPE_CHECKING:
    from yardtoll.core.notes.read import Notes


def read_logs(
    paths: Sequence[Path],
    *,
    notes: bool = False,
    chosen: Mapping[str, str] | None = None,
    zone: ZoneInfo | None = None,
    derived: PowerFromVoltsAmps | None = None,
) -> list[Trace | Notes]:
    """Each log as a trace, or as notes where its content shows them.

    Args:
        notes: notes are among them; where none looks like notes, all are.

    Raises:
        LogError, MappingError: one cannot be read.
    """
    found = [None if chosen else notes_in(path) for path in paths]
    if notes and not any(found):
        found = [notes_in(path, stated=True) for path in paths]
    derived = derived or PowerFromVoltsAmps()
    return [
        read_log(path, chosen=chosen, zone=zone, derived=derived) if noted is None else noted
        for path, noted in zip(paths, found, strict=True)
    ]
