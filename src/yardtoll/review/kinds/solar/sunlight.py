"""A solar run with the yard's panels and site: what the sun allowed, and what came of it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.roles import Role
from yardtoll.core.electrical.trace import FloatArray, Trace
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.planning.inputs import claimed
from yardtoll.core.sun.allowed import AvailablePower
from yardtoll.core.sun.available import SensorPlane, available_by_sensor, available_power
from yardtoll.core.sun.irradiance import in_watts
from yardtoll.core.sun.solar_run import SolarRun, analyse_solar, solar_samples
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.sun.arrays import parts_of, sun_array
from yardtoll.store.records import SENSOR_SHARE, ReadingKind, Run, Site, SolarArray


@dataclass(frozen=True, kw_only=True, eq=False)
class Sunlight:
    """A solar run beside what it was made of.

    Attributes:
        arrays: that fed it; the first of the yard where the run names none.
        claimed_w: the most cautious claim of the input's watts; None without one.
        light: "sensor", "typed" or "clear sky"; "" where the sun is not known.
        missing: what would give more, in a sentence; "" where nothing is missing.
        sensor_share: limit ± of the irradiance sensor's class.
    """

    run: SolarRun
    arrays: tuple[SolarArray, ...]
    claimed_w: float | None
    light: str
    missing: str
    sensor_share: float = SENSOR_SHARE

    @property
    def array_w(self) -> float:
        """Nameplate of all arrays."""
        return sum(array.power_stc_w for array in self.arrays)


def arrays_of(run: Run, arrays: Sequence[SolarArray]) -> tuple[SolarArray, ...]:
    """The arrays that a run names, or the yard's first."""
    named = run.conditions.arrays
    return tuple([a for a in arrays if a.id in named] or arrays[:1])


def sunlight_of(run: RunAnalysis) -> Sunlight | None:
    """What the sun allowed a solar run; None for a log without watts."""
    trace, records = run.trace, run.records
    site, method = records.site, run.method
    if trace is None or site is None or method.source is None:
        return None
    arrays = arrays_of(records.run, records.arrays)
    cap_w = claimed(records.claims, method.source.watts)
    try:
        time_s, _ = solar_samples(trace)
        began_s = datetime.fromisoformat(records.run.started_at).timestamp()
        light, source = _light(run, trace, time_s)
        plane = (
            SensorPlane.LEVEL
            if records.run.conditions.sensor_plane == SensorPlane.LEVEL.value
            else SensorPlane.PANELS
        )
        available, missing = _available(site, arrays, began_s + time_s, light, plane)
        watts = sum(array.power_stc_w for array in arrays) or float(
            max(np.nanmax(trace.columns[Quantity.POWER]), 1.0)
        )
        return Sunlight(
            run=analyse_solar(trace, available, watts, cap_w),
            arrays=arrays,
            claimed_w=cap_w,
            light="" if available is None else source if available.measured else "clear sky",
            missing=missing,
            sensor_share=site.sensor_share,
        )
    except UnusableDataError:
        # The charge says what is wrong with the log; the sun has nothing to add.
        return None


def _available(
    site: Site,
    arrays: tuple[SolarArray, ...],
    clock_s: FloatArray,
    light: FloatArray | None,
    plane: SensorPlane,
) -> tuple[AvailablePower | None, str]:
    """What the sun allowed, and what would give it better."""
    if not arrays:
        return None, "Which panels were they? Add the array, and the sun can be worked out."
    parts = parts_of(site, arrays)
    if parts:
        return available_power(parts, clock_s, light, plane), ""
    missing = "Where is the bench? With latitude and longitude the clear sky is known."
    if light is not None and plane is SensorPlane.PANELS:
        return available_by_sensor(sun_array(arrays[0], site), clock_s, light), missing
    return None, missing


def _light(run: RunAnalysis, trace: Trace, time_s: FloatArray) -> tuple[FloatArray | None, str]:
    """(n,) W/m² by a logger's own recording, by the log's sensor, or between typed readings."""
    logger = _by_logger(run, time_s)
    if logger is not None:
        return logger, "sensor"
    logged = trace.columns.get(Quantity.IRRADIANCE)
    if logged is not None:
        powered = np.isfinite(trace.columns[Quantity.POWER])
        watts, _ = in_watts(logged[powered], "irradiance")
        if np.isfinite(watts).any():
            return watts, "sensor"
    typed = [(r.time_s, r.value) for r in run.records.readings_of(ReadingKind.IRRADIANCE)]
    if len(typed) < 2:
        return None, ""
    at, values = (np.array(column) for column in zip(*sorted(typed), strict=True))
    light = _between(time_s, at, values)
    return (light, "typed") if light is not None else (None, "")


def _by_logger(run: RunAnalysis, time_s: FloatArray) -> FloatArray | None:
    """An irradiance logger's recording; None without, or where it does not overlap the run."""
    loggers = [r for r in run.recorded if r.record.role == Role.IRRADIANCE.value]
    if not loggers:
        return None
    at, values = loggers[-1].trace.valid(Quantity.IRRADIANCE)
    if at.size < 2:
        return None
    return _between(time_s, at + loggers[-1].record.offset_s, values)


def _between(time_s: FloatArray, at: FloatArray, values: FloatArray) -> FloatArray | None:
    """By straight lines; before the first and after the last nothing is known of the sky."""
    light = np.interp(time_s, at, values)
    light[(time_s < at[0]) | (time_s > at[-1])] = np.nan
    return light if np.count_nonzero(np.isfinite(light)) > 1 else None
