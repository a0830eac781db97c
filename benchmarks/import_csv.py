"""A CSV of a million rows imported, against polars.read_csv of the same file."""

import tempfile
import time
from pathlib import Path

import numpy as np
import polars as pl

from yardtoll.store.logs.read import read_log

ROWS = 1_000_000


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "log.csv"
        t = np.arange(ROWS) * 0.1
        power = np.random.default_rng(1).normal(400, 2, ROWS).round(2)
        frame = {"t [s]": t, "Power (W)": power, "Voltage (V)": power / 4}
        pl.DataFrame(frame).write_csv(path)
        took: dict[str, list[float]] = {"polars": [], "ours": []}
        for _ in range(5):
            for name, read in (("polars", pl.read_csv), ("ours", read_log)):
                start = time.perf_counter()
                read(path)
                took[name].append(time.perf_counter() - start)
    bare, ours = min(took["polars"]), min(took["ours"])
    print(f"polars.read_csv {bare:.2f} s, imported {ours:.2f} s: {ours / bare:.1f} x (bar 1.5 x)")


if __name__ == "__main__":
    main()
