"""Programs killed at random moments (SIGKILL), and what is left of their files.

Each kind of work runs in a process of its own, which says on its output what is kept. It is killed
after a random time, and what it said must be there; the file must be sound, and the same work must
be possible again.
"""

import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from yardtoll.store.integrity import examine
from yardtoll.store.package.reading import read_package
from yardtoll.store.records import Station
from yardtoll.store.yard_file import YardFile

HERE = Path(__file__).parents[1]
OLD = HERE / "store" / "yards" / "version-5.yard"
LOG = HERE.parent / "examples" / "plain-seconds.csv"


@dataclass
class Outcome:
    """How often an attack was tried, and what was wrong after it: the first few."""

    tried: int = 0
    lost: int = 0
    said: tuple[str, ...] = ()

    def add(self, wrong: str) -> None:
        """One more; empty if nothing was wrong."""
        self.tried += 1
        if wrong:
            self.lost += 1
            self.said = (*self.said, wrong)[:10]


RECORD = """
import sys, numpy as np
from pathlib import Path
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.store.records import Recording, Run, Station
from yardtoll.store.yard_file import YardFile
yard = YardFile.create(Path(sys.argv[1]) / "r.yard", "K")
station = yard.put(Station(name="S", rated_wh=1, rated_w=1))
run = yard.put(Run(station_id=station.id, number=1, method="capacity_ac", state="running",
                   origin="live", started_at="2026-01-01T00:00:00+00:00"))
main = yard.put(Recording(run_id=run.id, role="ac_output", quantities=("power",))).id
for n in range(1_000_000):
    yard.append_samples(main, np.array([float(n)]), {Quantity.POWER: np.ones(1)})
    print(n + 1, flush=True)
"""
EDIT = """
import sys
from dataclasses import replace
from pathlib import Path
from yardtoll.store.records import Station
from yardtoll.store.yard_file import YardFile
yard = YardFile.create(Path(sys.argv[1]) / "e.yard", "K")
station = yard.put(Station(name="0", rated_wh=1, rated_w=1))
for n in range(1, 1_000_000):
    yard.put(replace(station, name=str(n)))
    print(n, flush=True)
"""
UNDO = """
import sys
from dataclasses import replace
from pathlib import Path
from PySide6.QtCore import QCoreApplication
from yardtoll.desktop.workbench.session import Session
from yardtoll.store.records import Station
from yardtoll.store.yard_file import YardFile
app = QCoreApplication([])
yard = YardFile.create(Path(sys.argv[1]) / "u.yard", "K")
yard.put_all([Station(name="0", rated_wh=1, rated_w=1), Station(name="0", rated_wh=1, rated_w=1)])
session = Session(yard)
for n in range(1, 1_000_000):
    with session.together("both"):
        for station in yard.stations():
            session.edit(replace(station, name=str(n)), "one")
    session.undo()
    session.redo()
    session.undo()
    print(n, flush=True)
    session.redo()
"""
MIGRATE = """
import sys
from pathlib import Path
from yardtoll.store.yard_file import YardFile
print("begun", flush=True)
YardFile.open(Path(sys.argv[1]) / "old.yard").close()
print("done", flush=True)
"""
CREATE = """
import sys
from pathlib import Path
from yardtoll.store.yard_file import YardFile
print("begun", flush=True)
YardFile.create(Path(sys.argv[1]) / "c.yard", "K").close()
print("done", flush=True)
"""
SHELL = """
import sys
from yardtoll.cli import main
print("begun", flush=True)
main(sys.argv[2:])
"""
PREPARED: dict[str, Path] = {}


def prepared(name: str, make: Callable[[Path], None]) -> Path:
    """A file that is made once and copied for each try."""
    if name not in PREPARED:
        folder = Path(tempfile.mkdtemp(prefix="yardtoll-hardness-"))
        PREPARED[name] = folder / name
        make(PREPARED[name])
    return PREPARED[name]


def killed(code: str, arguments: list[str], after_s: float) -> list[str]:
    """The lines of a program up to its end by SIGKILL, or by itself."""
    with subprocess.Popen(
        [sys.executable, "-c", code, *arguments],
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
    ) as child:
        assert child.stdout is not None
        lines = [child.stdout.readline()]  # it has begun
        try:
            child.wait(after_s)
        except subprocess.TimeoutExpired:
            os.kill(child.pid, signal.SIGKILL)
        lines += child.stdout.readlines()
    # The last line may be cut.
    return [line.strip() for line in lines if line.endswith("\n")]


def record(folder: Path, after_s: float) -> str:
    """Every sample that was said to be kept is there."""
    lines = killed(RECORD, [str(folder)], after_s)
    with YardFile.open(folder / "r.yard") as yard:
        runs = yard.runs()
        trace = yard.trace(runs[0].id or 0) if runs else None
    kept = trace.time_s.size if trace is not None else 0
    said = int(lines[-1] or 0) if lines else 0
    return "" if kept >= said else f"{said - kept} samples"


def edit(folder: Path, after_s: float) -> str:
    """The last edit that was said to be kept is there, whole."""
    lines = killed(EDIT, [str(folder)], after_s)
    with YardFile.open(folder / "e.yard") as yard:
        name = int(yard.stations()[0].name)
    said = int(lines[-1]) if lines else 0
    return "" if name >= said else f"edit {said}, {name} is there"


def undo(folder: Path, after_s: float) -> str:
    """A step of two edits, and back, and on, and back: before the next begins it is kept."""
    lines = killed(UNDO, [str(folder)], after_s)
    with YardFile.open(folder / "u.yard") as yard:
        names = [int(station.name) for station in yard.stations()]
    said = int(lines[-1] or 0) if lines else 0
    # The next step's edits are kept one by one, undo and redo both at once.
    return "" if min(names) >= said - 1 and max(names) <= said + 1 else f"step {said}: {names}"


def migrate(folder: Path, after_s: float) -> str:
    """The old yard, or the new one, with everything; no cut copy with a good name."""
    path = folder / "old.yard"
    shutil.copy(OLD, path)
    killed(MIGRATE, [str(folder)], after_s)
    for copy in folder.glob("*.before-update*.yard"):
        if not examine(copy).is_sound:
            return f"{copy.name} is cut"
    with YardFile.open(path) as yard:
        return "" if yard.runs() and yard.stations() else "its runs"


def create(folder: Path, after_s: float) -> str:
    """A whole yard or none, and it can be made then."""
    killed(CREATE, [str(folder)], after_s)
    path = folder / "c.yard"
    opened = YardFile.open(path) if path.exists() else YardFile.create(path, "K")
    with opened as yard:
        return "" if yard.info().name == "K" and yard.yardsticks() else "half a yard"


def bring_in(folder: Path, after_s: float) -> str:
    """An import that was cut can be made again."""
    yard = folder / "i.yard"
    given = ["import", str(LOG), "-o", str(yard), "--station", "S"]
    given += ["--rated-wh", "2048", "--rated-w", "2000"]
    killed(SHELL, [str(folder), *given], after_s)
    killed(SHELL, [str(folder), *given], 60.0)
    with YardFile.open(yard) as made:
        return "" if made.runs() and made.trace(made.runs()[-1].id or 0) else "the run"


def _demo(path: Path) -> None:
    from yardtoll.demo.yard import fresh_demo

    shutil.copy(fresh_demo(path.parent), path)


def export(folder: Path, after_s: float) -> str:
    """A whole package or none, and it can be made then."""
    yard = prepared("demo.yard", _demo)
    out = folder / "out"
    given = ["export", str(yard), str(out), "--parquet"]
    killed(SHELL, [str(folder), *given], after_s)
    if not (out / "datapackage.json").exists():
        if out.exists() and any(out.iterdir()):
            return "half a package with its name"
        killed(SHELL, [str(folder), *given], 120.0)
    read_package(out, folder / "back.yard")
    with YardFile.open(folder / "back.yard") as made, YardFile.open(yard) as source:
        return "" if len(made.runs()) == len(source.runs()) else "runs"


def pdf(folder: Path, after_s: float) -> str:
    """Yesterday's sheet or today's, whole."""
    yard = prepared("demo.yard", _demo)
    path = folder / "sheet.pdf"
    path.write_bytes(b"yesterday's")
    with YardFile.open(yard) as opened:
        station: Station = opened.stations()[0]
    given = ["report", str(yard), "--station", station.name, "-o", str(path)]
    killed(SHELL, [str(folder), *given], after_s)
    data = path.read_bytes()
    whole = data.startswith(b"%PDF") and data.rstrip().endswith(b"%%EOF")
    return "" if whole or data == b"yesterday's" else "the sheet"


KINDS: dict[str, tuple[Callable[[Path, float], str], float]] = {
    "record": (record, 0.6),
    "edit": (edit, 0.6),
    "undo": (undo, 0.9),
    "migrate": (migrate, 0.6),
    "create": (create, 0.25),
    "import": (bring_in, 1.5),
    "export": (export, 2.5),
    "pdf": (pdf, 5.0),
}
"""What is done, and the longest time before the kill in s."""


def kill_many(kind: str, times: int, seed: int) -> Outcome:
    """Kill one kind of work so many times."""
    work, longest_s = KINDS[kind]
    chance = random.Random(f"{kind} {seed}")
    outcome = Outcome()
    for _ in range(times):
        with tempfile.TemporaryDirectory(prefix="yardtoll-hardness-") as folder:
            try:
                wrong = work(Path(folder), chance.uniform(0.0, longest_s))
                sound = all(examine(path).is_sound for path in Path(folder).glob("*.yard"))
                wrong = wrong or ("" if sound else "a sound file")
            except Exception as error:  # whatever it is, the kill was not survived
                wrong = f"{type(error).__name__}: {error}"[:200]
            outcome.add(wrong)
    return outcome
