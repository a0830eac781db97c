"""Write the small logs in examples/ from the simulated bench: tools/make_examples.py."""

import csv
from datetime import UTC, datetime, timedelta
from pathlib import Path

from yardtoll.bench.simulated.models import BenchModel, LoadModel, MeterModel, Simulation
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.demo.yard import STATIONS

FOLDER = Path(__file__).parents[1] / "examples"
START = datetime(2026, 5, 14, 9, 30, tzinfo=UTC)


def _samples(seed: int, watts: float, **load: float) -> dict[str, FloatArray]:
    """A discharge of the demo's small station, sampled once in ten seconds."""
    model = BenchModel(
        seed=seed,
        station=STATIONS["sorrel"][1],
        load=LoadModel(watts=watts, on_s=60, **load),
        meter=MeterModel(gain_error=0.002),
        interval_s=10,
    )
    simulation = Simulation(model)
    end = next(t for t in range(600, 90_000, 600) if _is_empty(model, t))
    return simulation.advance(end + 120)


def _is_empty(model: BenchModel, until_s: float) -> bool:
    simulation = Simulation(model)
    simulation.advance(until_s)
    return simulation.shut_off_s is not None


def _write(name: str, lines: list[list[str]], delimiter: str = ",", before: str = "") -> None:
    with (FOLDER / name).open("w", newline="", encoding="utf-8") as file:
        file.write(before)
        csv.writer(file, delimiter=delimiter, lineterminator="\n").writerows(lines)


def main() -> None:
    FOLDER.mkdir(exist_ok=True)
    s = _samples(1, 120)
    rows = range(s["time"].size)
    _write(
        "plain-seconds.csv",
        [["t [s]", "Power (W)", "Voltage (V)", "Energy (Wh)"]]
        + [
            [f"{s['time'][i]:.0f}", f"{s['power'][i]:.1f}", f"{s['volts'][i]:.1f}",
             f"{s['energy'][i]:.2f}"]
            for i in rows
        ],
    )  # fmt: skip
    s = _samples(2, 200)
    _write(
        "semicolon-decimal-comma.csv",
        [["Date", "Time", "P (kW)", "U (V)", "kWh"]]
        + [
            [
                (START + timedelta(seconds=s["time"][i])).strftime("%d.%m.%Y"),
                (START + timedelta(seconds=s["time"][i])).strftime("%H:%M:%S"),
                f"{s['power'][i] / 1000:.4f}".replace(".", ","),
                f"{s['volts'][i]:.1f}".replace(".", ","),
                f"{s['energy'][i] / 1000:.5f}".replace(".", ","),
            ]
            for i in range(s["time"].size)
        ],
        delimiter=";",
        before="# Heron Lane yard, bench meter\n",
    )
    s = _samples(3, 240, thermostat_period_s=600, thermostat_duty=0.6)
    _write(
        "thermostat-units-in-cells.csv",
        [["Timestamp", "Load", "Volts", "Amps"]]
        + [
            [
                (START + timedelta(seconds=s["time"][i])).isoformat(),
                f"{s['power'][i]:.1f} W",
                f"{s['volts'][i]:.1f} V",
                f"{s['amps'][i]:.3f} A",
            ]
            for i in range(s["time"].size)
        ],
    )
    s = _samples(4, 90)
    _write(
        "counter-only.tsv",
        [["elapsed", "energy_wh"]]
        + [
            [str(timedelta(seconds=int(s["time"][i]))), f"{s['energy'][i]:.1f}"]
            for i in range(0, s["time"].size, 3)
        ],
        delimiter="\t",
    )
    s = _samples(5, 150)
    _write(
        "volts-amps-with-a-gap.csv",
        [["time_s", "volts", "amps", "pf"]]
        + [
            [f"{s['time'][i]:.0f}", f"{s['volts'][i]:.2f}", f"{s['amps'][i]:.3f}", "1.00"]
            for i in range(s["time"].size)
            if not 200 < i < 230
        ],
    )


if __name__ == "__main__":
    main()
