"""What of some notes was not understood, or is doubtful, as notices."""

from yardtoll.core.electrical.trace import Code, Notice
from yardtoll.core.formatting import quoted
from yardtoll.core.notes.read import Notes

_MOST_NAMED = 5


def notes_notices(notes: Notes) -> list[Notice]:
    """Nothing is dropped silently: parts not understood, lines without a time, times that fall."""
    found = []
    unread = [
        f"line {line.number}: {quoted(line.text[part.start : part.end].strip())} ({part.why})"
        for line in notes.lines
        for part in line.unread
    ]
    if unread:
        more = len(unread) - _MOST_NAMED
        named = "; ".join(unread[:_MOST_NAMED]) + (f"; and {more} more" if more > 0 else "")
        message = f"{notes.name}: not understood and left out: {named}"
        found.append(Notice(code=Code.MISSING_VALUES, message=message))
    for doubt in notes.doubts:
        falls = doubt.message.startswith("earlier")
        code = Code.TIME_NOT_MONOTONIC if falls else Code.MISSING_VALUES
        found.append(Notice(code=code, message=f"{notes.name}, line {doubt.line}: {doubt.message}"))
    return found
