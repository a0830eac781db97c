"""Many cycles one after the other: what each delivers, and whether that drifts.

The drift is a straight line through what each cycle delivered over all that went out before it, by
least squares; its standard uncertainty is of the scatter about that line, with Student's t for few
cycles (JCGM 100:2008, H.3). What one meter's gain does to all cycles alike is no drift, and cancels
in a share of the first. Cycles below a tenth of the middle one are failures and not on the line.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yardtoll.core.errors import UnusableDataError
from yardtoll.core.output.entries import EntryField, Fields, number_in, word_in
from yardtoll.core.uncertainty.budget import coverage_factor_of

_FEWEST = 4
"""A line through fewer cycles has too little about it."""
_FAILED_BELOW = 0.1
_WH_PER_KWH = 1000.0

FIELDS = (
    EntryField(key="cycle", title="Cycle", unit="", high=100_000, needed=True),
    EntryField(key="delivered_wh", title="Delivered", unit="Wh", decimals=1, high=1e6, needed=True),
    EntryField(key="drawn_wh", title="Drawn", unit="Wh", decimals=1, high=1e6),
    EntryField(key="load_w", title="Load", unit="W"),
    EntryField(key="hours", title="Hours", unit="h", decimals=2, high=1000),
    EntryField(key="temperature_c", title="Room", unit="°C", decimals=1, low=-40, high=80),
    EntryField(key="case_c", title="Station", unit="°C", decimals=1, low=-40, high=120),
    EntryField(key="failed", title="What failed", hint="shut off at 40 %, error E7"),
)


@dataclass(frozen=True, kw_only=True)
class CycleLine:
    """One cycle as it was entered.

    Attributes:
        before_kwh: what had been delivered before it.
        failed: what went wrong; "" for nothing.
    """

    cycle: float
    delivered_wh: float
    drawn_wh: float | None
    temperature_c: float | None
    case_c: float | None
    failed: str
    before_kwh: float


@dataclass(frozen=True, kw_only=True)
class Drift:
    """How what a cycle delivers changes over all that was delivered.

    Attributes:
        first_wh: what the line says of the first cycle.
        share: change from the first to the last, as a share of the first.
        expanded: U of it.
        over_kwh: delivered from the first to the last.
        cycles: on the line.
    """

    first_wh: float
    share: float
    expanded: float
    over_kwh: float
    cycles: int

    @property
    def is_seen(self) -> bool:
        """Whether it is more than its U."""
        return abs(self.share) > self.expanded


@dataclass(frozen=True, kw_only=True)
class BurnIn:
    """What came of all cycles.

    Attributes:
        drift: None with too few cycles.
        scatter: relative standard deviation of a cycle about the line; None likewise.
    """

    cycles: tuple[CycleLine, ...]
    delivered_kwh: float
    drift: Drift | None
    scatter: float | None

    @property
    def failures(self) -> tuple[CycleLine, ...]:
        """Cycles in which something went wrong."""
        return tuple(cycle for cycle in self.cycles if cycle.failed)

    @property
    def round_trip(self) -> float | None:
        """Delivered ÷ drawn over the cycles that have both; None without any."""
        both = [(c.delivered_wh, c.drawn_wh) for c in self.cycles if c.drawn_wh and not c.failed]
        drawn = sum(d for _, d in both if d is not None)
        return sum(out for out, _ in both) / drawn if drawn else None


def burn_in_of(lines: Sequence[Fields]) -> BurnIn:
    """Of the lines of a table, put in the order of their cycles.

    Raises:
        UnusableDataError: no line says what a cycle delivered.
    """
    read = [
        (cycle, wh, line)
        for line in lines
        if (cycle := number_in(line, "cycle")) is not None
        and (wh := number_in(line, "delivered_wh")) is not None
        and wh >= 0
    ]
    if not read:
        raise UnusableDataError("no line says what a cycle delivered")
    cycles, before_kwh = [], 0.0
    for cycle, wh, line in sorted(read, key=lambda found: found[0]):
        cycles.append(
            CycleLine(
                cycle=cycle,
                delivered_wh=wh,
                drawn_wh=number_in(line, "drawn_wh"),
                temperature_c=number_in(line, "temperature_c"),
                case_c=number_in(line, "case_c"),
                failed=word_in(line, "failed").strip(),
                before_kwh=before_kwh,
            )
        )
        before_kwh += wh / _WH_PER_KWH
    drift, scatter = _drift(cycles)
    return BurnIn(cycles=tuple(cycles), delivered_kwh=before_kwh, drift=drift, scatter=scatter)


def whole_cycles(cycles: Sequence[CycleLine]) -> list[CycleLine]:
    """Those on the line: nothing failed, and not far below the middle one."""
    good = [cycle for cycle in cycles if not cycle.failed]
    if not good:
        return []
    middle = float(np.median([cycle.delivered_wh for cycle in good]))
    return [cycle for cycle in good if cycle.delivered_wh >= _FAILED_BELOW * middle]


def _drift(cycles: Sequence[CycleLine]) -> tuple[Drift | None, float | None]:
    whole = whole_cycles(cycles)
    if len(whole) < _FEWEST:
        return None, None
    x = np.array([cycle.before_kwh for cycle in whole])
    y = np.array([cycle.delivered_wh for cycle in whole])
    span = float(x[-1] - x[0])
    if span <= 0:
        return None, None
    centre = float(x.mean())
    sum_sq = float(((x - centre) ** 2).sum())
    slope = float(((x - centre) * (y - y.mean())).sum()) / sum_sq
    left = y - y.mean() - slope * (x - centre)
    free = len(whole) - 2
    deviation = math.sqrt(float((left**2).sum()) / free)
    first_wh = float(y.mean()) + slope * (float(x[0]) - centre)
    if first_wh <= 0:
        return None, None
    u_slope = deviation / math.sqrt(sum_sq)
    drift = Drift(
        first_wh=first_wh,
        share=slope * span / first_wh,
        expanded=coverage_factor_of(free) * u_slope * span / first_wh,
        over_kwh=span,
        cycles=len(whole),
    )
    return drift, deviation / first_wh
