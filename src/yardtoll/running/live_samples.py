"""Samples of the run in progress, grown in place so that hours of them cost no copying."""

import numpy as np

from yardtoll.bench.samples import SampleBlock
from yardtoll.core.electrical.energy import cumulative_wh, join_counter
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import FloatArray, Trace

RECENT_S = 120.0
UNCHANGED_S = 600.0
_SHOWN = (Quantity.POWER, Quantity.VOLTS, Quantity.ENERGY, Quantity.HERTZ)


class LiveSamples:
    """Time, power, volts, counter and hertz since the run began, and the energy so far.

    Attributes:
        highest_w: the highest power so far.
    """

    def __init__(self) -> None:
        self._capacity = 4096
        self._data = np.full((len(_SHOWN) + 2, self._capacity), np.nan)
        self._size = 0
        self._first_s = 0.0
        self._unchanged_from = 0
        self.highest_w = 0.0

    def __len__(self) -> int:
        return self._size

    def clear(self) -> None:
        """Forget every sample."""
        self._size = 0
        self._unchanged_from = 0
        self.highest_w = 0.0

    def restore(self, trace: Trace, first_s: float) -> None:
        """Take over what was recorded before; ``first_s`` is its first time as recorded."""
        self.add(SampleBlock(time_s=trace.time_s + first_s, columns=trace.columns))

    def add(self, block: SampleBlock) -> None:
        """Append samples in order; times become s from the first sample."""
        count = block.time_s.size
        if not count:
            return
        if self._size == 0:
            self._first_s = float(block.time_s[0])
        while self._size + count > self._capacity:
            self._data = np.concatenate([self._data, np.full_like(self._data, np.nan)], axis=1)
            self._capacity *= 2
        rows = slice(self._size, self._size + count)
        self._data[0, rows] = block.time_s - self._first_s
        for row, quantity in enumerate(_SHOWN, start=1):
            self._data[row, rows] = block.columns.get(quantity, np.nan)
        self._size += count
        self.highest_w = max(
            self.highest_w, float(np.fmax.reduce(self._data[1, rows], initial=0.0))
        )
        self._sum_up(rows)
        self._look_for_changes(rows)

    @property
    def time_s(self) -> FloatArray:
        """(n,) s from the first sample."""
        return self._data[0, : self._size]

    def column(self, quantity: Quantity) -> FloatArray:
        """(n,) of one of the shown quantities, NaN where the meter gives none."""
        return self._data[1 + _SHOWN.index(quantity), : self._size]

    @property
    def energy_wh(self) -> FloatArray:
        """(n,) Wh delivered so far: by counter where there is one, else by trapezoid."""
        return self._data[-1, : self._size]

    @property
    def total_wh(self) -> float:
        """Energy up to the newest sample; 0 before the first."""
        return float(self.energy_wh[-1]) if self._size else 0.0

    def latest(self, quantity: Quantity) -> float | None:
        """The newest value, None where there is none."""
        if not self._size:
            return None
        value = float(self.column(quantity)[-1])
        return value if np.isfinite(value) else None

    def recent_mean_w(self) -> float:
        """Mean power over the last two minutes; 0 before the first sample."""
        if not self._size:
            return 0.0
        start = int(np.searchsorted(self.time_s, self.time_s[-1] - RECENT_S))
        power = self.column(Quantity.POWER)[start:]
        power = power[np.isfinite(power)]
        return float(np.mean(power)) if power.size else 0.0

    def unchanged_s(self) -> float:
        """How long every value has been the newest one, looking back over ten minutes."""
        if not self._size:
            return 0.0
        earliest = int(np.searchsorted(self.time_s, self.time_s[-1] - UNCHANGED_S))
        return float(self.time_s[-1] - self.time_s[max(self._unchanged_from, earliest)])

    def _look_for_changes(self, rows: slice) -> None:
        """Remember where the values of the newest sample began."""
        start = max(rows.start - 1, 0)
        values = self._data[1:-1, start : rows.stop]
        before, after = values[:, :-1], values[:, 1:]
        same = (before == after) | (np.isnan(before) & np.isnan(after))
        changed = np.flatnonzero(~same.all(axis=0))
        if changed.size:
            self._unchanged_from = start + 1 + int(changed[-1])

    def _sum_up(self, rows: slice) -> None:
        """Carry the energy on over the new samples."""
        start = max(rows.start - 1, 0)
        time_s = self._data[0, start : rows.stop]
        before = float(self._data[-1, start]) if rows.start else 0.0
        power = self._data[1, start : rows.stop]
        power = np.where(np.isfinite(power), power, 0.0)
        counter = self._data[1 + _SHOWN.index(Quantity.ENERGY), start : rows.stop]
        if np.isfinite(counter).all():
            joined = join_counter(time_s, counter, (time_s, power))
            total = before + joined.energy_wh
        else:
            total = before + cumulative_wh(time_s, power)
        self._data[-1, rows] = total if rows.start == 0 else total[1:]
