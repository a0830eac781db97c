"""Readings as a person types them, and as they are shown."""

from yardtoll.core.formatting import format_span
from yardtoll.store.records import Reading, ReadingKind


def parse_time_left(text: str) -> float | None:
    """Like "1:20", "0.9 h", "45 min" or "0.9" (hours) as s; None when it is none of these."""
    cleaned = text.strip().lower().replace(",", ".")
    try:
        if ":" in cleaned:
            hours, minutes = cleaned.split(":")
            return 3600.0 * int(hours) + 60.0 * int(minutes)
        if cleaned.endswith(("min", "m")):
            return 60.0 * float(cleaned.rstrip("min "))
        return 3600.0 * float(cleaned.rstrip("h "))
    except ValueError:
        return None


def parse_number(text: str, low: float, high: float) -> float | None:
    """A number within bounds; None when it is none."""
    try:
        value = float(text.strip().rstrip("%wW ").replace(",", "."))
    except ValueError:
        return None
    return value if low <= value <= high else None


def reading_text(reading: Reading) -> str:
    """A typed reading as shown."""
    if reading.kind == ReadingKind.SOC.value:
        return f"{reading.value:g} % shown"
    if reading.kind == ReadingKind.DISPLAY_W.value:
        return f"{reading.value:g} W shown"
    if reading.kind == ReadingKind.METER_WH.value:
        return f"{reading.value:g} Wh on the meter"
    if reading.kind == ReadingKind.IRRADIANCE.value:
        return f"{reading.value:g} W/m²"
    if reading.kind == ReadingKind.INPUT_W.value:
        return f"{reading.value:g} W coming in shown"
    return f"{format_span(reading.value)} left shown"
