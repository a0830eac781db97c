"""The forecast of the run in progress, and whether the run follows it."""

import numpy as np

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.formatting import format_span
from yardtoll.core.live.forecast import Forecast, forecast_end
from yardtoll.core.live.run_watch import END_READING_S, LOAD_SEEN_W, Alarm, LiveState, alarms
from yardtoll.core.methods import METHODS, Outlet
from yardtoll.core.planning.expected import (
    TYPICAL_CHARGE_C,
    EarlierRun,
    expected_delivery_wh,
    expected_recharge,
)
from yardtoll.running.live_samples import LiveSamples
from yardtoll.store.records import TYPED, Meter, Reading, ReadingKind, Run, Station
from yardtoll.store.yard_file import YardFile

TYPICAL_TARGET_C = 0.2


class Outlook:
    """Forecast and watch of one run, from its samples and readings so far.

    Args:
        samples: grows during the run.
    """

    def __init__(
        self,
        yard: YardFile,
        run: Run,
        samples: LiveSamples,
    ) -> None:
        assert run.id is not None
        self._yard = yard
        self._run = run
        self._run_id = run.id
        self._samples = samples
        self._on_s: float | None = None
        self._method = METHODS[run.method]
        self._station = yard.get(Station, run.station_id)
        self._meter = yard.get(Meter, run.meter_id or 0)
        self._size = self._method.size(run.conditions.size)
        self.hold_s = self._size.hold_s
        self.expect_from(())
        self._nominal_v = next(
            (c.value for c in yard.claims(run.station_id) if c.kind == "ac_v" and c.value), None
        )

    def expect_from(self, earlier: tuple[EarlierRun, ...]) -> None:
        """Predict from these runs of the station; their results may come when it has begun."""
        self.expected = self._expect(earlier)

    def _expect(self, earlier: tuple[EarlierRun, ...]) -> tuple[float, float, str]:
        """Wh to the end, half the width of their band, and what they rest on."""
        run, rated_wh = self._run, self._station.rated_wh
        window = abs(run.soc_from - run.soc_to) / 100
        if self._method.charges:
            watts = run.target_w or TYPICAL_CHARGE_C * rated_wh
            found = expected_recharge(rated_wh, window, watts)
            return found.energy_wh, found.half_width_wh, found.basis
        watts = run.target_w or TYPICAL_TARGET_C * rated_wh
        return expected_delivery_wh(rated_wh, window, watts, earlier)

    def forecast(self, elapsed_s: float) -> Forecast | None:
        """When the run will end; None before there is a load."""
        if self._method.is_timed and self.hold_s is not None:
            return self._forecast_of_hold(elapsed_s, self.hold_s)
        expected, half, basis = self.expected
        return forecast_end(
            expected_wh=expected,
            half_width_wh=half,
            delivered_wh=self._samples.total_wh,
            mean_w=self._samples.recent_mean_w(),
            basis=basis,
            display_soc=self._display_soc(),
        )

    def _forecast_of_hold(self, elapsed_s: float, hold_s: float) -> Forecast | None:
        """A set time from load-on; None before there is a load."""
        on_s = self._load_on_s()
        if on_s is None:
            return None
        left_s = max(on_s + hold_s - elapsed_s, 0.0)
        return Forecast(
            remaining_s=left_s,
            earliest_s=left_s,
            latest_s=left_s,
            basis=f"held for {format_span(hold_s)}",
        )

    def is_held(self) -> bool:
        """Whether a run of a set time has had it."""
        on_s = self._load_on_s() if self.hold_s else None
        if on_s is None or not self.hold_s or not len(self._samples):
            return False
        return bool(self._samples.time_s[-1] >= on_s + self.hold_s)

    def is_idle_over(self, now_s: float) -> bool:
        """Whether an idle test read by eye has had its time, and its last look at the display."""
        if not (self._method.rests and self.hold_s) or now_s < self.hold_s:
            return False
        shown = self._readings(ReadingKind.SOC)
        return len(shown) > 1 and shown[-1].time_s >= self.hold_s - END_READING_S

    def watch(self, elapsed_s: float, *, answering: bool) -> list[Alarm]:
        """What is not as it should be now, the most urgent first."""
        inputs = self._readings(ReadingKind.INPUT_W)
        shown = self._readings(ReadingKind.SOC)
        unbound = self._method.may_exceed_rating or not self._method.delivers
        return alarms(
            LiveState(
                flow=self._method.flow.value,
                answering=answering,
                power_w=self._samples.latest(Quantity.POWER),
                volts=self._samples.latest(Quantity.VOLTS),
                elapsed_s=elapsed_s,
                delivered_wh=self._samples.total_wh,
                target_w=self._set_w(),
                rated_w=float("inf") if unbound else self._station.rated_w,
                nominal_v=None if self._method.outlet is Outlet.DC else self._nominal_v,
                meter_w=self._meter.max_w,
                soc=[reading.value for reading in shown],
                hold_s=self.hold_s,
                soc_s=shown[-1].time_s if shown else None,
                input_w=inputs[-1].value if inputs else None,
                unchanged_s=0.0 if self._run.origin == TYPED else self._samples.unchanged_s(),
            )
        )

    def full_shown(self) -> bool:
        """Whether the display was read at the charge that a recharge aims at."""
        soc = self._readings(ReadingKind.SOC)
        return bool(soc) and soc[-1].value >= self._run.soc_to

    def soc_at_end(self) -> float | None:
        """What the display says at the end, by the readings typed so far."""
        display = self._display_soc()
        return display[1] if display is not None else None

    def noted_floor(self) -> float:
        """The discharge floor that was noted, in %; the end of the window where none was."""
        try:
            return max(float(self._run.conditions.floor), self._run.soc_to)
        except ValueError:
            return self._run.soc_to

    def _set_w(self) -> float | None:
        """W that were asked for: the loads', or those a charger was set to."""
        return self._run.target_w if self._method.delivers or self._size.asks_w else None

    def _load_on_s(self) -> float | None:
        """The first sample under load; the first of all where none is meant."""
        if self._method.rests:
            by_eye = self._run.origin == TYPED
            return 0.0 if by_eye or len(self._samples) else None
        if self._on_s is None:
            loaded = self._samples.column(Quantity.POWER) > LOAD_SEEN_W
            if loaded.any():
                self._on_s = float(self._samples.time_s[int(loaded.argmax())])
        return self._on_s

    def _display_soc(self) -> tuple[float, float, float] | None:
        """First SOC, latest SOC and Wh between, from typed readings."""
        typed = self._readings(ReadingKind.SOC)
        if len(typed) < 2:
            return None
        first, last = typed[0], typed[-1]
        samples = self._samples
        at = np.interp([first.time_s, last.time_s], samples.time_s, samples.energy_wh)
        # The latest reading is older than this moment: what was delivered since is gone from it.
        per_point = (at[1] - at[0]) / (first.value - last.value) if first.value > last.value else 0
        since = (samples.total_wh - at[1]) / per_point if per_point > 0 else 0.0
        return first.value, max(last.value - since, 0.0), float(samples.total_wh - at[0])

    def _readings(self, kind: ReadingKind) -> list[Reading]:
        return [r for r in self._yard.readings(self._run_id) if r.kind == kind.value]
