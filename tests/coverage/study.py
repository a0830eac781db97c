"""The study: how often the truth of invented stations is within what is stated.

``python -m tests.coverage.study`` prints the tables of docs/metrology.md; it takes minutes.
``--stations 50`` tries fewer.
"""

import argparse
from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from tests.coverage.limits import CLAIMS, accepted
from tests.coverage.program import REPEATABILITY, USUAL, Stated, bench, of_fit, of_losses, of_runs
from tests.coverage.stations import Logging, Meter, a_station

Hits = dict[str, list[bool]]
LOADS = np.arange(0.08, 1.0, 0.06)


@dataclass(frozen=True, kw_only=True)
class Scenario:
    """What differs from the model, or from the usual bench."""

    name: str
    how: Logging = USUAL
    common: float = 0.5
    drift: float = 0.0
    phase_deg: float = 0.0
    again: float | None = 0.005
    fades: float = 0.0
    loads: int = 3
    repeats: int = 1
    idle_h: float = 0.0
    assumed: float = REPEATABILITY
    sharp_idle: bool = False


RUN_SCENARIOS = (
    Scenario(name="under the model"),
    Scenario(name="gain of its own at each level", common=0.0),
    Scenario(name="gain all common", common=1.0),
    Scenario(name="gain drifts by half its limit in a run", drift=0.0025),
    Scenario(name="power factor 0.6, phase ± 0.5°", phase_deg=0.5, how=Logging(power_factor=0.6)),
    Scenario(name="repeatability anywhere from 0.3 to 1 %", again=None),
    Scenario(name="repeatability 1 %, assumed 0.5 %", again=0.01),
    Scenario(name="repeatability 1 %, and the yard says so", again=0.01, assumed=0.01),
    Scenario(
        name="thermostat of 5 min, a sample every 30 s",
        how=Logging(interval_s=30.0, switching_s=300.0),
    ),
    Scenario(
        name="thermostat of 5 min, a sample every 60 s",
        how=Logging(interval_s=60.0, switching_s=300.0),
    ),
    Scenario(name="counter of 1 Wh every 60 s", how=Logging(interval_s=60.0, counter_step_wh=1.0)),
    Scenario(
        name="counter of 0.1 Wh every 60 s", how=Logging(interval_s=60.0, counter_step_wh=0.1)
    ),
)
REPEAT_SCENARIOS = tuple(
    Scenario(name=f"{n} run{'s' * (n > 1)}, repeatability {100 * again:g} %", again=again,
             loads=1, repeats=n)
    for again in (0.003, 0.005, 0.01)
    for n in (1, 2, 3, 6)
)  # fmt: skip
FIT_SCENARIOS = tuple(
    Scenario(name=f"{n} loads, {f'{h:g} h idle' if h else 'no idle test'}", again=None,
             loads=n, idle_h=h)
    for h in (0.0, 10.0, 60.0)
    for n in (2, 3, 4, 6)
)  # fmt: skip
LOSS_SCENARIOS = tuple(
    Scenario(name=f"{n} loads, idle W to 3 %", again=None, loads=n, sharp_idle=True)
    for n in (2, 3, 4, 6)
)
BEYOND = (
    Scenario(name="3 loads, the store falls by 4 % per C", fades=0.04),
    Scenario(name="6 loads, the store falls by 4 % per C", fades=0.04, loads=6),
)


def statements(scenario: Scenario, seed: int) -> Iterator[tuple[str, Stated]]:
    """Everything that is said of one station."""
    random = np.random.default_rng([seed, 2026])
    station = a_station(random, scenario.again, scenario.fades)
    meter = Meter(random, scenario.common, scenario.drift, scenario.phase_deg)
    loads = random.choice(LOADS, scenario.loads, replace=False)
    yard = bench(
        random, station, meter, loads, scenario.how,
        repeats=scenario.repeats, idle_h=scenario.idle_h, assumed=scenario.assumed,
    )  # fmt: skip
    found = yard.found()
    yield from of_runs(yard, found)
    yield from of_fit(random, yard, found)
    if scenario.sharp_idle:
        yield from of_losses(random, yard, found)


def coverage(scenario: Scenario, stations: int, first_seed: int = 0) -> Hits:
    """Whether the truth is within, for each figure and each station."""
    hits: Hits = defaultdict(list)
    for seed in range(first_seed, first_seed + stations):
        for name, stated in statements(scenario, seed):
            hits[name].append(stated.holds)
    return hits


def _table(rows: Iterable[tuple[str, Hits]], names: Sequence[str]) -> str:
    lines = [f"| scenario | {' | '.join(names)} |", "|---" * (len(names) + 1) + "|"]
    for title, hits in rows:
        cells = [_cell(hits.get(name, [])) for name in names]
        lines.append(f"| {title} | {' | '.join(cells)} |")
    return "\n".join(lines)


def _cell(held: Sequence[bool]) -> str:
    return f"{100 * sum(held) / len(held):.1f} ({len(held)})" if held else "–"


OF_RUNS = (
    "Delivered, this run", "Duration", "Mean power", "Delivered, this station", "Drawn, this run",
    "0 to 80 %", "Round trip, this station",
)  # fmt: skip
OF_FIT = (
    "Usable store", "Overhead", "Efficiency, Euro weights", "Delivers at another load", "Idle",
)  # fmt: skip
TABLES = {
    "runs": (RUN_SCENARIOS, OF_RUNS),
    "repeats": (REPEAT_SCENARIOS, ("Delivered, this run", "Delivered, this station")),
    "losses": (LOSS_SCENARIOS, ("E0", "p0", "p1", "p2", "at another load")),
    "fits": ((*FIT_SCENARIOS, *BEYOND), OF_FIT),
}


def _limits_table(stations: int) -> str:
    lines = ["| claim | met at its limit, of 100 | met when easier, of 100 |", "|---|---|---|"]
    for name in CLAIMS:
        at_limit, eased = (100 * met / stations for met in accepted(name, stations))
        lines.append(f"| {name} | {at_limit:.1f} ({stations}) | {eased:.0f} |")
    return "\n".join(lines)


def main(say: Callable[[str], None] = print) -> None:
    """Print the tables."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--stations", type=int, default=500)
    parser.add_argument("--table", choices=[*TABLES, "limits"], action="append")
    asked = parser.parse_args()
    for name in asked.table or [*TABLES, "limits"]:
        if name == "limits":
            say(f"\nlimits\n\n{_limits_table(asked.stations)}")
            continue
        scenarios, figures = TABLES[name]
        rows = [(s.name, coverage(s, asked.stations)) for s in scenarios]
        say(f"\n{name}\n\n{_table(rows, figures)}")


if __name__ == "__main__":
    main()
