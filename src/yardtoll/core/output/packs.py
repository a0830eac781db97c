"""Packs beside each other through a run: the state of charge of each, and how far they are apart.

Common practice, no source: packs that share a load well stay within a few points of each other.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from yardtoll.core.errors import UnusableDataError
from yardtoll.core.output.entries import EntryField, Fields, number_in, word_in

_SAME_MIN = 2.0
"""Readings within this belong together: displays are read one after the other."""

FIELDS = (
    EntryField(key="minute_min", title="After", unit="min", decimals=1, high=100_000, needed=True),
    EntryField(key="pack", title="Pack", needed=True, hint="station, pack 1, pack 2"),
    EntryField(key="soc_percent", title="Its charge", unit="%", high=100, needed=True),
    EntryField(key="load_w", title="Load", unit="W"),
    EntryField(key="temperature_c", title="Temperature", unit="°C", low=-50, high=120, decimals=1),
)


@dataclass(frozen=True, kw_only=True)
class PackPoint:
    """One reading of one pack's display."""

    minute: float
    pack: str
    soc_percent: float


@dataclass(frozen=True, kw_only=True)
class PacksResult:
    """What the displays said.

    Attributes:
        points: by time.
        packs: names, in the order they were met.
        apart: (minute, points) where the packs were furthest apart; None where no two were read
            together.
        last: each pack's last reading.
    """

    points: tuple[PackPoint, ...]
    packs: tuple[str, ...]
    apart: tuple[float, float] | None
    last: dict[str, PackPoint]


def packs_of(lines: Sequence[Fields]) -> PacksResult:
    """Of the lines of a table.

    Raises:
        UnusableDataError: no line has a time, a pack and its charge.
    """
    points = sorted((p for line in lines if (p := _point(line))), key=lambda p: p.minute)
    if not points:
        raise UnusableDataError("no line says when a pack had what charge")
    last = {point.pack: point for point in points}
    return PacksResult(
        points=tuple(points),
        packs=tuple(dict.fromkeys(point.pack for point in points)),
        apart=_furthest(points),
        last=last,
    )


def _point(line: Fields) -> PackPoint | None:
    minute, soc = number_in(line, "minute_min"), number_in(line, "soc_percent")
    pack = word_in(line, "pack").strip()
    if minute is None or soc is None or not pack:
        return None
    return PackPoint(minute=minute, pack=pack, soc_percent=soc)


def _furthest(points: Sequence[PackPoint]) -> tuple[float, float] | None:
    """Among readings of different packs at about the same time."""
    found: tuple[float, float] | None = None
    for point in points:
        together = [p for p in points if abs(p.minute - point.minute) <= _SAME_MIN]
        if len({p.pack for p in together}) < 2:
            continue
        charges = [p.soc_percent for p in together]
        apart = max(charges) - min(charges)
        if found is None or apart > found[1]:
            found = (point.minute, apart)
    return found
