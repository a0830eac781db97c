"""Notes in a text file: told from tables by their content."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from yardtoll.core.errors import UnusableDataError
from yardtoll.core.notes.limits import LONGEST_TEXT
from yardtoll.core.notes.recognise import looks_like_notes
from yardtoll.store.errors import LogError

if TYPE_CHECKING:
    from yardtoll.core.notes.read import Notes

_MOST_BYTES = 4 * LONGEST_TEXT
_BINARY = (".xlsx", ".xls", ".ods", ".parquet", ".pq", ".jpg", ".jpeg", ".png")
_BOMS = (b"\xff\xfe", b"\xfe\xff")


def notes_in(path: Path, *, stated: bool = False) -> Notes | None:
    """The notes in a file; None where it holds something else.

    Args:
        stated: the user says that these are notes.

    Raises:
        LogError: stated notes that cannot be read as such.
    """
    try:
        text = text_of(path)
    except OSError as error:
        if stated:
            raise LogError(f"{path.name} cannot be read: {error.strerror}") from None
        return None
    if text is None or not (stated or looks_like_notes(text)):
        if stated:
            raise LogError(f"{path.name} is no text that could be notes")
        return None
    from yardtoll.core.notes.read import read_notes

    try:
        return read_notes(text, path.name)
    except UnusableDataError as error:
        if stated:
            raise LogError(str(error)) from None
        return None


def text_of(path: Path) -> str | None:
    """A short text file's text; None for anything else."""
    if path.suffix.lower() in _BINARY or not path.is_file() or path.stat().st_size > _MOST_BYTES:
        return None
    data = path.read_bytes()
    if data.startswith(_BOMS):
        return data.decode("utf-16", "replace")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("cp1252", "replace")
