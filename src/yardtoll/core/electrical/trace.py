"""The trace: samples of one run, cleaned and in fixed units, and the notices made on the way."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.errors import UnusableDataError

FloatArray = NDArray[np.float64]


class Code(StrEnum):
    """Machine-readable names of notices; part of the command line's contract."""

    NO_CUTOFF = "no_cutoff"
    STARTS_LOADED = "starts_loaded"
    GAP = "gap"
    TIME_NOT_MONOTONIC = "time_not_monotonic"
    MISSING_VALUES = "missing_values"
    COUNTER_RESET = "counter_reset"
    COUNTER_DISAGREES = "counter_disagrees"
    ABOVE_RATED = "above_rated"
    DELIVERED_ABOVE_DRAWN = "delivered_above_drawn"
    READINGS_NOT_RISING = "readings_not_rising"
    ENDS_BELOW_START = "ends_below_start"
    NO_END = "no_end"
    INPUT_LOST = "input_lost"
    WINDOWS_DIFFER = "windows_differ"
    STORE_ABOVE_RATED = "store_above_rated"
    NOT_SEPARABLE = "not_separable"
    BOUND_REACHED = "bound_reached"
    POOR_FIT = "poor_fit"
    OVER_VOLTAGE_COLD = "over_voltage_cold"
    OVER_CURRENT = "over_current"
    OVER_POWER = "over_power"
    VOLTAGE_NEAR_LIMIT = "voltage_near_limit"
    NO_SUN = "no_sun"
    FACES_DOWN = "faces_down"
    IRRADIANCE_IN_KW = "irradiance_in_kw"
    DATE_NOT_USED = "date_not_used"
    NO_SITE = "no_site"
    VOLTS_AMPS_WITHOUT_PF = "volts_amps_without_pf"
    FROZEN = "frozen"
    RESTARTED = "restarted"
    SPIKE = "spike"
    NEGATIVE_POWER = "negative_power"
    SPARSE = "sparse"
    ON_CHANGE = "on_change"
    CLOCKS_DIFFER = "clocks_differ"
    NOT_SIDE_BY_SIDE = "not_side_by_side"
    END_NOT_SEEN = "end_not_seen"
    UNITS_SUSPECT = "units_suspect"
    DRAWN_TOO_LITTLE = "drawn_too_little"
    NOT_BRACKETED = "not_bracketed"
    CONVERSION_UNKNOWN = "conversion_unknown"
    IDLE_NOT_USED = "idle_not_used"
    STORE_MAY_VARY = "store_may_vary"
    UNCERTAINTY_EXCEEDS_TOLERANCE = "uncertainty_exceeds_tolerance"
    CLOCK_OR_AIM_WRONG = "clock_or_aim_wrong"
    FEW_CYCLES = "few_cycles"
    LOW_SAMPLE_RATE = "low_sample_rate"
    CLIPPED = "clipped"
    NOT_PERIODIC = "not_periodic"
    NO_EVENT = "no_event"
    STILL_DARK = "still_dark"
    TOO_SLOW_FOR_SURGE = "too_slow_for_surge"
    NO_STEADY_LOAD = "no_steady_load"
    BACKGROUND_TOO_CLOSE = "background_too_close"
    SINK_WAS_THE_LIMIT = "sink_was_the_limit"
    INRUSH_OVER_SURGE = "inrush_over_surge"


class ClockBasis(StrEnum):
    """What a trace's clock counts from."""

    UTC = "utc"
    """s since 1970 in UTC."""
    LOCAL = "local"
    """s since 1970 in a local time whose zone is not known."""
    TIME_OF_DAY = "time_of_day"
    """s since midnight of a day that is not known."""


@dataclass(frozen=True, kw_only=True)
class Notice:
    """Something the reader of a figure must know; never silently repaired."""

    code: Code
    message: str


@dataclass(frozen=True, kw_only=True)
class Trace:
    """Samples of one run.

    Attributes:
        name: What to call the trace in messages, such as the file's name.
        time_s: (n,) s from the first sample, strictly rising, finite, n ≥ 1.
        columns: quantity → (n,) values in that quantity's unit; NaN where one is missing.
        clock_s: Clock time of the first sample in s, None when the log carries only elapsed time.
        clock_basis: What ``clock_s`` counts from; only equal bases can be aligned.
        notices: What had to be repaired when the trace was made.

    Raises:
        UnusableDataError: the arrays do not fit together or time does not rise.
    """

    name: str
    time_s: FloatArray
    columns: Mapping[Quantity, FloatArray]
    clock_s: float | None = None
    clock_basis: ClockBasis | None = None
    notices: tuple[Notice, ...] = field(default=())
    _valid: dict[Quantity, tuple[FloatArray, FloatArray]] = field(
        init=False, default_factory=dict, repr=False, compare=False
    )
    _present: dict[Quantity, NDArray[np.bool_]] = field(
        init=False, default_factory=dict, repr=False, compare=False
    )

    def __post_init__(self) -> None:
        if self.time_s.ndim != 1 or self.time_s.size == 0:
            raise UnusableDataError(f"{self.name} holds no samples")
        rises = bool(np.all(self.time_s[1:] > self.time_s[:-1]))  # NaN is above nothing
        if not rises or not np.isfinite(self.time_s[[0, -1]]).all():
            raise UnusableDataError(f"{self.name}: the sample times do not rise")
        for quantity, values in self.columns.items():
            if values.shape != self.time_s.shape:
                raise UnusableDataError(
                    f"{self.name}: {quantity} has {values.size} values for {self.time_s.size} times"
                )

    def valid(self, quantity: Quantity) -> tuple[FloatArray, FloatArray]:
        """Times in s and values of ``quantity`` where it has one; both empty when it has none."""
        known = self._valid.get(quantity)
        if known is None:
            values = self.columns.get(quantity)
            if values is None:
                return np.empty(0), np.empty(0)
            present = np.isfinite(values)
            known = (self.time_s, values)
            if not present.all():
                known = (self.time_s[present], values[present])
                self._present[quantity] = present
            self._valid[quantity] = known
        return known

    def missing(self, quantity: Quantity) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """Samples without a value of ``quantity``, and for each the newest before it that has one.

        Those before the first value are given that one. The quantity has at least one value.
        """
        self.valid(quantity)
        present = self._present.get(quantity)
        if present is None:
            return np.empty(0, dtype=np.intp), np.empty(0, dtype=np.intp)
        missing = np.flatnonzero(~present)
        begins = np.flatnonzero(np.append(True, missing[1:] - missing[:-1] > 1))
        newest = np.repeat(missing[begins] - 1, np.diff(np.append(begins, missing.size)))
        newest[newest < 0] = present.argmax()
        return missing, newest
