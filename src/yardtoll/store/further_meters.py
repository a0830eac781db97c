"""Readings of further meters on the same load, by their subject."""

_METER = "meter:"


def subject_of(meter_id: int) -> str:
    """Of readings of a further meter on the same load."""
    return f"{_METER}{meter_id}"


def meter_in(subject: str) -> int | None:
    """The further meter that a reading is of; None for the run's own."""
    number = subject.removeprefix(_METER)
    return int(number) if subject.startswith(_METER) and number.isdigit() else None
