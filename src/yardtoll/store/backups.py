"""A whole copy of a yard for each day it is worked with, beside it, for a month."""

import re
from datetime import date, datetime, timedelta
from pathlib import Path

from yardtoll.store.errors import YardError
from yardtoll.store.yard_file import YardFile

KEPT_DAYS = 30
_DATED = re.compile(r" (\d{4}-\d{2}-\d{2})\.yard$")


def backup_folder(path: Path) -> Path:
    """Where the copies of a yard are."""
    return path.with_name(f"{path.stem}.backups")


def backups(path: Path) -> list[tuple[date, Path]]:
    """The copies of a yard with their days, newest first."""
    found = []
    for copy in backup_folder(path).glob(f"{_escaped(path.stem)} *.yard"):
        named = _DATED.search(copy.name)
        if named:
            try:
                found.append((date.fromisoformat(named[1]), copy))
            except ValueError:
                continue  # somebody else's file
    return sorted(found, reverse=True)


def keep_todays(yard: YardFile, now: datetime, kept_days: int = KEPT_DAYS) -> Path | None:
    """Copy a yard as it is now, once a day; copies that are older than a month go.

    Days are those of the zone of ``now``, an aware moment.

    A yard made today has nothing that a copy of today could bring back; neither has one that did
    not change since its latest copy.

    Returns:
        The new copy, None where none was due.

    Raises:
        YardError: it cannot be written.
    """
    there = backups(yard.path)
    today = now.date()
    made_at = datetime.fromisoformat(yard.info().created_at)
    made_today = made_at.astimezone(now.tzinfo).date() == today
    if yard.read_only or made_today or (there and there[0][0] >= today):
        return None
    if there and there[0][1].stat().st_mtime >= _changed_s(yard.path):
        return None
    folder = backup_folder(yard.path)
    try:
        folder.mkdir(exist_ok=True)
    except OSError as error:
        raise YardError(f"{folder} cannot be made: {error.strerror}") from None
    copy = folder / f"{yard.path.stem} {today.isoformat()}.yard"
    yard.copy_to(copy)
    for day, old in there:
        if day < today - timedelta(days=kept_days):
            old.unlink(missing_ok=True)
    return copy


def _changed_s(path: Path) -> float:
    """When the file or its log was last written, s since 1970."""
    log = path.with_name(f"{path.name}-wal")
    return max(file.stat().st_mtime for file in (path, log) if file.exists())


def _escaped(stem: str) -> str:
    return re.sub(r"([*?\[])", r"[\1]", stem)
