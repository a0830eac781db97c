"""What a discharge planned with these choices will be, and what stands against it."""

from dataclasses import dataclass

from yardtoll.core.figures import format_span
from yardtoll.core.forecast import Forecast, expected_delivery_wh, forecast_end
from yardtoll.store.records import SIMULATED, Load, Meter, Station

HOT_METER_SHARE = 0.8


@dataclass(frozen=True)
class Check:
    """One line before the start; ``stops`` says that it must not begin like this."""

    text: str
    stops: bool = False
    good: bool = False


@dataclass(frozen=True, kw_only=True)
class PlannedRun:
    """The foreseen run; None where a choice is missing."""

    forecast: Forecast | None
    c_rate: float | None
    expected_wh: float | None
    checks: tuple[Check, ...]

    @property
    def can_start(self) -> bool:
        """Whether nothing stops the start."""
        return self.forecast is not None and not any(check.stops for check in self.checks)

    @property
    def sentence(self) -> str:
        """The finding as a headline."""
        if self.forecast is None:
            return "What would you like to run?"
        return f"About {format_span(self.forecast.remaining_s)} to empty"


def plan_discharge(
    station: Station | None,
    load: Load | None,
    meter: Meter | None,
    soc: tuple[float, float],
    earlier_wh: tuple[float, ...],
    *,
    busy: bool = False,
    read_only: bool = False,
) -> PlannedRun:
    """Foresee a discharge to empty.

    Args:
        soc: % at start and end.
        earlier_wh: delivered in this station's earlier whole discharges.
        busy: another run is going.
        read_only: the yard may not be changed here.
    """
    checks = list(_missing(station, load, meter, busy=busy, read_only=read_only))
    if soc[0] <= soc[1]:
        checks.append(Check("The state of charge must fall: from above to.", stops=True))
    if station is None or load is None or soc[0] <= soc[1]:
        return PlannedRun(forecast=None, c_rate=None, expected_wh=None, checks=tuple(checks))
    expected, half, basis = expected_delivery_wh(
        station.rated_wh, (soc[0] - soc[1]) / 100, earlier_wh
    )
    forecast = forecast_end(
        expected_wh=expected,
        half_width_wh=half,
        delivered_wh=0.0,
        mean_w=load.watts,
        basis=basis,
    )
    checks += _ratings(station, load, meter)
    return PlannedRun(
        forecast=forecast,
        c_rate=load.watts / station.rated_wh,
        expected_wh=expected,
        checks=tuple(checks),
    )


def _missing(
    station: Station | None,
    load: Load | None,
    meter: Meter | None,
    *,
    busy: bool,
    read_only: bool,
) -> list[Check]:
    checks = []
    if station is None:
        checks.append(Check("Add the station that is to be tested.", stops=True))
    if load is None:
        checks.append(Check("Add a load: a heater setting, a lamp, anything with known W.", True))
    if meter is None:
        checks.append(Check("Add a meter: it sits between the outlet and the load.", stops=True))
    elif not meter.address:
        checks.append(Check(f"{meter.name} has no address: it cannot be read live.", stops=True))
    if busy:
        checks.append(Check("Another run is going; one at a time.", stops=True))
    if read_only:
        checks.append(Check("This yard is open in another window and only shown here.", True))
    return checks


def _ratings(station: Station, load: Load, meter: Meter | None) -> list[Check]:
    """Does the load fit the station and the meter?"""
    checks = []
    if load.watts > station.rated_w:
        checks.append(
            Check(
                f"{load.watts:g} W is above the station's rated {station.rated_w:g} W: it would "
                "trip, and this is no capacity test.",
                stops=True,
            )
        )
    else:
        share = load.watts / station.rated_w
        checks.append(Check(f"Load is {share:.0%} of the station's rated W.", good=True))
    if meter is not None and meter.max_w:
        share = load.watts / meter.max_w
        if share > 1:
            checks.append(
                Check(
                    f"{load.watts:g} W is above what {meter.name} may carry ({meter.max_w:g} W): "
                    "meters have burnt this way.",
                    stops=True,
                )
            )
        elif share > HOT_METER_SHARE:
            checks.append(
                Check(f"Load is {share:.0%} of what {meter.name} may carry: feel if it gets hot.")
            )
        else:
            checks.append(Check(f"Load is {share:.0%} of what the meter may carry.", good=True))
    if meter is not None and meter.address == SIMULATED:
        checks.append(Check("Simulated bench: nothing real is switched.", good=True))
    return checks
