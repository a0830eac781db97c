"""A meter's own time, carried on where the meter restarts and begins at zero again."""

import numpy as np

from yardtoll.core.electrical.trace import FloatArray


class MeterTime:
    """Places the times of blocks one after the other.

    Args:
        last_s: time of the newest sample there is already; None for a new recording.
        at_s: when that sample was taken, on the clock that ``place`` is given.
    """

    def __init__(self, last_s: float | None = None, at_s: float = 0.0) -> None:
        self._last_s = last_s
        self._at_s = at_s
        self._shift_s = 0.0

    def place(self, time_s: FloatArray, now_s: float) -> tuple[FloatArray, float]:
        """Times that go on from the block before.

        Where the meter's time falls, its newest sample is taken for one of this moment: so long
        after the block before as has passed since.

        Args:
            time_s: (n,) s on the meter's time, n ≥ 1, finite.
            now_s: this moment, s on a clock that nobody sets.

        Returns:
            The (n,) s, and the s that the meter was away for; 0 where it did not restart.
        """
        placed, away_s = time_s + self._shift_s, 0.0
        falls = np.flatnonzero(placed[1:] < placed[:-1]) + 1
        begins_early = self._last_s is not None and placed[0] < self._last_s
        if begins_early or falls.size:
            start = int(falls[-1]) if falls.size else 0
            before_s = float(placed[start - 1]) if start else float(self._last_s or 0.0)
            newest_s = before_s
            if self._last_s is not None:
                newest_s = max(before_s, self._last_s + now_s - self._at_s)
            length_s = float(placed[-1] - placed[start])
            # It cannot have measured before the block before ended.
            begin_s = max(newest_s - length_s, before_s + _STEP_S)
            self._shift_s += begin_s - float(placed[start])
            placed = placed.copy()
            placed[start:] += begin_s - placed[start]
            away_s = begin_s - before_s
        self._last_s, self._at_s = float(placed[-1]), now_s
        return placed, away_s


_STEP_S = 0.001
