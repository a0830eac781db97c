"""What the demo yard holds: an invented reviewer's stations, bench, texts and runs to be played."""

from dataclasses import dataclass
from typing import Any

from yardtoll.bench.simulated.charging import ChargerModel
from yardtoll.bench.simulated.models import MeterModel, StationModel
from yardtoll.bench.simulated.overload import OverloadModel
from yardtoll.core.methods import CAPACITY
from yardtoll.core.methods.endurance_ac import METHOD as ENDURANCE
from yardtoll.core.methods.hold import METHOD as HOLD
from yardtoll.core.methods.idle_ac import METHOD as IDLE_AC
from yardtoll.core.methods.overload import METHOD as OVERLOAD
from yardtoll.core.methods.recharge_sun import METHOD as RECHARGE_SUN
from yardtoll.core.methods.recharge_wall import METHOD as RECHARGE_WALL
from yardtoll.core.planning.loads import LoadSetting
from yardtoll.store.records import (
    SIMULATED,
    Accessory,
    Load,
    Meter,
    OutageUse,
    Receiving,
    Site,
    SolarArray,
    Station,
    StoredCircuit,
    StoredCord,
    StoredOutage,
    SunFrom,
)


@dataclass(frozen=True)
class DemoRun:
    """One run of the demo: days before today, clock hour, which load, and its story.

    ``method`` other than a capacity run has no load: a charger, or nothing, takes its place.
    ``sun`` names one of the days in ``demo_sun.py``. ``watts`` and ``steps`` (s, W) are of loads
    put together for a test of power; ``lowers`` has voltage-lowering mode on; ``cycles`` is
    a thermostat's (period in s, share on); ``lines`` are what
    was noted of its trips.
    """

    station: str
    days_ago: int
    hour: float
    load: str = ""
    setting: int = 0
    count: int = 1
    stopped_at_s: float | None = None
    void_reason: str = ""
    method: str = CAPACITY.key
    sun: str = ""
    watts: float = 0.0
    steps: tuple[tuple[float, float], ...] = ()
    lowers: bool = False
    ended_by: str = ""
    lines: tuple[tuple[tuple[str, float | str], ...], ...] = ()
    cycles: tuple[float, float] | None = None


FENNEL_OVERLOAD = OverloadModel(for_ever=1.07, seconds_at_half_more=8.0, code="E21")
STATIONS: dict[str, tuple[Station, StationModel]] = {
    "fennel": (
        Station(name="Fennel 2k", rated_wh=2048, rated_w=2000, chemistry="LFP", source="label"),
        StationModel(
            store_wh=2046,
            overhead_w=17,
            proportional=0.052,
            ohmic_per_w=1.2e-5,
            rated_w=2000,
            sag_ratio=0.012,
            display_bend=1.06,
            overload=FENNEL_OVERLOAD,
        ),
    ),
    "tansy": (
        Station(name="Tansy 1200", rated_wh=1229, rated_w=1200, chemistry="LFP", source="manual"),
        StationModel(
            store_wh=1134,
            overhead_w=5,
            proportional=0.062,
            ohmic_per_w=2.0e-5,
            rated_w=1200,
            sag_ratio=0.018,
            display_bend=1.02,
        ),
    ),
    "sorrel": (
        Station(name="Sorrel 300", rated_wh=288, rated_w=300, chemistry="NMC", source="box"),
        StationModel(
            store_wh=270,
            overhead_w=7.5,
            proportional=0.075,
            ohmic_per_w=9e-5,
            rated_w=300,
            sag_ratio=0.05,
            display_bend=1.15,
        ),
    ),
}


def _load(name: str, *settings: tuple[str, float], **facts: Any) -> Load:
    made = tuple(LoadSetting(name=words, watts=watts) for words, watts in settings)
    return Load(name=name, settings=made, **facts)


LOADS = {
    "lamp": _load("Work lamp", ("on", 60.0), count=4, kind="electronic", power_factor=0.95),
    "heater": _load(
        "Oil heater", ("low", 412.0), ("middle", 805.0), ("high", 1210.0), cold_share=0.1
    ),
    "plate": _load("Hot plate", ("dial at 3", 246.0), ("dial at 6", 610.0), cold_share=0.05),
    "gun": _load("Heat gun", ("low", 740.0), ("high", 1480.0), inrush=1.2),
    "pump": _load("Pond pump", ("on", 180.0), kind="inductive", inrush=4.0, power_factor=0.8),
}

FRIDGE = _load("Hall fridge", ("on", 96.0), kind="inductive", power_factor=0.7)
"""Of the house, and none of the bench's loads: it switches by itself."""

METER = Meter(
    name="Bench meter",
    profile="buffered_meter",
    address=SIMULATED,
    reading_share=0.005,
    floor_w=0.2,
    step_wh=0.01,
    volts_share=0.005,
    volts_floor_v=0.1,
    hertz_floor_hz=0.02,
    max_w=1800,
    max_a=15,
)
PANEL_METER = Meter(
    name="Panel meter, 30 A",
    profile="buffered_meter",
    address=SIMULATED,
    reading_share=0.01,
    floor_w=1.0,
    step_wh=0.01,
    volts_share=0.01,
    volts_floor_v=0.2,
    hertz_floor_hz=0.05,
    max_w=3600,
    max_a=30,
)
"""For what is too much for the bench meter."""
SCOPE = Meter(
    name="Bench scope",
    profile="scope",
    address=SIMULATED,
    reading_share=0.03,
    floor_w=5.0,
    volts_share=0.015,
    volts_floor_v=0.3,
    hertz_floor_hz=0.01,
)
PORT_METER = Meter(
    name="USB meter",
    profile="",
    address="",
    reading_share=0.01,
    floor_w=0.1,
    place="DC port",
)
SOUND_METER = Meter(
    name="Sound level meter", profile="", address="", reading_share=0.0, floor_w=0.0, place="1 m"
)
CIRCUIT = StoredCircuit(name="Shed, north wall", breaker_a=15, volts=120)
CORDS = (
    StoredCord(name="Orange, 15 m", length_m=15, gauge="14 AWG", rated_a=15),
    StoredCord(name="Thin brown, 5 m", length_m=5, gauge="18 AWG"),
)
ARRAY = SolarArray(
    name="Folding pair in series",
    series=2,
    parallel=1,
    module_w=200,
    voc_v=19.6,
    vmp_v=16.4,
    isc_a=13.1,
    imp_a=12.2,
    tilt_deg=50,
    azimuth_deg=185,
    on_ground=True,
)
THREE = SolarArray(
    name="Shed roof, three in series",
    series=3,
    parallel=1,
    module_w=110,
    voc_v=22.6,
    vmp_v=18.9,
    isc_a=6.2,
    imp_a=5.82,
    tilt_deg=35,
    azimuth_deg=150,
)
SMALL = SolarArray(
    name="Small folding panel",
    module_w=100,
    voc_v=23.9,
    vmp_v=19.8,
    isc_a=5.4,
    imp_a=5.05,
    tilt_deg=60,
    azimuth_deg=180,
    on_ground=True,
)
SITE = Site(
    latitude=43.1,
    longitude=-88.4,
    altitude_m=260,
    time_zone="America/Chicago",
    horizon_deg=8,
    price_per_kwh=0.17,
    currency="USD",
    temperature_c=9,
    coldest_c=-29,
    hottest_c=38,
)
RECEIVED = {
    "fennel": Receiving(
        station_id=0,
        received_on="2026-10-02",
        price=1149,
        list_price=1399,
        currency="USD",
        firmware="2.1.7",
        soc_percent=31,
        weight_kg=23.4,
        lift="two hands",
        conditioned=True,
        accessories=(
            Accessory(name="AC charging cord"),
            Accessory(name="Car charging cable"),
            Accessory(name="Solar adapter", present=False),
        ),
    ),
    "tansy": Receiving(
        station_id=0,
        received_on="2026-10-20",
        price=640,
        currency="USD",
        soc_percent=58,
        weight_kg=14.1,
        lift="one hand",
        conditioned=True,
        accessories=(Accessory(name="AC charging cord"),),
    ),
}
CLAIM_TEXTS: tuple[tuple[str, str, str], ...] = (
    (
        "fennel",
        "label",
        "Rated capacity: 2048 Wh\nRated power: 2000 W\nAC output: 4 outlets, 120 V, 60 Hz, 16.7 A\n"
        "Chemistry: LFP\nSolar input: 11–60 V, 15 A",
    ),
    (
        "fennel",
        "manual",
        "Battery: 16S 3.2 V 40 Ah\nSurge power: 4000 W for 5 s\nUSB-C: 2 × 100 W\n"
        "USB-A: 4 × 12 W\nCar port: 12.6 V, 10 A, 126 W\nDC5521: 2 × 12.6 V, 3 A\n"
        "Total USB output: 160 W shared\nAC input: 1400 W, 15 A\n"
        "Solar input: 11–150 V, 15 A, 600 W\n"
        "UPS: switchover 20 ms\nCharge temperature: 0–45 °C\nWeight: 23.0 kg",
    ),
    (
        "fennel",
        "listing",
        "0–80 % in 58 min\nWall + solar: 1800 W\nPure sine wave\nCycle life: 3500 cycles to 80 % "
        "capacity\nIdle consumption: 15 W (AC on)\nCar charging: 12 V, 8 A",
    ),
    (
        "tansy",
        "manual",
        "Capacity: 1229 Wh\nChemistry: LFP\nAC output: 3 outlets, 120 V, 60 Hz, 1200 W, surge "
        "2400 W\nUSB-C: 1 × 100 W\nUSB-A: 2 × 18 W\nCar port: 13.6 V, 8 A\n"
        "AC charging: 660 W, full in 2.1 h\nSolar input: 12–50 V, 10 A, 300 W\nWeight: 31 lb\n"
        "Pass-through charging\n"
        "Battery: 384 Ah, 3.2 V",
    ),
    (
        "sorrel",
        "box",
        "Capacity: 288 Wh (80 Ah 3.6 V)\nChemistry: NMC\nAC output: 2 outlets, 120 V, 60 Hz, "
        "300 W\nPeak: 600 W\nUSB-C: 1 × 60 W\nUSB-A: 2 × 12 W\nCar port: 12 V, 10 A\n"
        "Solar input: 12–30 V, 100 W\nPure sine wave\nWeight: 3.4 kg",
    ),
)
SET_LIKE = {
    "floor": "0",
    "charge_mode": "standard",
    "voltage_lowering": "off",
    "auto_off": "off",
    "ups": "not there",
}
METER_TRUTH = MeterModel(gain_error=0.0017, offset_w=-0.05)

RUNS = (
    DemoRun(
        "fennel",
        5,
        9.0,
        "heater",
        stopped_at_s=4600,
        void_reason="stopped early: the wall charger was plugged in",
    ),
    DemoRun("fennel", 5, 13.5, "heater"),
    DemoRun("fennel", 4, 9.25, "heater", setting=1),
    DemoRun("fennel", 3, 10.0, "heater", setting=2),
    DemoRun("fennel", 3, 13.0, method=RECHARGE_WALL.key),
    DemoRun("fennel", 3, 20.0, method=IDLE_AC.key),
    DemoRun("sorrel", 4, 14.0, "lamp"),
    DemoRun("sorrel", 3, 15.0, "lamp", count=2),
    DemoRun("tansy", 3, 8.5, "plate"),
    DemoRun("tansy", 2, 9.0, "heater"),
    DemoRun("tansy", 2, 13.0, method=RECHARGE_WALL.key),
    DemoRun("tansy", 1, 7.5, method=RECHARGE_SUN.key, sun="tansy"),
    DemoRun("sorrel", 2, 9.0, method=RECHARGE_WALL.key, sun="sorrel wall"),
    DemoRun("sorrel", 2, 9.0 + 25 / 60, method=RECHARGE_SUN.key, sun="sorrel sun"),
    DemoRun("fennel", 7, 17.0, "lamp", count=2),
    DemoRun("fennel", 4, 18.5, method=HOLD.key, watts=2050.0, stopped_at_s=1900.0, ended_by="hand"),
    DemoRun(
        "fennel",
        4,
        19.5,
        method=OVERLOAD.key,
        watts=2050.0,
        steps=((120.0, 2150.0), (240.0, 2260.0), (330.0, 2480.0)),
        ended_by="trip",
        lines=(
            (
                ("step_w", 2410.0),
                ("error_code", "E21"),
                ("reset", "off_on"),
                ("after_min", 0.5),
                ("temperature_c", 46.0),
            ),
        ),
    ),
    DemoRun(
        "tansy",
        3,
        17.0,
        method=HOLD.key,
        watts=1700.0,
        lowers=True,
        stopped_at_s=1000.0,
        ended_by="hand",
    ),
)
LATER_RUNS = (DemoRun("tansy", 9, 8.0, "fridge", method=ENDURANCE.key, cycles=(2460.0, 0.41)),)
"""Runs that were kept after the tests at the outlets."""
OUTAGES = {
    "fennel": StoredOutage(
        station_id=0,
        name="Storm, two nights",
        begins_at="",
        hours=38,
        uses=(
            OutageUse(name="Hall fridge", watts=96, duty=0.41, inrush_w=410, low_share=0.95,
                      high_share=1.05),
            OutageUse(name="Router", watts=9, low_share=0.85, high_share=1.15),
            OutageUse(name="Breathing aid", watts=34, from_h=22, to_h=7, low_share=0.85,
                      high_share=1.15),
            OutageUse(name="Lamps, three", watts=24, from_h=17, to_h=23),
        ),
        sun=SunFrom.SKY.value,
        weather="mixed",
        array_ids=(1,),
    ),
    "tansy": StoredOutage(
        station_id=0,
        name="Fridge alone",
        begins_at="",
        hours=30,
        uses=(
            OutageUse(name="Hall fridge", watts=96, duty=0.41, low_share=0.95, high_share=1.05),
        ),
    ),
}  # fmt: skip
"""Begin at six in the evening of the last day."""
CHARGERS = {
    "fennel": ChargerModel(full_w=1385, efficiency=0.915, ramp_s=90, taper_from=0.83, on_s=70.0),
    "tansy": ChargerModel(
        full_w=652, efficiency=0.9, ramp_s=300, taper_from=0.85, hot_at=0.62, hot_s=1500, on_s=70.0
    ),
}
