"""A shell command from nothing to its figures, against importing Polars and Typer: CPU in pairs."""

from pathlib import Path

from rows import Row, at_most, paired, show

EXAMPLES = Path(__file__).parents[1] / "examples"
BARE = "import polars, typer"
OURS = """
import sys
from yardtoll.cli import main
main(sys.argv[1:])
"""
_SITE = ("--lat", "40", "--lon", "-100", "--array-w", "400", "--tilt", "30", "--azimuth", "180")
COMMANDS = (
    ("discharge", ("plain-seconds.csv", "--rated-wh", "2048"), 1.5),
    ("recharge", ("plain-seconds.csv", "--rated-wh", "2048"), 2.5),
    ("solar", ("solar-day.csv", *_SITE, "--tz", "UTC"), 2.5),
)


def rows() -> list[Row]:
    """A ratio a command."""
    found = []
    for kind, (log, *further), bar in COMMANDS:
        ratio = paired(OURS, BARE, "compute", kind, str(EXAMPLES / log), *further)
        found.append(at_most(f"compute {kind} ÷ import polars, typer", ratio, bar, "×"))
    return found


if __name__ == "__main__":
    show(rows())
