"""A day at 10 Hz analysed, and how that grows: with samples, and with passings over the sun."""

from datetime import UTC, datetime

import numpy as np
from rows import Row, at_most, median_ms, show

from yardtoll.core.charge.analysis import ChargeWindow, analyse_recharge
from yardtoll.core.discharge.analysis import Rating, analyse_discharge
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import ClockBasis, Trace

DAY = 864_000


def _trace(watts: np.ndarray, began_s: float | None = None, *, counted: bool = False) -> Trace:
    time_s = np.arange(watts.size) * 0.1
    random = np.random.default_rng(2)
    columns = {Quantity.POWER: watts, Quantity.VOLTS: 120 + random.normal(0, 0.2, watts.size)}
    if counted:
        columns[Quantity.ENERGY] = np.round(np.cumsum(watts) / 36_000, 2)
    basis = None if began_s is None else ClockBasis.UTC
    return Trace(name="day", time_s=time_s, columns=columns, clock_s=began_s, clock_basis=basis)


def _discharge(count: int, *, gaps: bool = False, counted: bool = False) -> Trace:
    random = np.random.default_rng(1)
    watts = np.where(np.arange(count) < 0.99 * count, 50 + random.normal(0, 0.2, count), 0.0)
    if gaps:
        watts[random.random(count) < 0.01] = np.nan
    return _trace(watts, counted=counted)


def _recharge(count: int, *, counted: bool = False) -> Trace:
    at = np.arange(count) / count
    random = np.random.default_rng(1)
    taper = 15 * np.exp(-(at - 0.7) * 14)
    watts = np.where(at < 0.7, 15 + random.normal(0, 0.1, count), taper)
    return _trace(watts, counted=counted)


def _sun(passings: int) -> tuple[Trace, object]:
    from yardtoll.core.sun.available import SensorPlane, available_power
    from yardtoll.core.sun.clear_day import free_power_w
    from yardtoll.core.sun.panels import SunArray
    from yardtoll.core.sun.sky import SunSite

    began_s = datetime(2026, 6, 21, 6, tzinfo=UTC).timestamp()
    site = SunSite(latitude=40, longitude=-100, tilt=35, azimuth=180)
    parts = [(site, SunArray(power_stc_w=400))]
    time_s, grid = np.arange(DAY) * 0.1, np.arange(0, 86_460, 60.0)
    clear = free_power_w(parts, began_s + grid)
    random = np.random.default_rng(1)
    light = np.ones(DAY)
    for start in np.linspace(6 * 36_000, 20 * 36_000, passings).astype(int):
        light[start : start + 200] = random.uniform(0.2, 0.6)
    free = np.interp(time_s, grid, clear) * light
    sun = available_power(parts, began_s + time_s, free / 0.4, SensorPlane.PANELS)
    watts = np.maximum(0.95 * free + random.normal(0, 0.2, DAY), 0)
    return _trace(watts, began_s), sun


def rows() -> list[Row]:
    """Times of a day, and laws of growth at three sizes."""
    import scipy.ndimage  # noqa: F401 - a window has it loaded long before

    from yardtoll.core.sun.solar_run import analyse_solar

    rating, window = Rating(rated_wh=1300), ChargeWindow(rated_wh=300)
    sizes = (DAY // 4, DAY // 2, DAY)

    def discharge_ms(trace: Trace) -> float:
        return median_ms(lambda one: analyse_discharge([one], rating), lambda: _again(trace))

    def recharge_ms(trace: Trace) -> float:
        return median_ms(lambda one: analyse_recharge(one, window), lambda: _again(trace))

    out = [discharge_ms(_discharge(n)) for n in sizes]
    into = [recharge_ms(_recharge(n)) for n in sizes]
    made = {p: _sun(p) for p in (10, 250, 1000)}
    sun = [median_ms(lambda p=p: analyse_solar(*made[p], 400.0)) for p in made]

    def law(name: str, values: list[float], size: str) -> Row:
        text = " / ".join(f"{v:.0f}" for v in values)
        return Row(name, f"{text} ms", f"linear, {size}", values[2] < 5 * max(values[0], 1))

    return [
        at_most("24 h at 10 Hz: discharge", out[2], 30, "ms", 0),
        at_most(
            "the same with 1 % of the samples missing",
            discharge_ms(_discharge(DAY, gaps=True)), 30, "ms", 0,
        ),
        at_most(
            "the same with an energy counter",
            discharge_ms(_discharge(DAY, counted=True)), 30, "ms", 0,
        ),
        at_most("24 h at 10 Hz: recharge", into[2], 35, "ms", 0),
        at_most(
            "a recharge with an energy counter",
            recharge_ms(_recharge(DAY, counted=True)), 35, "ms", 0,
        ),
        at_most("24 h at 10 Hz: solar, 250 passings", sun[1], 100, "ms", 0),
        law("discharge of 6, 12, 24 h", out, "in samples"),
        law("recharge of 6, 12, 24 h", into, "in samples"),
        law("solar with 10, 250, 1000 passings", sun, "in passings"),
    ]  # fmt: skip


def _again(trace: Trace) -> Trace:
    """Nothing of it is known from the time before."""
    return Trace(name=trace.name, time_s=trace.time_s, columns=trace.columns)


if __name__ == "__main__":
    show(rows())
