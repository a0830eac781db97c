"""Whether a text is somebody's notes, or a table that a program wrote."""

from yardtoll.core.notes.limits import LONGEST_TEXT

_MOST_LINES = 400
_TABLE_LINES = 20
"""So many lines with as many cells each were written by a program."""
_TIMED_SHARE = 0.6
_LOOKED_AT = 30
"""So many lines at either end show what a text is."""
_DELIMITERS = ",;\t|"


def looks_like_notes(text: str) -> bool:
    """Whether most lines have a time, and values with units or words that notes have.

    A table has a line of names first, or figures without units.
    """
    if len(text) > LONGEST_TEXT or text.count("\n") > _MOST_LINES or "\x00" in text:
        return False
    said = [
        line for line in text.splitlines() if line.strip() and not line.lstrip().startswith("#")
    ]
    if not said or _is_table_head(said[0]) or _is_table(said):
        return False
    from yardtoll.core.notes.read import read_lines  # patterns of half a tenth of a second

    looked_at = "\n".join([*said[:_LOOKED_AT], *said[_LOOKED_AT:][-_LOOKED_AT:]])
    lines = [line for line in read_lines(looked_at) if not line.is_empty]
    timed = [line for line in lines if line.time is not None or line.ran_s is not None]
    telling = [line for line in timed if line.values or line.event]
    with_units = [
        line for line in telling if line.event or any(not v.is_assumed for v in line.values)
    ]
    return (
        len(timed) >= _TIMED_SHARE * len(lines)
        and len(with_units) > 0
        and len(with_units)
        >= _TIMED_SHARE * len([line for line in timed if line.values or line.unread])
    )


def _is_table_head(line: str) -> bool:
    """Names of columns: several cells without a figure in any of them."""
    cells = max((line.split(mark) for mark in _DELIMITERS), key=len)
    return len(cells) > 1 and not any(character.isdigit() for character in line)


def _is_table(said: list[str]) -> bool:
    """Lines of as many cells each: many of them, or below a line that has no time."""
    for mark in _DELIMITERS:
        counts = {line.count(mark) for line in said}
        is_even = len(counts) == 1 and counts != {0}
        if is_even and (len(said) >= _TABLE_LINES or (len(said) > 1 and not _is_timed(said[0]))):
            return True
    return False


def _is_timed(line: str) -> bool:
    from yardtoll.core.notes.read import read_lines

    return read_lines(line)[0].time is not None
