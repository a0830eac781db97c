"""What a benchmark brings: a row of the table in docs/performance.md."""

import os
import resource
import statistics
import subprocess
import sys
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

REPEATS = 5
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


def paired(ours: str, bare: str, *arguments: str, repeats: int = REPEATS) -> float:
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
    """Median CPU of some work in this process, in ms.

    Args:
        of: makes what the work is given each time; its own time does not count.
    """
    import time

    took = []
    for _ in range(repeats):
        given = () if of is None else (of(),)
        start = time.process_time()
        work(*given)
        took.append(time.process_time() - start)
    return 1000 * statistics.median(took)


def in_folder(work: Callable[[Path], list[Row]]) -> list[Row]:
    """Rows of work that needs a folder."""
    with tempfile.TemporaryDirectory() as folder:
        return work(Path(folder))


def show(rows: list[Row]) -> None:
    """Print them."""
    for row in rows:
        print(row)
