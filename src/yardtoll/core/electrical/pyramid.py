"""Lowest and highest values of a long trace at ever coarser steps, to draw any part of it at once.

A picture has a thousand columns, a day at 10 Hz nearly a million samples. Each level holds the
lowest and the highest of some values of the level below; a part is drawn from the level that has a
few of them a column, so that no peak is lost and the work does not depend on how much is shown.
"""

import numpy as np

from yardtoll.core.electrical.trace import FloatArray

_STEP = 8
"""Values of one level that make one of the next."""
_LEAST = 64
"""A level of fewer is not worth a coarser one."""


class Pyramid:
    """A trace's levels; grows with a run in progress."""

    def __init__(self, time_s: FloatArray, values: FloatArray) -> None:
        self._time_s = np.empty(0)
        self._values = np.empty(0)
        self._levels: list[_Level] = []
        self.extend(time_s, values)

    def extend(self, time_s: FloatArray, values: FloatArray) -> None:
        """The whole trace again, longer by some samples; those before are the same.

        Args:
            time_s: (n,) s, rising.
            values: (n,), NaN where there is none.
        """
        self._time_s, self._values = time_s, values
        low = high = values
        for number in range(64):
            if low.size < _STEP * _LEAST:
                break
            if number == len(self._levels):
                self._levels.append(_Level())
            low, high = self._levels[number].follow(low, high)

    @property
    def size(self) -> int:
        """How many samples it has."""
        return self._time_s.size

    @property
    def last_s(self) -> float:
        """Time of the last sample; 1 of none."""
        return float(self._time_s[-1]) if self._time_s.size else 1.0

    @property
    def highest(self) -> float:
        """The highest value; 0 of none."""
        level = self._levels[-1] if self._levels else None
        rest = self._values
        top = np.nan
        if level is not None:
            done = level.high.size * _STEP ** len(self._levels)
            rest = self._values[done:]
            top = np.fmax.reduce(level.high) if level.high.size else np.nan
        found = np.fmax(top, np.fmax.reduce(rest) if rest.size else np.nan)
        return float(found) if np.isfinite(found) else 0.0

    def samples(self, low_s: float, high_s: float, most: int) -> tuple[FloatArray, FloatArray]:
        """The samples themselves within a span, every so-manieth where there are more than asked.

        Returns:
            (n,) s and (n,) values, n ≤ most.
        """
        first = int(np.searchsorted(self._time_s, low_s, "left"))
        last = int(np.searchsorted(self._time_s, high_s, "right"))
        step = max(1, -(-(last - first) // most))
        return self._time_s[first:last:step], self._values[first:last:step]

    def between(self, low_s: float, high_s: float, columns: int) -> tuple[FloatArray, FloatArray]:
        """What to draw of a part: its samples, or lowest and highest in turn where they are many.

        Args:
            columns: of the picture; each gets at most one pair.

        Returns:
            (m,) s and (m,) values, a little more than the part on each side where there is more.
        """
        size = self._time_s.size
        first = max(int(np.searchsorted(self._time_s, low_s, "left")) - 1, 0)
        last = min(int(np.searchsorted(self._time_s, high_s, "right")) + 1, size)
        columns = max(columns, 1)
        level = 0
        # Of a level with many steps a column: then nearly each column gets a pair of its own.
        while level < len(self._levels) and last - first >= columns * _STEP ** (level + 2):
            level += 1
        together = -(-(last - first) // (columns * _STEP**level))
        if level == 0 and together <= 2:
            return self._time_s[first:last], self._values[first:last]
        # Steps begin at the same samples wherever the part begins: what is drawn does not flicker.
        width = together * _STEP**level
        low, high = (
            (self._levels[level - 1].low, self._levels[level - 1].high)
            if level
            else (self._values, self._values)
        )
        begin, end = first // width, min(-(-last // width), low.size // together)
        rows = slice(begin * together, max(end, begin) * together)
        lows = np.fmin.reduce(low[rows].reshape(-1, together), axis=1)
        highs = np.fmax.reduce(high[rows].reshape(-1, together), axis=1)
        at = self._time_s[begin * width : max(end, begin) * width : width]
        rest = self._values[max(end, begin) * width : last]
        if rest.size:  # the end of the trace fills no whole step
            at = np.append(at, self._time_s[max(end, begin) * width])
            lows = np.append(lows, np.fmin.reduce(rest))
            highs = np.append(highs, np.fmax.reduce(rest))
        return np.repeat(at, 2), np.stack([lows, highs], axis=1).ravel()


class _Level:
    """Lowest and highest of each step of the level below, grown in place."""

    def __init__(self) -> None:
        self._data = np.empty((2, 256))
        self._size = 0

    @property
    def low(self) -> FloatArray:
        return self._data[0, : self._size]

    @property
    def high(self) -> FloatArray:
        return self._data[1, : self._size]

    def follow(self, low: FloatArray, high: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Add the steps that are whole now."""
        whole = low.size // _STEP
        if whole > self._data.shape[1]:
            grown = np.empty((2, max(whole, 2 * self._data.shape[1])))
            grown[:, : self._size] = self._data[:, : self._size]
            self._data = grown
        if whole > self._size:
            part = slice(self._size * _STEP, whole * _STEP)
            # A step of no values stays without one: a gap of the trace is one of the picture.
            new = slice(self._size, whole)
            np.fmin.reduce(low[part].reshape(-1, _STEP), axis=1, out=self._data[0, new])
            np.fmax.reduce(high[part].reshape(-1, _STEP), axis=1, out=self._data[1, new])
            self._size = whole
        return self.low, self.high
