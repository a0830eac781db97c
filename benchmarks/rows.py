"""What a benchmark brings: a row of the table in docs/performance.md."""

import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

REPEATS = 5
PAIRS = 11
"""Of whole programs, whose starts vary by a quarter."""
QUIET = 1.25
_MOST_TRIES = 8
SCREEN = f"offscreen:configfile={Path(__file__).parents[1] / 'tools' / 'offscreen.json'}"
ENV = {**os.environ, "QT_QPA_PLATFORM": SCREEN, "PYTHONPATH": str(Path(__file__).parent)}


@dataclass(frozen=True)
class Row:
    """One figure beside its bar.

    Attributes:
        met: None where the bar is no number.
    """

    what: str
    figure: str
    bar: str
    met: bool | None = None

    def __str__(self) -> str:
        met = {True: "met", False: "missed", None: ""}[self.met]
        return f"{self.what}: {self.figure} (bar {self.bar}) {met}".rstrip()


def at_most(what: str, value: float, bar: float, unit: str, decimals: int = 2) -> Row:
    """A figure that should be small."""
    return Row(what, f"{value:.{decimals}f} {unit}", f"≤ {bar:g} {unit}", value <= bar)


def at_least(what: str, value: float, bar: float, unit: str, decimals: int = 0) -> Row:
    """A figure that should be large."""
    return Row(what, f"{value:.{decimals}f} {unit}", f"≥ {bar:g} {unit}", value >= bar)


def cpu_s(code: str, *arguments: str) -> float:
    """Seconds of processor that a fresh Python takes for some code, all its threads together."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    subprocess.run(
        [sys.executable, "-c", code, *arguments], check=True, env=ENV, capture_output=True
    )
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime


def paired(ours: str, bare: str, *arguments: str, repeats: int = PAIRS) -> float:
    """Median of our CPU ÷ that of something bare, one after the other in turn."""
    cpu_s(bare), cpu_s(ours, *arguments)  # the disk's cache
    return statistics.median(cpu_s(ours, *arguments) / cpu_s(bare) for _ in range(repeats))


def printed(code: str, *arguments: str) -> str:
    """What a fresh Python prints for some code."""
    return subprocess.run(
        [sys.executable, "-c", code, *arguments],
        check=True,
        env=ENV,
        capture_output=True,
        text=True,
    ).stdout


def median_ms(
    work: Callable[..., object], of: Callable[[], object] | None = None, repeats: int = REPEATS
) -> float:
    """Median CPU of some work in this process while the machine is quiet, in ms.

    Times beside which plain sums took much longer than they can are left out: another machine used
    the processor. Where too few are left, the quietest count.

    Args:
        of: makes what the work is given each time; its own time does not count.
    """
    tries: list[tuple[float, float]] = []
    quiet: list[float] = []
    while len(quiet) < repeats and len(tries) < _MOST_TRIES * repeats:
        given = () if of is None else (of(),)
        before_ms = pace_ms()
        start = time.process_time()
        work(*given)
        took = time.process_time() - start
        tries.append((max(before_ms, pace_ms()), took))
        quiet = [took for ms, took in tries if ms <= QUIET * min(_paces)]
    if len(quiet) < repeats:
        quiet = [took for _, took in sorted(tries)[:repeats]]
    return 1000 * statistics.median(quiet)


_paces: list[float] = []
_FROM, _TO = np.zeros(1 << 20), np.zeros(1 << 20)


def pace_ms() -> float:
    """What the same plain sums and passes over memory take now, in ms of processor.

    Other programs and other machines beside this one tell in it.
    """
    start = time.process_time()
    sum(i * i % 7 for i in range(30_000))
    for _ in range(4):
        _TO.fill(1.0)
        _FROM[:] = _TO
    _paces.append(1000 * (time.process_time() - start))
    return _paces[-1]


def slower_than_quiet(since: int = 0) -> float:
    """How much slower than at its quietest the machine was, of the paces from one on: a median."""
    return statistics.median(_paces[since:]) / min(_paces)


def paces_taken() -> int:
    """How many paces there are so far."""
    return len(_paces)


def in_folder(work: Callable[[Path], list[Row]]) -> list[Row]:
    """Rows of work that needs a folder."""
    with tempfile.TemporaryDirectory() as folder:
        return work(Path(folder))


def show(rows: list[Row]) -> None:
    """Print them."""
    for row in rows:
        print(row)
