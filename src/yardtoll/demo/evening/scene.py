"""What stands on the practice bench before the first run, and what each mistake in it would cost.

The costs are played on the simulated bench, whose truth is known; the scene is invented.
"""

from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path

from yardtoll.bench.simulated.models import (
    BenchModel,
    LoadModel,
    MeterModel,
    Simulation,
    StationModel,
    station_model_for,
)
from yardtoll.core.electrical.energy import SECONDS_PER_HOUR
from yardtoll.core.formatting import format_clock
from yardtoll.core.planning.loads import LoadSetting
from yardtoll.store.records import SIMULATED, Load, Meter, YardInfo
from yardtoll.store.yard_file import YardFile

STATION_NAME, RATED_WH, RATED_W = "Bramble 600", 614.0, 600.0
LOAD_W, SECOND_LOAD_W = 123.0, 580.0
FLOOR_SHARE = 0.10
LEFT_ON_METER_WH = 37.0
NOBODY_LOOKS_H = 3.0
LABEL = (
    f"{STATION_NAME}\nCapacity 614 Wh, LFP\nUsable energy 560 Wh\nAC output 600 W continuous\n"
    "Recharge 0-80 % in 60 min\nSolar input up to 200 W, 12-28 V\nWeight 8.1 kg\n"
)
_LONGEST_S = 24 * SECONDS_PER_HOUR
_NIGHT_H = 8.0


@dataclass(frozen=True, kw_only=True)
class Seen:
    """Something that can be seen on the bench.

    Attributes:
        is_mistake: it would spoil the result.
        why: what it would do, or why it is all right.
    """

    key: str
    words: str
    is_mistake: bool
    why: str


@dataclass(frozen=True, kw_only=True)
class Costs:
    """What the simulated bench says of the same run without a mistake, and with each.

    Attributes:
        delivered_wh: the truth, without any.
        overload_s: how long the outlet holds both heaters.
        short_wh: missing where the floor stays.
        night_wh: on the meter in the morning where the wall plug stays in.
    """

    delivered_wh: float
    overload_s: float
    short_wh: float
    night_wh: float


@cache
def costs() -> Costs:
    """Played once."""
    station = station_model_for(RATED_WH, RATED_W, seed=1)
    whole = _emptied(station, LOAD_W)
    kept = _emptied(replace(station, store_wh=(1 - FLOOR_SHARE) * station.store_wh), LOAD_W)
    both = _emptied(station, LOAD_W + SECOND_LOAD_W)
    return Costs(
        delivered_wh=whole.delivered_wh,
        overload_s=both.shut_off_s or 0.0,
        short_wh=whole.delivered_wh - kept.delivered_wh,
        night_wh=LOAD_W * _NIGHT_H,
    )


def _emptied(station: StationModel, watts: float) -> Simulation:
    model = BenchModel(
        seed=1,
        station=station,
        load=LoadModel(watts=watts, cold_share=0.0, on_s=0.0),
        meter=MeterModel(),
        interval_s=1.0,
    )
    played = Simulation(model)
    while played.shut_off_s is None and played.time_s < _LONGEST_S:
        played.advance(played.time_s + SECONDS_PER_HOUR)
    return played


def scene() -> tuple[Seen, ...]:
    """Everything that is seen, in the order of a walk around the bench."""
    return (*_at_the_station(costs()), *_around_it(costs()))


def _at_the_station(found: Costs) -> tuple[Seen, ...]:
    true_wh = found.delivered_wh
    return (
        Seen(
            key="charged",
            words="The display says 100 %, and the fans are quiet.",
            is_mistake=False,
            why="Full and settled: as it should be.",
        ),
        Seen(
            key="input",
            words="A lamp glows on the cable from the wall to the station.",
            is_mistake=True,
            why=f"The wall would run the load. After a night of {_NIGHT_H:g} h the meter would "
            f"say {found.night_wh:.0f} Wh, {100 * found.night_wh / RATED_WH:.0f} % of the rating, "
            "and the run would never end. Unplug every input.",
        ),
        Seen(
            key="floor",
            words="In the station's menu the discharge stops at 10 %.",
            is_mistake=True,
            why=f"The run would end {found.short_wh:.0f} Wh short: "
            f"{100 * (true_wh - found.short_wh) / RATED_WH:.1f} % of rated instead of "
            f"{100 * true_wh / RATED_WH:.1f} %. Set it to 0 %, or note it.",
        ),
        Seen(
            key="eco",
            words="Eco mode and the auto-off timer are off.",
            is_mistake=False,
            why="As it should be: a small load would else be switched off.",
        ),
    )


def _around_it(found: Costs) -> tuple[Seen, ...]:
    true_wh = found.delivered_wh
    extra_w = LOAD_W + SECOND_LOAD_W
    half_h = NOBODY_LOOKS_H / 2
    return (
        Seen(
            key="meter",
            words=f"The meter's counter shows {LEFT_ON_METER_WH:.0f} Wh from last week.",
            is_mistake=True,
            why=f"Read at the end it would say {true_wh + LEFT_ON_METER_WH:.0f} Wh, "
            f"{100 * LEFT_ON_METER_WH / true_wh:.0f} % too much. Zero it first.",
        ),
        Seen(
            key="cord",
            words="The cord between the outlet and the heater is rated for 13 A.",
            is_mistake=False,
            why="Far above what the heater takes.",
        ),
        Seen(
            key="heaters",
            words=f"Both heaters are switched on, {extra_w:.0f} W together.",
            is_mistake=True,
            why=f"The station is rated for {RATED_W:.0f} W: its outlet would go off after "
            f"{format_clock(found.overload_s)}, and nothing would be measured. For 0.2 C one of "
            f"{LOAD_W:.0f} W is right.",
        ),
        Seen(
            key="alone",
            words=f"Nobody looks at the meter for {NOBODY_LOOKS_H:g} h around the end, and it goes "
            "dark with the station.",
            is_mistake=True,
            why=f"The end could be anywhere in that time: ± {LOAD_W * half_h:.0f} Wh, "
            f"{100 * LOAD_W * half_h / true_wh:.0f} % of the result. Let the program record, or "
            "read the counter on the wall afterwards.",
        ),
    )


def mistakes_missed(ticked: set[str]) -> list[Seen]:
    """Mistakes that were not found."""
    return [seen for seen in scene() if seen.is_mistake and seen.key not in ticked]


def false_alarms(ticked: set[str]) -> list[Seen]:
    """What was taken for a mistake and is none."""
    return [seen for seen in scene() if not seen.is_mistake and seen.key in ticked]


def make_practice_yard(path: Path) -> None:
    """A yard with a simulated meter and two heaters, and no station yet.

    Raises:
        YardError: the place cannot be written.
    """
    with YardFile.create(path, "First evening") as yard:
        info: YardInfo = yard.info()
        yard.put(replace(info, name="First evening"))
        yard.put(
            Meter(
                name="Practice meter",
                profile="buffered_meter",
                address=SIMULATED,
                reading_share=0.005,
                floor_w=0.2,
                max_w=1800,
                max_a=15,
            )
        )
        yard.put(
            Load(
                name="Small heater",
                settings=(
                    LoadSetting(name="low", watts=LOAD_W),
                    LoadSetting(name="high", watts=300.0),
                ),
                cold_share=0.08,
            )
        )
        yard.put(
            Load(
                name="Oil heater",
                settings=(LoadSetting(name="low", watts=SECOND_LOAD_W),),
                cold_share=0.1,
            )
        )
