"""Logs imported, against polars.read_csv of the same files: CPU of both, in pairs.

A plain log, and the shapes that meters write beside it; then a plain one into a new yard.
"""

import argparse
import resource
import statistics
import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
from rows import Row, at_most

SHAPES = ("plain", "decimal comma", "units in cells", "h:mm:ss", "ISO 8601")
POLARS = "import polars as pl, sys; pl.read_csv(sys.argv[1], separator=sys.argv[2])"
OURS = """
import sys
from pathlib import Path
from yardtoll.store.logs.read import read_log
read_log(Path(sys.argv[1]))
"""
YARD = """
import sys
from pathlib import Path
from yardtoll.store.importing import import_logs
yard = Path(sys.argv[3])
yard.unlink(missing_ok=True)
import_logs([Path(sys.argv[1])], yard, "S", rated_wh=2048, rated_w=2000)
"""
EMPTY = {POLARS: "import polars", OURS: "import yardtoll.store.logs.read",
         YARD: "import yardtoll.store.importing, yardtoll.store.logs.read"}  # fmt: skip


def _write(path: Path, shape: str, rows: int) -> str:
    """A log of one shape; its delimiter is returned."""
    import polars as pl

    random = np.random.default_rng(1)
    time_s = np.arange(rows) * 0.1
    power = random.normal(400, 2, rows).round(2)
    volts = random.normal(120, 0.3, rows).round(1)
    frame = pl.DataFrame({"t [s]": time_s.round(1), "Power (W)": power, "Voltage (V)": volts})
    separator = ","
    if shape == "decimal comma":
        separator = ";"
        text = pl.all().cast(pl.String).str.replace(".", ",", literal=True)
        frame = frame.select(text)
    elif shape == "units in cells":
        frame = frame.with_columns(
            pl.col("Power (W)").cast(pl.String) + " W", pl.col("Voltage (V)").cast(pl.String) + " V"
        ).rename({"Power (W)": "Power", "Voltage (V)": "Voltage"})
    elif shape == "h:mm:ss":
        whole = pl.Series("t", np.arange(rows))
        parts = (whole // 3600, whole // 60 % 60, whole % 60)
        h, m, s = (p.cast(pl.String) for p in parts)
        clock = h + ":" + m.str.zfill(2) + ":" + s.str.zfill(2)
        frame = frame.with_columns(clock.alias("t [s]")).rename({"t [s]": "Time"})
    elif shape == "ISO 8601":
        began = np.datetime64("2026-01-01T00:00:00.000")
        stamps = began + (np.arange(rows) * 100).astype("timedelta64[ms]")
        iso = pl.Series("t", stamps).dt.strftime("%Y-%m-%dT%H:%M:%S%.3f")
        frame = frame.with_columns(iso.alias("t [s]")).rename({"t [s]": "Timestamp"})
    frame.write_csv(path, separator=separator)
    return separator


def _cpu_s(code: str, *arguments: str) -> tuple[float, float]:
    """Seconds of processor, and the largest memory in MB, of a process."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    # Not the usage that the system reports: it counts what the parent held when it was forked.
    held = "[l for l in open('/proc/self/status') if l.startswith('VmHWM')][0].split()[1]"
    measured = f"{code}\nprint({held})"
    said = subprocess.run(
        [sys.executable, "-c", measured, *arguments], check=True, capture_output=True, text=True
    ).stdout
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    used = after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime
    return used, float(said.split()[-1]) / 1024


def ratio(code: str, path: Path, separator: str, repeats: int, yard: str) -> tuple[float, float]:
    """Our CPU ÷ Polars', start-up of each taken off; and our largest memory in MB."""
    empty = {c: statistics.median(_cpu_s(EMPTY[c])[0] for _ in range(3)) for c in (POLARS, code)}
    ratios, memory = [], 0.0
    for _ in range(repeats):
        bare, _ = _cpu_s(POLARS, str(path), separator)
        ours, memory = _cpu_s(code, str(path), separator, yard)
        ratios.append((ours - empty[code]) / (bare - empty[POLARS]))
    return statistics.median(ratios), memory


def measure(
    rows: int, repeats: int, said: Callable[[str], None] = print
) -> dict[str, tuple[float, float]]:
    """CPU ratio and memory in MB for each shape, and for a plain log into a yard."""
    found = {}
    with tempfile.TemporaryDirectory() as folder:
        path, yard = Path(folder) / "log.csv", str(Path(folder) / "made.yard")
        for shape in (*SHAPES, "into a yard"):
            separator = _write(path, shape, rows)
            code = YARD if shape == "into a yard" else OURS
            found[shape] = ratio(code, path, separator, repeats, yard)
            said(f"{shape}: {found[shape][0]:.2f} x CPU, {found[shape][1]:.0f} MB")
    return found


BARS = {"plain": 1.4, "into a yard": 2.0}


def rows(count: int = 10_000_000, repeats: int = 5) -> list[Row]:
    """A ratio a shape, and the memory into a yard."""
    found = measure(count, repeats, lambda _: None)
    made = [
        at_most(
            f"import {count / 1e6:g} M rows, {shape} ÷ polars.read_csv",
            ratio_,
            BARS.get(shape, 2.0),
            "×",
        )
        for shape, (ratio_, _) in found.items()
    ]
    return [
        *made,
        at_most("memory of importing into a yard", found["into a yard"][1], 900, "MB", 0),
    ]


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=10_000_000)
    parser.add_argument("--repeats", type=int, default=5)
    given = parser.parse_args()
    measure(given.rows, given.repeats)
