"""Runs benchmarks one after the other, and keeps their table in docs/performance.md."""

import argparse
import importlib
import platform
import subprocess
import sys
from datetime import UTC, datetime
from pathlib import Path

from rows import QUIET, pace_ms, paces_taken, slower_than_quiet

NAMES = (
    "start_up", "open_yards", "heartbeat", "chart", "import_csv", "analyse_day", "recording",
    "simulate_day", "shell_start", "sheet_pdf", "packed",
)  # fmt: skip
DOC = Path(__file__).parents[1] / "docs" / "performance.md"
BEGIN, END = "<!-- table -->\n", "<!-- end of table -->"
BUSY = "while True: pass"
_LOOKS = 40


def _slow(by: dict[str, float]) -> str:
    """Which were measured while the machine was slower than at its quietest, and by how much."""
    named = [f"{name} {times:.1f} ×" for name, times in by.items() if times > QUIET]
    if not named:
        return "The machine was quiet throughout."
    return f"The machine was slower than at its quietest at: {', '.join(named)}."


def _look() -> None:
    """Note the machine's pace for a while."""
    for _ in range(_LOOKS):
        pace_ms()


def main() -> None:
    """Print each row as it comes; all of them become the table."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("names", nargs="*", help="some of them; default all")
    asked.add_argument("--busy", action="store_true", help="another program beside it")
    given = asked.parse_args()
    beside = subprocess.Popen([sys.executable, "-c", BUSY]) if given.busy else None
    lines = ["| what | today | bar | |", "|---|---|---|---|"]
    slower: dict[str, float] = {}
    _look()
    try:
        for name in given.names or NAMES:
            since = paces_taken()
            _look()
            for row in importlib.import_module(name).rows():
                print(row, flush=True)
                met = {True: "met", False: "missed", None: ""}[row.met]
                lines.append(f"| {row.what} | {row.figure} | {row.bar} | {met} |")
            _look()
            slower[name] = slower_than_quiet(since)
    finally:
        if beside is not None:
            beside.kill()
    day = datetime.now(UTC).date()
    where = " beside a busy program" if given.busy else ""
    lines += ["", f"{day}, Python {platform.python_version()}, two cores{where}. {_slow(slower)}"]
    if not given.names and not given.busy:
        text = DOC.read_text("utf-8")
        before, _, rest = text.partition(BEGIN)
        table = "\n".join(lines)
        DOC.write_text(f"{before}{BEGIN}{table}\n{END}{rest.partition(END)[2]}", "utf-8")


if __name__ == "__main__":
    main()
