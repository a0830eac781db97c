"""The demo's tests at the outlets: played on the simulated rig over its wires, and kept.

Fennel shares its USB watts, Tansy lowers its volts for heaters, and Sorrel's sine is none.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from math import log10

from yardtoll.bench.drivers.scpi_scope import ScpiScope
from yardtoll.bench.instruments import open_rig_scope
from yardtoll.bench.simulated.outlets import MODIFIED, OutletModel
from yardtoll.bench.simulated.overload import OverloadModel
from yardtoll.bench.simulated.rig import SimulatedRig
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.roles import Role
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.methods.appliances import METHOD as TRIED
from yardtoll.core.methods.heat_fans import METHOD as FELT
from yardtoll.core.methods.pass_through_steps import METHOD as PASSED
from yardtoll.core.methods.port_power import METHOD as PORTED
from yardtoll.core.methods.sound_level import METHOD as HEARD
from yardtoll.core.methods.transfer_time import METHOD as SWITCHES
from yardtoll.core.methods.waveform_ac import METHOD as WAVES
from yardtoll.core.output.entries import CAPTURE
from yardtoll.core.waveform.capture import Capture
from yardtoll.demo.content import FENNEL_OVERLOAD, PORT_METER, SCOPE, SITE, SOUND_METER
from yardtoll.store.records import Entry, Meter, Recording, Run, RunState, Station
from yardtoll.store.site_time import zone_of
from yardtoll.store.yard_file import YardFile

Line = tuple[dict[str, float | str], Capture | None]
"""The fields of a line, and the capture behind it; None for what was typed."""

RIGS: dict[str, OutletModel] = {
    "fennel": OutletModel(
        rated_w=2000,
        hertz=60.02,
        sag_ratio=0.012,
        thd_idle=0.009,
        thd_full=0.021,
        gap_ms=13.6,
        back_ms=3.1,
        ports={
            "USB-C 1": 100.4,
            "USB-C 2": 100.4,
            "USB-A 1": 12.7,
            "USB-A 2": 12.7,
            "USB-A 3": 12.7,
            "USB-A 4": 12.7,
        },
        shared_w=166.0,
        bypass_w=1440.0,
        charge_w=1385.0,
        overload=FENNEL_OVERLOAD,
        fan_db=47.0,
    ),
    "tansy": OutletModel(
        rated_w=1200,
        sag_ratio=0.018,
        thd_idle=0.012,
        thd_full=0.034,
        ports={"USB-C": 98.0, "USB-A 1": 18.0, "USB-A 2": 18.0},
        bypass_w=1200.0,
        charge_w=652.0,
        k_per_w=0.34,
        fan_db=43.0,
    ),
    "sorrel": OutletModel(
        rated_w=300,
        hertz=60.18,
        sag_ratio=0.05,
        shape=MODIFIED,
        duty=0.7,
        ports={"USB-C": 58.0, "USB-A 1": 11.5, "USB-A 2": 11.5},
        shared_w=65.0,
        overload=OverloadModel(for_ever=1.1, seconds_at_half_more=1.5, code="OL"),
        quiet_db=24.0,
        fan_db=39.0,
        fan_on_c=34.0,
        k_per_w=0.8,
    ),
}


@dataclass(frozen=True)
class DemoTest:
    """One test: which station, when, with what, and what is done on the rig."""

    station: str
    method: str
    days_ago: int
    hour: float
    play: Callable[["Rigged"], Iterator[Line]]
    meter: Meter | None = None


class Rigged:
    """A station on its rig, its scope open."""

    def __init__(self, rig: SimulatedRig, scope: ScpiScope) -> None:
        self.rig, self.scope = rig, scope

    def number(self, query: str) -> float:
        """What a meter of the rig says."""
        return float(self.scope.ask(query))

    def at(self, watts: float, minutes: float = 0.0) -> None:
        """Put a load on, and let time pass."""
        self.scope.tell(f"LOAD:POW {watts:g}")
        if minutes:
            self.scope.tell(f"CLOC:ADV {60 * minutes:g}")


def keep_tests(yard: YardFile, stations: Mapping[str, Station], today: date) -> None:
    """Play every test and keep it in the demo yard."""
    meters = {meter.name: meter for meter in yard.meters()}
    for number, test in enumerate(TESTS):
        station = stations[test.station]
        assert station.id is not None
        with SimulatedRig(RIGS[test.station], seed=400 + number) as rig:
            scope = open_rig_scope(rig)
            scope.open()
            scope.tell("SWE:TIME 0.2")
            scope.tell("SWE:POIN 4000")
            try:
                lines = list(test.play(Rigged(rig, scope)))
            finally:
                scope.close()
        meter = meters[test.meter.name] if test.meter is not None else None
        _keep(yard, test, station, meter, lines, today)


def _keep(
    yard: YardFile,
    test: DemoTest,
    station: Station,
    meter: Meter | None,
    lines: list[Line],
    today: date,
) -> None:
    day = today - timedelta(days=test.days_ago)
    start = datetime.combine(day, time(), zone_of(SITE)) + timedelta(hours=test.hour)
    begins = start.astimezone(UTC).isoformat(timespec="milliseconds")
    assert station.id is not None
    run = yard.put(
        Run(
            station_id=station.id,
            number=yard.next_number(station.id),
            method=test.method,
            state=RunState.FINISHED.value,
            origin="demo",
            started_at=begins,
            ended_at=(start + timedelta(minutes=20)).astimezone(UTC).isoformat(),
            meter_id=meter.id if meter is not None else None,
        )
    )
    assert run.id is not None
    for position, (fields, capture) in enumerate(lines, 1):
        made = dict(fields)
        if capture is not None:
            kept = yard.keep_recording(
                Recording(run_id=run.id, role=Role.WAVEFORM.value, instrument=SCOPE.name),
                _as_trace(f"capture {position}", capture),
            )
            made[CAPTURE] = float(kept.id or 0)
        yard.put(Entry(run_id=run.id, position=position, fields=made))


def _as_trace(name: str, capture: Capture) -> Trace:
    columns = {Quantity.VOLTS: capture.volts}
    if capture.amps is not None:
        columns[Quantity.AMPS] = capture.amps
    return Trace(name=name, time_s=capture.time_s, columns=columns)


# what is done


def _waves(*loads: float) -> Callable[[Rigged], Iterator[Line]]:
    def play(bench: Rigged) -> Iterator[Line]:
        for watts in loads:
            bench.at(watts)
            yield {"load_w": watts}, bench.scope.capture()

    return play


def _switches(bench: Rigged) -> Iterator[Line]:
    for watts in (0.0, 410.0, 1210.0):
        for way in ("to_battery", "to_wall"):
            bench.at(watts)
            bench.scope.tell(f"INP {'ON' if way == 'to_battery' else 'OFF'}")
            capture = bench.scope.capture(across_switch=True)
            yield {"way": way, "load_w": watts, "by": "scope"}, capture
    filmed: dict[str, float | str] = {"way": "to_battery", "load_w": 60.0, "by": "frames"}
    yield {**filmed, "frames_dark": 3.0, "fps": 240.0}, None
    for device, stayed in (("desktop computer", "on"), ("work lamp", "flickered")):
        typed: dict[str, float | str] = {"way": "to_battery", "load_w": 240.0, "by": "stayed_on"}
        yield {**typed, "device": device, "stayed": stayed}, None


def _ports(*sinks: tuple[str, float, str]) -> Callable[[Rigged], Iterator[Line]]:
    """Each alone, then one after another added; what each load could take is known."""

    def play(bench: Rigged) -> Iterator[Line]:
        def line(port: str, sink_w: float, sink: str, together: int) -> Line:
            watts = round(bench.number(f'MEAS:POW? "{port}"'), 1)
            known: dict[str, float | str] = {"port": port, "watts_w": watts, "sink": sink}
            return {**known, "sink_w": sink_w, "together": float(together)}, None

        for port, sink_w, sink in sinks:
            bench.scope.tell(f'LOAD:PORT "{port}",{sink_w:g}')
            yield line(port, sink_w, sink, 0)
            bench.scope.tell(f'LOAD:PORT "{port}",0')
        for count in range(2, len(sinks) + 1):
            for port, sink_w, _ in sinks[:count]:
                bench.scope.tell(f'LOAD:PORT "{port}",{sink_w:g}')
            if count in (2, len(sinks)):
                for port, sink_w, sink in sinks[:count]:
                    yield line(port, sink_w, sink, 1 if count == 2 else 2)

    return play


def _through(*loads: float) -> Callable[[Rigged], Iterator[Line]]:
    def play(bench: Rigged) -> Iterator[Line]:
        bench.scope.tell("INP ON")
        for watts in loads:
            bench.at(watts, 0.2)
            yield (
                {
                    "output_w": round(bench.number("MEAS:POW?")),
                    "input_w": round(bench.number("MEAS:INP:POW?")),
                    "charging_w": round(bench.number("MEAS:BATT:POW?")),
                    "priority": "usual",
                },
                None,
            )

    return play


def _sounds(background_db: float, *loads: float) -> Callable[[Rigged], Iterator[Line]]:
    def play(bench: Rigged) -> Iterator[Line]:
        for watts in loads:
            bench.at(watts, 40)
            from_m = 0.5
            source = bench.number("MEAS:SOUN?") + 6.02
            level = 10 ** (source / 10) + 10 ** (background_db / 10)
            yield (
                {
                    "doing": "load" if watts else "idle",
                    **({"load_w": watts} if watts else {}),
                    "level_db": round(10 * log10(level), 1),
                    "background_db": background_db,
                    "distance_m": from_m,
                    "fans": "on" if bench.number("MEAS:FAN?") else "off",
                    "by": "meter",
                    "within_db": 1.5,
                },
                None,
            )

    return play


def _heat(watts: float, minutes: int) -> Callable[[Rigged], Iterator[Line]]:
    def play(bench: Rigged) -> Iterator[Line]:
        ran = False
        for minute in range(minutes + 1):
            bench.at(watts if minute < minutes - 10 else 0.0, 1 if minute else 0)
            degrees = round(bench.number("MEAS:TEMP?"), 1)
            runs = bool(bench.number("MEAS:FAN?"))
            load = watts if minute < minutes - 10 else 0.0
            known: dict[str, float | str] = {
                "minute_min": float(minute), "temperature_c": degrees, "where": "exhaust",
                "how": "probe", "load_w": load, "ambient_c": 21.0,
            }  # fmt: skip
            if runs != ran:
                yield {**known, "seen": "fan_on" if runs else "fan_off"}, None
            elif minute % 5 == 0:
                yield {**known, "seen": "reading"}, None
            ran = runs

    return play


def _tries(*tries: dict[str, float | str]) -> Callable[[Rigged], Iterator[Line]]:
    def play(_: Rigged) -> Iterator[Line]:
        for found in tries:
            yield {"mode": "normal", "reading_every_s": 1.0, **found}, None

    return play


TESTS = (
    DemoTest("fennel", WAVES.key, 4, 14.0, _waves(0.0, 1000.0, 2000.0), SCOPE),
    DemoTest("fennel", SWITCHES.key, 4, 14.5, _switches, SCOPE),
    DemoTest(
        "fennel", PORTED.key, 4, 15.0,
        _ports(
            ("USB-C 1", 140.0, "another station"), ("USB-C 2", 140.0, "DC load"),
            ("USB-A 1", 15.0, "DC load"), ("USB-A 2", 15.0, "DC load"),
            ("USB-A 3", 15.0, "DC load"), ("USB-A 4", 10.0, "phone"),
        ),
        PORT_METER,
    ),
    DemoTest("fennel", PASSED.key, 4, 15.5, _through(0.0, 412.0, 1000.0, 1400.0, 1800.0), None),
    DemoTest("fennel", HEARD.key, 4, 16.0, _sounds(26.0, 0.0, 1000.0, 1800.0), SOUND_METER),
    DemoTest("fennel", FELT.key, 4, 16.5, _heat(1800.0, 60), None),
    DemoTest(
        "fennel", TRIED.key, 4, 17.5,
        _tries(
            {"appliance": "Kettle", "started": "started", "nameplate_w": 1500, "peak_w": 1508,
             "soc_percent": 92},
            {"appliance": "Pond pump", "started": "started", "nameplate_w": 180, "peak_w": 412,
             "inrush_w": 720, "soc_percent": 88},
            {"appliance": "Table saw", "started": "turned", "nameplate_w": 1800, "peak_w": 2890,
             "inrush_w": 5400, "soc_percent": 84, "outlet": "AC 1 on the 15 m cord"},
            {"appliance": "Table saw", "started": "started", "nameplate_w": 1800, "peak_w": 3350,
             "inrush_w": 5400, "soc_percent": 83, "outlet": "AC 1"},
            {"appliance": "Air compressor", "started": "tripped", "nameplate_w": 1900,
             "peak_w": 3720, "inrush_w": 7600, "soc_percent": 80, "reset": "off_on",
             "error_code": "E21"},
        ),
    ),
    DemoTest("tansy", WAVES.key, 3, 15.0, _waves(0.0, 600.0, 1200.0), SCOPE),
    DemoTest("tansy", HEARD.key, 3, 15.5, _sounds(26.0, 0.0, 600.0, 1150.0), SOUND_METER),
    DemoTest(
        "tansy", PORTED.key, 3, 16.0,
        _ports(("USB-C", 15.0, "tablet"), ("USB-A 1", 20.0, "DC load"),
               ("USB-A 2", 20.0, "DC load")),
        PORT_METER,
    ),
    DemoTest("sorrel", WAVES.key, 3, 18.0, _waves(0.0, 150.0, 300.0), SCOPE),
    DemoTest(
        "sorrel", TRIED.key, 3, 18.5,
        _tries(
            {"appliance": "Work lamp", "started": "started", "nameplate_w": 60, "peak_w": 61},
            {"appliance": "Drill", "started": "turned", "nameplate_w": 650, "peak_w": 512,
             "inrush_w": 1900, "soc_percent": 71},
        ),
    ),
    DemoTest(
        "sorrel", PORTED.key, 3, 19.0,
        _ports(("USB-C", 100.0, "another station"), ("USB-A 1", 15.0, "DC load"),
               ("USB-A 2", 15.0, "DC load")),
        PORT_METER,
    ),
)  # fmt: skip
