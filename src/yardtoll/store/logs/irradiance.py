"""An irradiance logger's own file: times and W/m², to be laid beside a run."""

from dataclasses import dataclass
from pathlib import Path
from zoneinfo import ZoneInfo

import numpy as np

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import ClockBasis, FloatArray
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import quoted
from yardtoll.core.sun.irradiance import in_watts
from yardtoll.store.errors import LogError
from yardtoll.store.logs.columns import Mapped
from yardtoll.store.logs.read import OpenLog, Progress, numbers_of, open_log, times_of

MOST_KEPT = 5000
"""Minutes or seconds beyond this many are joined into means."""


@dataclass(frozen=True, kw_only=True)
class IrradianceLog:
    """A sensor's readings.

    Attributes:
        seconds: (n,) rising; since 1970, since midnight or since its start, by ``basis``.
        basis: None for elapsed time.
        w_m2: (n,) W/m².
        kilo: they were given in kW/m².
    """

    name: str
    seconds: FloatArray
    basis: ClockBasis | None
    w_m2: FloatArray
    kilo: bool


def read_irradiance(
    path: Path, zone: ZoneInfo | None = None, progress: Progress = lambda _: None
) -> IrradianceLog:
    """Read a file with a column of times and one of irradiance.

    Raises:
        LogError: the file cannot be read, or holds no irradiance.
    """
    log = open_log(path, progress)
    mapping = dict(log.guess)
    if Quantity.IRRADIANCE not in mapping:
        mapping[Quantity.IRRADIANCE] = _only_numbers(log)
    times = times_of(log, mapping, zone)
    try:
        watts, kilo = in_watts(
            numbers_of(log, Quantity.IRRADIANCE, mapping), mapping[Quantity.IRRADIANCE].column
        )
    except UnusableDataError as error:
        raise LogError(f"{log.name}: {error}") from None
    known = np.isfinite(times.seconds) & np.isfinite(watts)
    order = np.argsort(times.seconds[known], kind="stable")
    seconds, watts = times.seconds[known][order], watts[known][order]
    if seconds.size:
        rising = np.append(np.diff(seconds) > 0, True)
        seconds, watts = seconds[rising], watts[rising]
    if seconds.size < 2:
        raise LogError(f"{log.name} holds fewer than two readings of irradiance")
    seconds, watts = _thinned(seconds, watts)
    return IrradianceLog(name=log.name, seconds=seconds, basis=times.basis, w_m2=watts, kilo=kilo)


def _only_numbers(log: OpenLog) -> Mapped:
    """A file with one column of figures beside its times needs no heading to be understood."""
    guessed = log.guess.get(Quantity.POWER)
    if guessed is not None and not guessed.sure:
        return guessed
    names = ", ".join(quoted(name) for name in log.table.frame.columns[:8])
    raise LogError(
        f"{log.name}: none of the columns {names} is one of irradiance; call it irradiance, or "
        "give its unit, W/m²"
    )


def _thinned(seconds: FloatArray, watts: FloatArray) -> tuple[FloatArray, FloatArray]:
    """At most :data:`MOST_KEPT` means of equal stretches."""
    if seconds.size <= MOST_KEPT:
        return seconds, watts
    parts = np.array_split(np.arange(seconds.size), MOST_KEPT)
    return (
        np.array([float(seconds[part].mean()) for part in parts]),
        np.array([float(watts[part].mean()) for part in parts]),
    )
