"""How far a measured energy may be from the truth: the meter's accuracy, timing and gaps.

Each contribution is a rectangular type B one (JCGM 100:2008, 4.3.7): a limit ±a gives the
standard uncertainty a ÷ √3. One meter's gain error is common to all its samples, so it scales
the energy; its floor is an offset and grows with time.
"""

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass

from yardtoll.core.discharge import DischargeResult
from yardtoll.core.energy import SECONDS_PER_HOUR, Gap
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.figures import counted
from yardtoll.core.recharge import RechargeResult

COVERAGE_FACTOR = 2.0
"""U = k·u with k = 2, about 95 % (JCGM 100:2008, 6.3.3)."""

_ACCURACY = re.compile(
    r"^\s*(?:±\s*)?(?:(?P<percent>\d+(?:\.\d+)?)\s*%(?:\s*(?:of\s+)?(?:reading|rdg))?)?"
    r"\s*\+?\s*(?:(?P<floor>\d+(?:\.\d+)?)\s*(?P<unit>m?W))?\s*$",
    re.IGNORECASE,
)


@dataclass(frozen=True, kw_only=True)
class MeterAccuracy:
    """A meter's stated limits of error: ±(share of the reading + floor in W)."""

    reading_share: float
    floor_w: float

    def __post_init__(self) -> None:
        if not 0 <= self.reading_share < 1:
            raise ValueOutOfRangeError("the meter's share of reading", self.reading_share, "0 to 1")
        if not self.floor_w >= 0:
            raise ValueOutOfRangeError("the meter's floor in W", self.floor_w, "0 or more")

    def __str__(self) -> str:
        return f"±({self.reading_share * 100:g} % + {self.floor_w:g} W)"


def parse_accuracy(text: str) -> MeterAccuracy:
    """Read "1% + 0.5 W", "0.5 %" or "0.2 W".

    Raises:
        UnusableDataError: the text is none of these.
    """
    found = _ACCURACY.match(text)
    if not found or (found["percent"] is None and found["floor"] is None):
        raise UnusableDataError(f'the accuracy "{text}" does not read like "1% + 0.5 W"')
    floor = float(found["floor"] or 0) * (0.001 if (found["unit"] or "").lower() == "mw" else 1)
    return MeterAccuracy(reading_share=float(found["percent"] or 0) / 100, floor_w=floor)


@dataclass(frozen=True, kw_only=True)
class BudgetLine:
    """One contribution to the uncertainty of an energy, as a standard uncertainty in Wh."""

    name: str
    why: str
    u_wh: float


@dataclass(frozen=True, kw_only=True)
class Budget:
    """The contributions to a delivered energy, largest first."""

    lines: tuple[BudgetLine, ...]

    @property
    def u_wh(self) -> float:
        """Combined standard uncertainty in Wh (JCGM 100:2008, eq. 10, independent inputs)."""
        return math.hypot(*(line.u_wh for line in self.lines))

    @property
    def expanded_wh(self) -> float:
        """Expanded uncertainty U = 2u in Wh."""
        return COVERAGE_FACTOR * self.u_wh


def discharge_budget(result: DischargeResult, accuracies: Sequence[MeterAccuracy]) -> Budget:
    """What the delivered energy of ``result`` may be off by.

    Args:
        result: a discharge analysed from traces or bare figures.
        accuracies: one for each log, or one for all.

    Raises:
        UnusableDataError: the number of accuracies fits neither.
    """
    if len(accuracies) not in (1, len(result.logs)):
        raise UnusableDataError(
            f"{len(accuracies)} meter accuracies are given for {len(result.logs)} logs; "
            "give one for each or one for all"
        )
    return _energy_budget(
        [energy for _, energy in result.logs],
        accuracies,
        duration_s=result.duration_s,
        mean_w=result.mean_w,
        edge_s=result.edge_s,
        gaps=result.gaps,
    )


def recharge_budget(result: RechargeResult, accuracy: MeterAccuracy) -> Budget:
    """What the energy drawn in a recharge may be off by."""
    return _energy_budget(
        [result.drawn_wh],
        [accuracy],
        duration_s=result.duration_s,
        mean_w=result.mean_w,
        edge_s=result.edge_s,
        gaps=result.gaps,
    )


def _energy_budget(
    energies_wh: Sequence[float],
    accuracies: Sequence[MeterAccuracy],
    *,
    duration_s: float | None,
    mean_w: float | None,
    edge_s: float,
    gaps: Sequence[Gap],
) -> Budget:
    per_log = list(accuracies) * (len(energies_wh) if len(accuracies) == 1 else 1)
    hours = (duration_s or 0.0) / SECONDS_PER_HOUR
    lines = []
    for number, (energy, accuracy) in enumerate(zip(energies_wh, per_log, strict=True), start=1):
        which = f" {number}" if len(energies_wh) > 1 else ""
        gain = accuracy.reading_share * energy
        lines.append(
            _line(
                f"Meter{which} gain",
                gain,
                f"±{accuracy.reading_share * 100:g} % of {energy:.0f} Wh",
            )
        )
        floor = accuracy.floor_w * hours
        lines.append(
            _line(f"Meter{which} floor", floor, f"±{accuracy.floor_w:g} W for {hours:.2f} h")
        )
    if mean_w is not None and edge_s:
        # Load-on and cut-off may each lie up to one interval further out.
        edge = mean_w * edge_s / SECONDS_PER_HOUR
        why = f"one interval of {edge_s:g} s at {mean_w:.0f} W, at either end"
        lines.append(
            BudgetLine(name="Cut-off timing", why=why, u_wh=math.sqrt(2) * edge / math.sqrt(3))
        )
    hidden = sum(gap.could_hide_wh for gap in gaps)
    if hidden:
        lines.append(_line("Gaps", hidden, f"up to {hidden:.1f} Wh in {counted(len(gaps), 'gap')}"))
    return Budget(lines=tuple(sorted(lines, key=lambda line: -line.u_wh)))


def _line(name: str, limit_wh: float, why: str) -> BudgetLine:
    """A rectangular contribution of half-width ``limit_wh``."""
    return BudgetLine(name=name, why=why, u_wh=limit_wh / math.sqrt(3))
