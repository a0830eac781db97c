"""The time that stands in a line of notes: of the clock, or since the first line."""

import re
from dataclasses import dataclass

import numpy as np

from yardtoll.core.notes.quantities import LEFT

MINUTE_S, HOUR_S, DAY_S = 60.0, 3600.0, 86_400.0
_LEFT = rf"(?:{LEFT})\b"
_HALF = r"(?:\s*(?P<half>[ap])\.?\s?m\b\.?)"
_AFTER_TIME = r"(?!\s*(?:h\b|hrs?\b|hours?\b)?\s*" + _LEFT + r")"
_BULLET = r"^[\s\-*•·>]*(?:at|um|à|@|a las|kl\.?|mon|tue|wed|thu|fri|sat|sun)?\b[\s,]*"
_CLOCK = (
    r"(?P<hours>\d{1,3})\s?[:h](?P<minutes>[0-5]\d)(?::(?P<seconds>[0-5]\d)(?:[.,]\d+)?)?"
    rf"(?!\d|:\d)(?:{_HALF}|\s*(?:uhr|h)\b)?"
)
_DOT = (
    r"(?P<hours>\d{1,2})\.(?P<minutes>[0-5]\d)(?:\.(?P<seconds>[0-5]\d))?(?![\d.,:])"
    rf"(?:{_HALF}|\s*uhr\b|(?=\s*[,;|]?\s*(?:\d|\w{{3}}|on\b|$)))"
)
_HOUR = rf"(?P<hours>\d{{1,2}})(?:{_HALF}|\s*(?:uhr|o'?clock)\b)"
_DATES = (
    re.compile(r"(?P<year>\d{4})[-/.](?P<month>\d{1,2})[-/.](?P<day>\d{1,2})[T\s,]+"),
    re.compile(r"(?P<day>\d{1,2})\.\s?(?P<month>\d{1,2})\.\s?(?P<year>\d{2,4})?[\s,]+(?=\d)"),
    re.compile(r"(?P<one>\d{1,2})/(?P<two>\d{1,2})(?:/(?P<year>\d{2,4}))?[\s,]+(?=\d)"),
)
_ZONE = re.compile(r"\s*(?P<zone>Z|[+-]\d{2}:?\d{2})(?![\d:])")
_SPAN = (
    r"(?:(?P<h>\d+(?:[.,]\d+)?)\s*(?:h|hrs?|hours?|std|stunden?|heures?|horas?)\b\.?\s*)?"
    r"(?:(?P<m>\d+(?:[.,]\d+)?)\s*(?:m|mins?|minutes?|minuten|minutos)\b\.?\s*)?"
    r"(?:(?P<s>\d+(?:[.,]\d+)?)\s*(?:s|secs?|seconds?|sekunden|secondes|segundos)\b\.?)?"
)
SPAN = re.compile(_SPAN, re.IGNORECASE)
SHORT_SPAN = re.compile(
    r"(?P<h>\d{1,3})\s?h\s?(?P<m>[0-5]?\d)(?:\s?m(?:in)?)?(?![\d\w:])", re.IGNORECASE
)
COLON_SPAN = re.compile(r"(?P<h>\d{1,3}):(?P<m>[0-5]\d)(?::(?P<s>[0-5]\d))?(?![\d:])")


def _anywhere(pattern: str) -> re.Pattern[str]:
    return re.compile(pattern, re.IGNORECASE)


_FIRST = _anywhere(_CLOCK + _AFTER_TIME)
_FIRST_DOT = _anywhere(_DOT)
_FIRST_HOUR = _anywhere(_HOUR)
_SINCE = _anywhere(
    r"(?:t\s?)?\+\s?(?:(?P<colon>\d{1,3}:[0-5]\d(?::[0-5]\d)?)(?![\d:])|(?P<span>\d.*))"
)
_AFTER = _anywhere(r"(?:after|nach|après|tras)\s+(?P<span>\d.*)")
_LATER = re.compile(
    r"(?<![\d:+.,])(?:(?P<before>" + LEFT + r"|shows?)\s+)?(?P<time>" + _CLOCK + r")" + _AFTER_TIME,
    re.IGNORECASE,
)
_LATER_HOUR = re.compile(r"(?<![\d:+.,])(?P<time>\d{1,2}\s?[ap]\.?m\b\.?)", re.IGNORECASE)


@dataclass(frozen=True)
class LineTime:
    """A time as it stands in a line.

    Attributes:
        seconds: since midnight, or since the first line.
        since_start: it counts from the first line.
        limit_s: how far the moment may be from it: to the minute, or to the second.
        start, end: where it stands in the line.
        day: days since 1970 of a line with a date.
        half_known: AM or PM is written, or the hour is above 12.
        zone_s: offset from UTC, where written.
        doubt: why it may be another time.
    """

    seconds: float
    since_start: bool
    limit_s: float
    start: int
    end: int
    day: int | None = None
    half_known: bool = True
    zone_s: float | None = None
    doubt: str = ""


def span_s(found: re.Match[str]) -> float | None:
    """S of a matched duration; None where nothing of it matched."""
    parts = [found.groupdict().get(name) for name in ("h", "m", "s")]
    if not any(parts):
        return None
    numbers = [float(part.replace(",", ".")) if part else 0.0 for part in parts]
    return numbers[0] * HOUR_S + numbers[1] * MINUTE_S + numbers[2]


def span_step_s(found: re.Match[str]) -> float:
    """The step of the last figure of a matched duration, in s."""
    for name, unit_s in (("s", 1.0), ("m", MINUTE_S), ("h", HOUR_S)):
        part = found.groupdict().get(name)
        if part:
            return unit_s * 10.0 ** -len(part.replace(",", ".").partition(".")[2])
    return 0.0


def time_in(line: str) -> LineTime | None:
    """The time of a line: at its beginning, else anywhere in it; None where there is none."""
    lead = re.match(_BULLET, line, re.IGNORECASE)
    at = lead.end() if lead else 0
    return _at_start(line, at) or _later(line)


def _at_start(line: str, at: int) -> LineTime | None:
    since = _SINCE.match(line, at) or _AFTER.match(line, at)
    if since:
        return _since(line, since)
    begin, day, doubt = at, None, ""
    for pattern in _DATES:
        dated = pattern.match(line, at)
        if dated:
            day, doubt = _day(dated)
            at = dated.end() if day else at
            break
    found = _FIRST.match(line, at)
    if not found:
        found = _FIRST_DOT.match(line, at) if not _has_unit(line, at) else None
    found = found or _FIRST_HOUR.match(line, at)
    if found:
        return _clock(found, begin, day, doubt, line)
    if day is not None:
        return None
    spanned = SHORT_SPAN.match(line, at) or SPAN.match(line, at)
    if (
        spanned
        and span_s(spanned) is not None
        and not re.match(rf"\s*{_LEFT}", line[spanned.end() :], re.IGNORECASE)
    ):
        seconds = span_s(spanned)
        assert seconds is not None
        return LineTime(
            seconds, since_start=True, limit_s=span_step_s(spanned) / 2, start=begin,
            end=spanned.end(),
        )  # fmt: skip
    return None


def _since(line: str, since: re.Match[str]) -> LineTime | None:
    groups = since.groupdict()
    if groups.get("colon"):
        found = COLON_SPAN.match(line, since.start("colon"))
    else:
        at = since.start("span")
        found = SHORT_SPAN.match(line, at) or SPAN.match(line, at)
    seconds = span_s(found) if found else None
    if found is None or seconds is None:
        return None
    limit_s = span_step_s(found) / 2
    return LineTime(
        seconds, since_start=True, limit_s=limit_s, start=since.start(), end=found.end()
    )


def _has_unit(line: str, at: int) -> bool:
    """Whether a figure such as 9.24 is followed by a unit, and so is no time."""
    unit = r"\d+[.,]\d+\s?(?:k?Wh?|V|A|Hz|%|°|h\b|min|dB|watt|volt|amp|percent|prozent|C\b|F\b)"
    return re.match(unit, line[at:], re.IGNORECASE) is not None


def _later(line: str) -> LineTime | None:
    """A time further on, such as "found off at 07:00"; not one that a display shows as left."""
    for found in _LATER.finditer(line):
        if not found["before"]:
            inner = _FIRST.match(line, found.start("time"))
            if inner:
                return _clock(inner, _with_at(line, inner.start()), None, "", line)
    for found in _LATER_HOUR.finditer(line):
        inner = _FIRST_HOUR.match(line, found.start())
        if inner:
            return _clock(inner, _with_at(line, inner.start()), None, "", line)
    return None


def _with_at(line: str, start: int) -> int:
    """Where the word "at" before a time begins, which belongs to it."""
    before = re.search(r"(?:\bat|\bum|\bà|@|\bby)\s*$", line[:start], re.IGNORECASE)
    return before.start() if before else start


def _clock(
    found: re.Match[str], begin: int, day: int | None, doubt: str, line: str
) -> LineTime | None:
    groups = found.groupdict()
    hours, minutes = int(groups["hours"]), int(groups.get("minutes") or 0)
    seconds = int(groups.get("seconds") or 0)
    half = (groups.get("half") or "").lower()
    if half:
        if not 1 <= hours <= 12:
            return None
        hours = hours % 12 + (12 if half == "p" else 0)
    limit_s = (
        2.0 if groups.get("seconds") else MINUTE_S / 2 if groups.get("minutes") else HOUR_S / 2
    )
    end, zone_s = found.end(), None
    zoned = _ZONE.match(line, end) if day is not None else None
    if zoned:
        end = zoned.end()
        text = zoned["zone"].replace(":", "")
        sign = -1 if text[0] == "-" else 1
        zone_s = (
            0.0 if text == "Z" else sign * (int(text[1:3]) * HOUR_S + int(text[3:5]) * MINUTE_S)
        )
    total = hours * HOUR_S + minutes * MINUTE_S + seconds
    half_known = bool(half) or hours > 12 or hours == 0 or day is not None
    return LineTime(
        total, since_start=False, limit_s=limit_s, start=begin, end=end, day=day,
        half_known=half_known, zone_s=zone_s, doubt=doubt,
    )  # fmt: skip


def _day(dated: re.Match[str]) -> tuple[int | None, str]:
    """The date, and why it may be another one."""
    groups = dated.groupdict()
    year = int(groups["year"]) if groups.get("year") else 2000
    year += 2000 if year < 100 else 0
    doubt = ""
    if groups.get("one"):
        one, two = int(groups["one"]), int(groups["two"])
        month, day = (two, one) if one > 12 else (one, two)
        if max(one, two) <= 12 and one != two:
            doubt = "day and month may be the other way round"
    else:
        month, day = int(groups["month"]), int(groups["day"])
    try:
        return int(np.datetime64(f"{year:04d}-{month:02d}-{day:02d}", "D").astype(int)), doubt
    except ValueError:
        return None, ""


def moment_s(time: LineTime) -> float:
    """S since 1970 of a line with a date, in its own zone, or in UTC where that is written."""
    assert time.day is not None
    return time.day * DAY_S + time.seconds - (time.zone_s or 0.0)
