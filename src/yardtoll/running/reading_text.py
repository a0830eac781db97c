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
    if reading.kind == ReadingKind.TIME_LEFT.value:
        return f"{format_span(reading.value)} left shown"
    after = _AFTER.get(ReadingKind(reading.kind), reading.kind)
    return f"{reading.value:g} {after}"


_AFTER = {
    ReadingKind.SOC: "% shown",
    ReadingKind.DISPLAY_W: "W shown",
    ReadingKind.INPUT_W: "W coming in shown",
    ReadingKind.METER_WH: "Wh on the meter",
    ReadingKind.METER_W: "W on the meter",
    ReadingKind.VOLTS: "V",
    ReadingKind.AMPS: "A",
    ReadingKind.HERTZ: "Hz",
    ReadingKind.POWER_FACTOR: "power factor",
    ReadingKind.IRRADIANCE: "W/m²",
    ReadingKind.TEMPERATURE: "°C",
    ReadingKind.SOUND: "dB",
    ReadingKind.PORT_W: "W at a port",
    ReadingKind.GAP: "ms gap",
    ReadingKind.FRAMES: "frames dark",
}
