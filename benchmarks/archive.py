"""A yard of 500 stations with 20 runs each: opened, lined up, searched; the first working out too.

``--stations 50`` makes a smaller one. The yard is made in a temporary folder.
"""

import argparse
import tempfile
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace
from yardtoll.review.archive.kept import ready_entrants, work_out
from yardtoll.review.archive.search import found_in, read_query
from yardtoll.review.lineup.entrants import Asked
from yardtoll.review.lineup.lining import line_up
from yardtoll.review.lineup.shown import LineupQuestion, first_of
from yardtoll.store.records import Meter, Receiving, Recording, Run, Station
from yardtoll.store.yard_file import YardFile

_RUNS, _STEP_S, _REPEATS = 20, 60.0, 5


def _make(path: Path, stations: int) -> None:
    random = np.random.default_rng(1)
    began = datetime(2025, 1, 1, tzinfo=UTC)
    with YardFile.create(path, "Archive") as yard:
        meter = yard.put(
            Meter(name="Meter", profile="", address="", reading_share=0.005, floor_w=0.2)
        )
        for number in range(stations):
            rated_wh = float(random.uniform(200, 4000))
            station = yard.put(
                Station(name=f"Station {number}", rated_wh=rated_wh, rated_w=rated_wh)
            )
            yard.put(Receiving(station_id=station.id or 0, price=rated_wh / 2, currency="USD"))
            for run in range(_RUNS):
                watts = rated_wh * (0.2 if run % 4 == 0 else float(random.uniform(0.1, 0.9)))
                started = began + timedelta(days=number, hours=run)
                _discharge(yard, station, meter, run + 1, watts, started)


def _discharge(
    yard: YardFile, station: Station, meter: Meter, number: int, watts: float, at: datetime
) -> None:
    seconds = 0.9 * station.rated_wh / (watts + 0.008 * station.rated_wh) * 3600
    time_s = np.arange(0, seconds + 5 * _STEP_S, _STEP_S)
    power = np.where((time_s >= _STEP_S) & (time_s < seconds), watts, 0.0)
    trace = Trace(name="", time_s=time_s, columns={Quantity.POWER: power})
    iso = at.isoformat(timespec="milliseconds")
    run = Run(
        station_id=station.id or 0, number=number, method="capacity_ac", state="finished",
        origin="import", started_at=iso, ended_at=iso, meter_id=meter.id,
    )  # fmt: skip
    yard.keep_run(run, [(Recording(run_id=0, role="ac_output"), trace)])


def _ms(act: object, repeats: int = _REPEATS) -> float:
    took = []
    for _ in range(repeats):
        start = time.perf_counter()
        act()  # type: ignore[operator]
        took.append(time.perf_counter() - start)
    return 1000 * float(np.median(took))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--stations", type=int, default=500)
    count = parser.parse_args().stations
    asked = Asked()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "archive.yard"
        start = time.perf_counter()
        _make(path, count)
        print(f"{count} stations × {_RUNS} runs made in {time.perf_counter() - start:.0f} s")
        with YardFile.open(path) as yard:
            start = time.perf_counter()
            for station in yard.stations():
                work_out(yard, station, "here", asked)
            print(f"worked out, once: {time.perf_counter() - start:.0f} s")

        def open_it() -> None:
            with YardFile.open(path) as opened:
                opened.stations()

        print(f"open: {_ms(open_it):.0f} ms (bar 1000)")
        with YardFile.open(path) as yard:
            print(f"read what is kept: {_ms(lambda: ready_entrants(yard, 'here', asked)):.0f} ms")
            entrants, missing = ready_entrants(yard, "here", asked)
            assert not missing
            twelve = tuple(first_of(entrants, 2000))
            print(f"line-up of 12: {_ms(lambda: line_up(twelve, 'usable_ratio', asked)):.0f} ms")
            question = LineupQuestion(
                entrants=twelve, archive=tuple(entrants), asked=asked, classes=(), runs_key=0
            )
            print(f"12 in everything, with their classes: {_ms(question.answer):.0f} ms (bar 300)")
            query = read_query("usable > 88 % and price < 0.6")
            print(f"search: {_ms(lambda: found_in(entrants, query, asked)):.1f} ms (bar 100)")


if __name__ == "__main__":
    main()
