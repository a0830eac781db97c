"""A yard of three runs, of 200 small ones, of 200 with 100,000 samples each: painted, and kept."""

from pathlib import Path

from made_yards import big_yard
from rows import Row, at_most, in_folder, printed, show

CODE = """
import sys, time
from pathlib import Path
from PySide6.QtCore import QEventLoop
from yardtoll.desktop.app import make_app, make_window
from yardtoll.desktop.workbench.settings import UserSettings
app = make_app()
window = make_window(UserSettings(Path(sys.argv[2])))
window.show()
app.processEvents()
start = time.perf_counter()
window.open_yard(Path(sys.argv[1]))
app.processEvents()
window.grab()
painted = time.perf_counter() - start
bench = window.bench
while not bench.analyses.settled or bench.jobs.busy:
    app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 20)
pages = int(Path("/proc/self/statm").read_text().split()[1])
print(painted, time.perf_counter() - start, pages * 4096 / 1e6)
"""
SIZES = {"3 runs": (3, 500), "200 small runs": (200, 500), "200 × 100,000 samples": (200, 100_000)}


def rows() -> list[Row]:
    """Time to the first paint, and memory when every result is there."""

    def measure(folder: Path) -> list[Row]:
        found = {}
        for name, (runs, samples) in SIZES.items():
            path = big_yard(folder / f"{runs}-{samples}.yard", runs, samples, min(runs, 4))
            said = printed(CODE, str(path), str(folder / "settings.ini")).split()
            found[name] = [float(word) for word in said[-3:]]
        few, small, large = found.values()
        return [
            at_most("first paint of 200 small runs", small[0], 1, "s"),
            at_most("first paint of 200 × 100,000 samples", large[0], 1, "s"),
            Row("the same of 3 runs", f"{few[0]:.2f} s", "–"),
            at_most(
                "memory that 200 × 100,000 samples take more", large[2] - small[2], 200, "MB", 0
            ),
            Row(
                "all results of 200 small, of 200 large runs",
                f"{small[1]:.1f}, {large[1]:.1f} s",
                "–",
            ),
        ]

    return in_folder(measure)


if __name__ == "__main__":
    show(rows())
