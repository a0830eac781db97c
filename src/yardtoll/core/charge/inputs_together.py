"""Two inputs at once: each one's share over time, where their sum is capped, and which yields."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yardtoll.core.electrical.energy import SECONDS_PER_HOUR
from yardtoll.core.electrical.medians import median
from yardtoll.core.electrical.trace import FloatArray

BoolArray = NDArray[np.bool_]

STEP_S = 10.0
FLOWING_W = 2.0
LOOK_S = 120.0
"""So long before and after the other input joins is looked at for one that yields."""
CAP_SHARE = 0.02
"""A sum within this share of its highest level is at the cap."""
LEAST_CAPPED = 0.25
"""Of the time together, before a level counts as a cap."""
LEAST_YIELD_SHARE = 0.05


@dataclass(frozen=True, kw_only=True)
class InputTrace:
    """One input's power on a common clock: (n,) s rising and (n,) W."""

    name: str
    time_s: FloatArray
    power_w: FloatArray


@dataclass(frozen=True, kw_only=True)
class InputsTogether:
    """What two inputs do while both flow.

    Attributes:
        together_s: how long both flowed.
        energies_wh: of each in that time.
        time_s, powers_w: (n,) s on the common clock and (2, n) W of each input, from where the
            first of them begins to where the last ends; 0 W where an input is not logged.
        cap_w: the level the sum does not pass; None where none is seen.
        yields: name of the input that falls when the other comes on; "" where none does.
        yielded_w: by how much.
    """

    names: tuple[str, str]
    together_s: float
    energies_wh: tuple[float, float]
    time_s: FloatArray
    powers_w: FloatArray
    cap_w: float | None
    yields: str
    yielded_w: float

    @property
    def first_share(self) -> float:
        """The first input's share of the energy."""
        return self.energies_wh[0] / sum(self.energies_wh)

    def share_at(self, index: int) -> float | None:
        """The first input's share of the W at a sample; None while nothing flows."""
        first, second = (float(w) for w in self.powers_w[:, index])
        return first / (first + second) if first + second > FLOWING_W else None


def inputs_together(first: InputTrace, second: InputTrace) -> InputsTogether | None:
    """Compare two inputs; None where they never flow at the same time."""
    if first.time_s[-1] < second.time_s[0] or second.time_s[-1] < first.time_s[0]:
        return None
    start = min(first.time_s[0], second.time_s[0])
    end = max(first.time_s[-1], second.time_s[-1])
    grid = np.arange(start, end + STEP_S, STEP_S)
    powers = [np.interp(grid, t.time_s, t.power_w, left=0.0, right=0.0) for t in (first, second)]
    flowing = [power > FLOWING_W for power in powers]
    both = flowing[0] & flowing[1]
    if both.sum() < 2:
        return None
    total = powers[0] + powers[1]
    yields, yielded = _yielding((first.name, second.name), powers, flowing)
    hours = STEP_S / SECONDS_PER_HOUR
    return InputsTogether(
        names=(first.name, second.name),
        together_s=float(both.sum()) * STEP_S,
        energies_wh=(
            float(powers[0][both].sum()) * hours,
            float(powers[1][both].sum()) * hours,
        ),
        time_s=grid,
        powers_w=np.array(powers),
        cap_w=_cap_w(total[both], powers[0][both], powers[1][both]),
        yields=yields,
        yielded_w=yielded,
    )


def _cap_w(total: FloatArray, first: FloatArray, second: FloatArray) -> float | None:
    """The sum's highest level where it is held while the parts are not both constant."""
    level = float(np.percentile(total, 95))
    capped = np.abs(total - level) <= CAP_SHARE * level
    if capped.mean() < LEAST_CAPPED:
        return None
    spread = max(float(np.std(part[capped])) for part in (first, second))
    if spread <= 2 * float(np.std(total[capped])):
        return None
    return median(total[capped])


def _yielding(
    names: tuple[str, str], powers: list[FloatArray], flowing: list[BoolArray]
) -> tuple[str, float]:
    """The input that falls by more when the other comes on beside it."""
    drops = [_drop_w(powers[i], flowing[i], flowing[1 - i]) for i in (0, 1)]
    lost = max(range(2), key=lambda i: drops[i][0])
    drop, level = drops[lost]
    if level == 0 or drop <= LEAST_YIELD_SHARE * level:
        return "", 0.0
    return names[lost], drop


def _drop_w(power: FloatArray, mine: BoolArray, other: BoolArray) -> tuple[float, float]:
    """(fall in W, level before) around the first moment the other joins; zeros where none does.

    Minutes before and after are compared, not the whole time: clouds change an input as well.
    """
    joins = np.flatnonzero(mine[1:] & other[1:] & mine[:-1] & ~other[:-1]) + 1
    if joins.size == 0:
        return 0.0, 0.0
    at, window = int(joins[0]), int(LOOK_S / STEP_S)
    before = power[max(at - window, 0) : at]
    after = power[at + window // 2 : at + window // 2 + window]
    if not before.size or not after.size:
        return 0.0, 0.0
    level = median(before)
    return level - median(after), level
