"""A window that records from a meter which goes through every bad way, with its heartbeat watched.

Usage: heartbeat_window.py FOLDER [--seconds N]   (a mode lasts N seconds)
Prints the longest time the window stood still, in ms, and what was said; fails if it crashed.
"""

import argparse
import itertools
import os
import sys
import time
from pathlib import Path

os.environ.setdefault(
    "QT_QPA_PLATFORM",
    f"offscreen:configfile={Path(__file__).parents[2] / 'tools' / 'offscreen.json'}",
)
sys.path.insert(0, str(Path(__file__).parents[2]))

from PySide6.QtCore import QTimer
from tests.hardness.hostile_meter import POLLED, HostileMeter

MODES = (
    "good", "hang", "good", "garbage", "good", "stray line", "good", "cut", "good", "flood",
    "good", "nan", "overload", "good", "close", "good", "long line", "good", "binary", "late",
    "other device", "good",
)  # fmt: skip


def main() -> None:
    """Go through the modes."""
    asked = argparse.ArgumentParser()
    asked.add_argument("folder", type=Path)
    asked.add_argument("--seconds", type=float, default=1.5)
    given = asked.parse_args()
    os.environ["XDG_CONFIG_HOME"] = str(given.folder / "config")
    profiles = given.folder / "config" / "yardtoll" / "profiles"
    profiles.mkdir(parents=True)
    (profiles / "hostile.toml").write_text(f'protocol = "scpi"\n{POLLED}', "utf-8")

    from yardtoll.core.planning.loads import LoadSetting
    from yardtoll.desktop.app import make_app, make_window
    from yardtoll.desktop.workbench.settings import UserSettings
    from yardtoll.desktop.workbench.tidying import Tidying
    from yardtoll.running.plan import plan_for_load
    from yardtoll.store.records import Load, Meter, Station
    from yardtoll.store.yard_file import YardFile

    app = make_app()
    tidying = Tidying(app)  # as the program does
    tidying.start()
    tidying.settle()
    window = make_window(UserSettings(given.folder / "settings.ini"))
    window.resize(1280, 800)
    window.show()
    with HostileMeter() as meter:
        path = given.folder / "h.yard"
        with YardFile.create(path, "H") as yard:
            station = yard.put(Station(name="Sorrel", rated_wh=300, rated_w=300))
            kept = yard.put(
                Meter(
                    name="Hostile",
                    profile="hostile",
                    address=meter.address,
                    reading_share=0.01,
                    floor_w=0.1,
                )
            )
            load = yard.put(Load(name="Lamp", settings=(LoadSetting(name="on", watts=100.0),)))
        window.open_yard(path)
        plan = plan_for_load(station, kept, load)
        if not window.bench.start_run(plan):
            raise SystemExit("the run did not begin")
        session = window.bench.live
        window.go_to("run")
        beats = [time.monotonic()]
        heart = QTimer(interval=10)
        heart.timeout.connect(lambda: beats.append(time.monotonic()))
        heart.start()
        said: list[str] = []
        real_say = window.say
        window.say = lambda *words: (said.append(str(words[0])), real_say(*words))  # type: ignore[method-assign]
        for mode in MODES:
            if mode == "other device":
                meter.identity, meter.mode = "Somebody else's", "close"
            else:
                meter.mode = mode
            until = time.monotonic() + given.seconds
            while time.monotonic() < until:
                app.processEvents()
                time.sleep(0.002)
        heart.stop()
        longest_ms = 1000 * max(b - a for a, b in itertools.pairwise(beats))
        count, wrong = len(session.samples), _wrong(session)
        window.bench.leave_runs()
        window.close()
    print(f"longest {longest_ms:.0f} ms  samples {count}  wrong {wrong}  said {len(said)}")
    if wrong or not count:
        raise SystemExit(1)


def _wrong(session: object) -> int:
    """Samples that are neither what the meter showed nor nothing."""
    import numpy as np

    from yardtoll.core.electrical.quantities import Quantity

    watts = session.samples.column(Quantity.POWER)  # type: ignore[attr-defined]
    return int(np.count_nonzero(np.isfinite(watts) & (watts != 100.0)))


if __name__ == "__main__":
    main()
