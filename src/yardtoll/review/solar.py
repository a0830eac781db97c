"""A solar run with the yard's panels and site: what the sun allowed, and what came of it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import FloatArray, Trace
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.planning.inputs import claimed
from yardtoll.core.sun.allowed import SunSeen
from yardtoll.core.sun.irradiance import in_watts
from yardtoll.core.sun.panels import CLOSE_TO_GROUND, OPEN_RACK, SunArray
from yardtoll.core.sun.seen import SensorPlane, sun_of_sensor, sun_seen
from yardtoll.core.sun.sky import Obstacle, SunSite
from yardtoll.core.sun.solar_run import SolarRun, analyse_solar, solar_samples
from yardtoll.store.packed import unpack
from yardtoll.store.records import SENSOR_SHARE, Reading, ReadingKind, Run, Site, SolarArray
from yardtoll.store.yard_file import YardFile

ARRAYS = "arrays"
"""In a run's conditions: ids of the arrays that fed it."""
SENSOR_LOG = "irradiance"
"""In a run's conditions: a logger's file, {"name", "time_s", "w_m2"}, s from the start."""
SENSOR_PLANE = "irradiance_plane"
"""In a run's conditions: how its irradiance sensor lay, "poa" or "ghi"."""
_USUAL_C = 20.0

Parts = list[tuple[SunSite, SunArray]]


@dataclass(frozen=True, kw_only=True, eq=False)
class SolarReview:
    """A solar run beside what it was made of.

    Attributes:
        arrays: that fed it; the first of the yard where the run names none.
        claimed_w: the most cautious claim of the input's watts; None without one.
        light: "sensor", "typed" or "clear sky"; "" where nothing tells the sun.
        missing: what would tell more, in a sentence; "" where nothing is missing.
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


def parts_of(site: Site, arrays: Sequence[SolarArray], cap_w: float | None = None) -> Parts:
    """Arrays as the core reasons about them; empty where the site has no place.

    Args:
        cap_w: what the station takes at most; held by the first.
    """
    if site.latitude is None or site.longitude is None:
        return []
    obstacles: tuple[Obstacle, ...] = ()
    if site.obstacle_height_deg > 0:
        obstacles = (
            Obstacle(
                from_deg=site.obstacle_from_deg,
                to_deg=site.obstacle_to_deg,
                height_deg=site.obstacle_height_deg,
            ),
        )
    return [
        (
            SunSite(
                latitude=site.latitude,
                longitude=site.longitude,
                tilt=array.tilt_deg,
                azimuth=array.azimuth_deg,
                altitude_m=site.altitude_m,
                horizon_deg=site.horizon_deg,
                obstacles=obstacles,
            ),
            sun_array(array, site, cap_w),
        )
        for array in arrays
    ]


def sun_array(array: SolarArray, site: Site, cap_w: float | None = None) -> SunArray:
    """One array's making of the light."""
    return SunArray(
        power_stc_w=array.power_stc_w,
        cap_w=cap_w,
        gamma=array.gamma,
        wiring_loss=array.wiring_loss,
        ambient_c=_USUAL_C if site.temperature_c is None else site.temperature_c,
        mount=CLOSE_TO_GROUND if array.on_ground else OPEN_RACK,
    )


def arrays_of(run: Run, arrays: Sequence[SolarArray]) -> tuple[SolarArray, ...]:
    """The arrays that a run names, or the yard's first."""
    named = run.conditions.get(ARRAYS)
    found = [a for a in arrays if isinstance(named, list) and a.id in named]
    return tuple(found or arrays[:1])


def review_solar(
    yard: YardFile, run: Run, trace: Trace | None, readings: Sequence[Reading]
) -> SolarReview | None:
    """What a solar run came to; None for a log without watts."""
    if trace is None:
        return None
    arrays = arrays_of(run, yard.arrays())
    claims = [stored.claim for stored in yard.claims(run.station_id)]
    try:
        return _reviewed(run, trace, readings, yard.site(), arrays, claims)
    except UnusableDataError:
        # The recharge says what is wrong with the log; the sun has nothing to add.
        return None


def _reviewed(
    run: Run,
    trace: Trace,
    readings: Sequence[Reading],
    site: Site,
    arrays: tuple[SolarArray, ...],
    claims: Sequence[Claim],
) -> SolarReview:
    kind = "combined_in_w" if run.method == "recharge_wall_sun" else "solar_w"
    cap_w = claimed(claims, kind)
    time_s, _ = solar_samples(trace)
    began_s = datetime.fromisoformat(run.started_at).timestamp()
    light, source = _light(run, trace, time_s, readings)
    lay = run.conditions.get(SENSOR_PLANE)
    plane = SensorPlane.LEVEL if lay == SensorPlane.LEVEL.value else SensorPlane.PANELS
    seen, missing = _seen(site, arrays, began_s + time_s, light, plane)
    watts = sum(array.power_stc_w for array in arrays) or float(
        max(np.nanmax(trace.columns[Quantity.POWER]), 1.0)
    )
    return SolarReview(
        run=analyse_solar(trace, seen, watts, cap_w),
        arrays=arrays,
        claimed_w=cap_w,
        light="" if seen is None else source if seen.measured else "clear sky",
        missing=missing,
        sensor_share=site.sensor_share,
    )


def _seen(
    site: Site,
    arrays: tuple[SolarArray, ...],
    clock_s: FloatArray,
    light: FloatArray | None,
    plane: SensorPlane,
) -> tuple[SunSeen | None, str]:
    """What the sun allowed, and what is missing to tell it better."""
    if not arrays:
        return None, "Which panels were they? Add the array, and the sun can be worked out."
    parts = parts_of(site, arrays)
    if parts:
        return sun_seen(parts, clock_s, light, plane), ""
    missing = "Where does the bench stand? With latitude and longitude the clear sky is known."
    if light is not None and plane is SensorPlane.PANELS:
        return sun_of_sensor(sun_array(arrays[0], site), clock_s, light), missing
    return None, missing


def _light(
    run: Run, trace: Trace, time_s: FloatArray, readings: Sequence[Reading]
) -> tuple[FloatArray | None, str]:
    """(n,) W/m² by a logger beside the run, by the log's own sensor, or between typed readings."""
    beside = _beside(run, time_s)
    if beside is not None:
        return beside, "sensor"
    logged = trace.columns.get(Quantity.IRRADIANCE)
    if logged is not None:
        powered = np.isfinite(trace.columns[Quantity.POWER])
        watts, _ = in_watts(logged[powered], "irradiance")
        if np.isfinite(watts).any():
            return watts, "sensor"
    typed = [(r.time_s, r.value) for r in readings if r.kind == ReadingKind.IRRADIANCE.value]
    if len(typed) < 2:
        return None, ""
    at, values = (np.array(column) for column in zip(*sorted(typed), strict=True))
    light = _between(time_s, at, values)
    return (light, "typed") if light is not None else (None, "")


def _beside(run: Run, time_s: FloatArray) -> FloatArray | None:
    """A logger's own file that was laid beside the run; None without, or where it does not fit."""
    kept = run.conditions.get(SENSOR_LOG)
    if not isinstance(kept, dict):
        return None
    try:
        at, values = unpack(kept["time_s"]), unpack(kept["w_m2"])
    except (KeyError, TypeError, ValueError):
        return None
    if at.shape != values.shape or at.size < 2 or not np.isfinite(values).all():
        return None
    return _between(time_s, at, values)


def _between(time_s: FloatArray, at: FloatArray, values: FloatArray) -> FloatArray | None:
    """By straight lines; before the first and after the last nothing is known of the sky."""
    light = np.interp(time_s, at, values)
    light[(time_s < at[0]) | (time_s > at[-1])] = np.nan
    return light if np.count_nonzero(np.isfinite(light)) > 1 else None
