"""Heat and fans over a test: the highest, the rise, when fans ran, when it would not charge."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from yardtoll.core.output.entries import EntryField, Fields, number_in, word_in


class Seen(StrEnum):
    """What was seen with a temperature, or instead of one."""

    READING = "reading"
    FAN_ON = "fan_on"
    FAN_OFF = "fan_off"
    CUT_BACK = "cut_back"
    REFUSED = "refused"
    CHARGED_AGAIN = "charged_again"

    @property
    def words(self) -> str:
        """As shown."""
        return {
            "reading": "a reading",
            "fan_on": "fan on",
            "fan_off": "fan off",
            "cut_back": "power cut back",
            "refused": "refused to charge",
            "charged_again": "charged again",
        }[self.value]


HOW = (("probe", "probe"), ("gun", "infrared gun"), ("app", "the station's app"))
FIELDS = (
    EntryField(key="minute_min", title="After", unit="min", decimals=1, high=10_000, needed=True),
    EntryField(
        key="seen", title="Seen", choices=tuple((s.value, s.words) for s in Seen),
        default="reading", needed=True,
    ),
    EntryField(key="temperature_c", title="Temperature", unit="°C", low=-50, high=300, decimals=1),
    EntryField(key="where", title="Where", hint="exhaust, plug, case"),
    EntryField(key="how", title="Read by", choices=HOW, default="probe"),
    EntryField(key="load_w", title="Load", unit="W"),
    EntryField(key="ambient_c", title="Air", unit="°C", low=-50, high=80, decimals=1,
               in_list=False),
)  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class HeatPoint:
    """One line of the table, in its units."""

    minute: float
    seen: Seen
    temperature_c: float | None
    where: str
    how: str
    load_w: float | None


@dataclass(frozen=True, kw_only=True)
class HeatResult:
    """What the heat did.

    Attributes:
        points: by time.
        highest: the hottest reading; None without one.
        rise_k: of the hottest place, over the air or its own first reading; None without either.
        fans: (minute on, minute off or None, W, °C at the start) of each time the fans ran.
        cut_back: (minute, °C) when the power was cut back; None where it was not.
        rested_min: from the refusal to charge until it charged again; None where it did neither.
        refused_at_c: the temperature read nearest to the refusal; None without.
    """

    points: tuple[HeatPoint, ...]
    highest: HeatPoint | None
    rise_k: float | None
    fans: tuple[tuple[float, float | None, float | None, float | None], ...]
    cut_back: tuple[float, float | None] | None
    refused: bool
    rested_min: float | None
    refused_at_c: float | None


def analyse_heat(lines: Sequence[Fields]) -> HeatResult:
    """Work a table of readings out.

    Args:
        lines: of :data:`FIELDS`; one without a time is left out.
    """
    points = sorted((p for line in lines if (p := _point(line))), key=lambda p: p.minute)
    airs = [air for line in lines if (air := number_in(line, "ambient_c")) is not None]
    read = [p for p in points if p.temperature_c is not None]
    highest = max(read, key=lambda p: p.temperature_c or 0.0, default=None)
    refused = next((p for p in points if p.seen is Seen.REFUSED), None)
    again = next(
        (
            p
            for p in points
            if p.seen is Seen.CHARGED_AGAIN and refused and p.minute > refused.minute
        ),
        None,
    )
    cut = next((p for p in points if p.seen is Seen.CUT_BACK), None)
    return HeatResult(
        points=tuple(points),
        highest=highest,
        rise_k=_rise_k(highest, read, airs),
        fans=tuple(_fans(points)),
        cut_back=(cut.minute, _near(cut, read)) if cut else None,
        refused=refused is not None,
        rested_min=again.minute - refused.minute if refused and again else None,
        refused_at_c=_near(refused, read) if refused else None,
    )


def _point(line: Fields) -> HeatPoint | None:
    minute = number_in(line, "minute_min")
    if minute is None:
        return None
    word = word_in(line, "seen")
    return HeatPoint(
        minute=minute,
        seen=Seen(word) if word in list(Seen) else Seen.READING,
        temperature_c=number_in(line, "temperature_c"),
        where=word_in(line, "where").strip(),
        how=word_in(line, "how"),
        load_w=number_in(line, "load_w"),
    )


def _rise_k(
    highest: HeatPoint | None, read: Sequence[HeatPoint], airs: Sequence[float]
) -> float | None:
    """Of one place: another one is no beginning."""
    if highest is None or highest.temperature_c is None:
        return None
    if airs:
        return highest.temperature_c - sum(airs) / len(airs)
    same = [p for p in read if p.where.casefold() == highest.where.casefold() and p is not highest]
    before = [p for p in same if p.minute < highest.minute]
    return highest.temperature_c - (before[0].temperature_c or 0.0) if before else None


def _fans(
    points: Sequence[HeatPoint],
) -> list[tuple[float, float | None, float | None, float | None]]:
    """Each time they ran; one that is not seen to stop has no end."""
    found: list[tuple[float, float | None, float | None, float | None]] = []
    read = [p for p in points if p.temperature_c is not None]
    for point in points:
        if point.seen is Seen.FAN_ON and not (found and found[-1][1] is None):
            found.append((point.minute, None, point.load_w, _near(point, read)))
        elif point.seen is Seen.FAN_OFF and found and found[-1][1] is None:
            on, _, load_w, at_c = found[-1]
            found[-1] = (on, point.minute, load_w, at_c)
    return found


_NEAR_MIN = 3.0


def _near(point: HeatPoint, read: Sequence[HeatPoint]) -> float | None:
    """Its own temperature, else the one read nearest within three minutes."""
    if point.temperature_c is not None:
        return point.temperature_c
    near = [p for p in read if abs(p.minute - point.minute) <= _NEAR_MIN]
    return min(near, key=lambda p: abs(p.minute - point.minute)).temperature_c if near else None
