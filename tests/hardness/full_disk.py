"""A disk that is full in the middle of each kind of work, on a small file system in memory.

Needs the right to mount one; without it nothing is tried, and the table says so.
"""

import contextlib
import random
import shutil
import subprocess
import tempfile
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
from tests.hardness.kills import LOG, OLD, Outcome, _demo, prepared

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.errors import UnusableDataError
from yardtoll.desktop.workbench.session import Session
from yardtoll.report.sheet.render import sheet_html
from yardtoll.review.sheet.build import build_sheet
from yardtoll.store.errors import BusyYardError, FullDiskError, StoreError
from yardtoll.store.importing import import_logs
from yardtoll.store.integrity import examine
from yardtoll.store.package.writing import write_package
from yardtoll.store.records import Recording, Run, Station
from yardtoll.store.yard_file import YardFile
from yardtoll.whole_files import write_whole

SIZE = "6m"


@contextlib.contextmanager
def small_disk() -> Iterator[Path | None]:
    """A folder on a disk of a few megabytes; None where none may be made."""
    folder = Path(tempfile.mkdtemp(prefix="yardtoll-hardness-"))
    mounted = (
        shutil.which("mount")
        and not subprocess.run(
            ["mount", "-t", "tmpfs", "-o", f"size={SIZE}", "tmpfs", str(folder)],
            check=False,
            capture_output=True,
        ).returncode
    )
    try:
        yield folder if mounted else None
    finally:
        if mounted:
            subprocess.run(["umount", "-l", str(folder)], check=False)
        folder.rmdir()


@contextlib.contextmanager
def filled(folder: Path, left_bytes: int) -> Iterator[None]:
    """Only so much room is left inside."""
    ballast = folder / "ballast"
    free = shutil.disk_usage(folder).free
    ballast.write_bytes(b"\0" * max(free - left_bytes, 0))
    try:
        yield
    finally:
        ballast.unlink()


def record(folder: Path, left_bytes: int) -> str:
    """What was said to be kept is there; what could not be is kept afterwards."""
    yard = YardFile.create(folder / "r.yard", "K")
    station = yard.put(Station(name="S", rated_wh=1, rated_w=1))
    run = yard.put(
        Run(station_id=station.id or 0, number=1, method="capacity_ac", state="running",
            origin="live", started_at="2026-01-01T00:00:00+00:00")
    )  # fmt: skip
    main = yard.put(Recording(run_id=run.id or 0, role="ac_output", quantities=("power",)))
    kept = full = 0

    def append(count: int) -> None:
        times = np.arange(float(count)) + kept
        yard.append_samples(main.id or 0, times, {Quantity.POWER: np.ones(count)})

    with filled(folder, left_bytes):
        for _ in range(400):
            try:
                append(500)
                kept += 500
            except (FullDiskError, BusyYardError):
                full += 1
                if full > 3:
                    break
    append(500)
    kept += 500
    trace = yard.trace(run.id or 0)
    yard.close()
    there = trace.time_s.size if trace is not None else 0
    if not full:
        return "the disk never was full"
    return "" if there == kept else f"{kept - there} samples"


def _again(work: Callable[[], object], folder: Path, left_bytes: int) -> str:
    """One sentence when the disk is full; the same work is done when it is not."""
    with filled(folder, left_bytes):
        try:
            work()
        except (StoreError, UnusableDataError, OSError) as error:
            if "\n" in str(error):
                return "an error of many lines"
        else:
            return ""  # there was room enough
    work()
    return ""


def create(folder: Path, left_bytes: int) -> str:
    """A new yard."""
    return _again(lambda: YardFile.create(folder / "c.yard", "K").close(), folder, left_bytes)


def migrate(folder: Path, left_bytes: int) -> str:
    """An old yard brought up to date."""
    path = folder / "old.yard"
    shutil.copy(OLD, path)
    wrong = _again(lambda: YardFile.open(path).close(), folder, left_bytes)
    cut = [c.name for c in folder.glob("*.before-update*") if not examine(c).is_sound]
    with YardFile.open(path) as yard:
        return wrong or ("" if yard.runs() and not cut else f"its runs, or a cut copy {cut}")


def bring_in(folder: Path, left_bytes: int) -> str:
    """A log imported."""
    path = folder / "i.yard"
    YardFile.create(path, "K").close()
    wrong = _again(
        lambda: import_logs([LOG], path, "S", rated_wh=2048, rated_w=2000), folder, left_bytes
    )
    with YardFile.open(path) as yard:
        return wrong or ("" if all(yard.trace(run.id or 0) for run in yard.runs()) else "a trace")


def export(folder: Path, left_bytes: int) -> str:
    """A package written."""
    path = folder / "small.yard"
    YardFile.create(path, "K").close()
    import_logs([LOG], path, "S", rated_wh=2048, rated_w=2000)
    out = folder / "out"

    def work() -> None:
        with YardFile.open(path) as yard:
            write_package(yard, out)

    return _again(work, folder, min(left_bytes, 60_000))


def sheet(folder: Path, left_bytes: int) -> str:
    """A sheet written over yesterday's."""
    with YardFile.open(prepared("demo.yard", _demo)) as yard:
        html = sheet_html(build_sheet(yard, yard.stations()[0]))
    path = folder / "sheet.html"
    path.write_text("yesterday's")
    with filled(folder, min(left_bytes, 50_000)):
        with contextlib.suppress(OSError):
            write_whole(path, html)
        if path.read_text() not in ("yesterday's", html):
            return "yesterday's sheet"
    write_whole(path, html)
    return ""


def undo(folder: Path, left_bytes: int) -> str:
    """Edits, steps back and on: a step that failed was not taken, and is when there is room."""
    with YardFile.create(folder / "u.yard", "K") as yard:
        yard.put(Station(name="0", rated_wh=1, rated_w=1))
        session = Session(yard)
        done, undone, full = ["0"], [""], False
        with filled(folder, min(left_bytes, 60_000)):
            for number in range(1, 2000):
                try:
                    if number % 3 == 1:
                        session.edit(replace(yard.stations()[0], name=str(number)), "edit")
                        done.append(str(number))
                    elif number % 3 == 2:
                        session.undo()
                        undone.append(done.pop())
                    else:
                        session.redo()
                        done.append(undone.pop())
                except (FullDiskError, BusyYardError):
                    full = True
                    break
            there = yard.stations()[0].name
        if not full:
            return "the disk never was full"
        if there != done[-1]:
            return f"{done[-1]} was said, {there} is there"
        if session.undo_stack.canUndo():
            session.undo()
            done.pop()
        return "" if yard.stations()[0].name == done[-1] else "the step afterwards"


KINDS = {
    "undo": undo, "record": record, "create": create, "migrate": migrate, "import": bring_in,
    "export": export, "sheet": sheet,
}  # fmt: skip


def fill_many(kind: str, times: int, seed: int) -> Outcome | None:
    """So many full disks; None where none can be made."""
    chance = random.Random(f"{kind} {seed}")
    outcome = Outcome()
    for _ in range(times):
        with small_disk() as folder:
            if folder is None:
                return None
            try:
                wrong = KINDS[kind](folder, chance.randrange(0, 400_000))
                sound = all(examine(path).is_sound for path in folder.glob("*.yard"))
                wrong = wrong or ("" if sound else "a sound file")
            except Exception as error:  # whatever it is, the full disk was not survived
                wrong = f"{type(error).__name__}: {error}"[:200]
            outcome.add(wrong)
    return outcome
