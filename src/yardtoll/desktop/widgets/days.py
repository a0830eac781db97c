"""Patterns by which Qt's own fields show days and times, after the user's region."""

from yardtoll.store.shown_region import shown_region

_QT_SIGNS = (("%Y", "yyyy"), ("%m", "MM"), ("%d", "dd"))


def qt_day() -> str:
    """Like "yyyy-MM-dd"."""
    pattern = shown_region().day
    for sign, qt_sign in _QT_SIGNS:
        pattern = pattern.replace(sign, qt_sign)
    return pattern


def qt_clock(*, seconds: bool = False) -> str:
    """Like "HH:mm" or "h:mm ap"."""
    if shown_region().twelve_hours:
        return "h:mm:ss ap" if seconds else "h:mm ap"
    return "HH:mm:ss" if seconds else "HH:mm"
