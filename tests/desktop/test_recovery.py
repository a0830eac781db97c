"""A program killed in mid-run; the run is there, and is resumed or closed as it is."""

import os
import re
import shutil
import signal
import sqlite3
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest
from conftest_helpers import worked_out
from PySide6.QtWidgets import QLabel, QPushButton

from yardtoll.desktop.views.stop import RUN
from yardtoll.review.analysis import analyse_run
from yardtoll.store.records import Run
from yardtoll.store.yard_file import YardFile

RESUMED = re.compile(r"Resumed after a gap of (\d+) s")
VICTIM = """
import sys
from pathlib import Path
sys.path.insert(0, sys.argv[2])
from stage import open_stage, start_run, spin
window = open_stage()
path = window.bench.session.yard.path
start_run(window, 3, 60.0)
print(path, flush=True)
while True:
    spin(200)
    print(window.bench.live.samples.time_s[-1], flush=True)
"""


@pytest.fixture
def killed(killed_once, tmp_path) -> Path:
    """A copy of a yard whose program was killed in the middle of a run."""
    folder = tmp_path / "killed"
    shutil.copytree(killed_once.parent, folder)
    return folder / killed_once.name


@pytest.fixture(scope="module")
def killed_once() -> Path:
    """A yard whose program was killed with SIGKILL two and a half seconds into a run."""
    tools = str(Path(__file__).parents[2] / "tools")
    process = subprocess.Popen(
        [sys.executable, "-c", VICTIM, "", tools],
        stdout=subprocess.PIPE,
        text=True,
        env=dict(os.environ),
    )
    path = Path(process.stdout.readline().strip())
    seen = 0.0
    until = time.monotonic() + 120
    while seen < 120 and time.monotonic() < until:
        seen = float(process.stdout.readline())
    process.send_signal(signal.SIGKILL)
    process.wait()
    process.stdout.close()
    assert seen >= 120
    with YardFile.open(path) as yard:
        (run,) = yard.unfinished_runs()
        # One second of real time is sixty of the bench's here.
        assert yard.trace(run.id).time_s[-1] >= seen - 60
    return path


def card_button(view, text):
    return next(b for b in view.findChildren(QPushButton) if b.text() == text)


def test_resumed_with_the_gap_recorded(qtbot, window, killed):
    window.settings.simulated_speed = 60.0
    window.open_yard(killed)
    assert "can be resumed or closed" in window.notice.text
    view = window.stack.current_view()
    assert window.rail.current == "run"
    said = " ".join(found.text() for found in view.findChildren(QLabel))
    assert "was in progress when the program stopped" in said
    before = window.bench.session.yard.trace(window.bench.interrupted()[0].id).time_s
    with sqlite3.connect(killed) as raw:  # as if eleven seconds had gone by since
        raw.execute("UPDATE recording_block SET kept_boot_s = kept_boot_s - 11")
    raw.close()
    card_button(view, "Resume it").click()
    live = window.bench.live
    qtbot.waitUntil(lambda: len(live.samples) > before.size + 60, timeout=60_000)
    marks = [m.word for m in live.yard.marks(live.run_id)]
    gaps = [int(found[1]) for word in marks if (found := RESUMED.fullmatch(word))]
    assert len(gaps) == 1 and gaps[0] >= 11
    window.bench.live.stop()
    qtbot.waitUntil(lambda: window.bench.live is None, timeout=60_000)
    worked_out(qtbot, window)
    run = window.bench.session.yard.get(Run, live.run_id)
    analysis = analyse_run(window.bench.session.yard, run)
    np.testing.assert_array_equal(analysis.trace.time_s[: before.size], before)
    (gap,) = analysis.energy_out.result.gaps
    assert gap.bridged_by == "counter"
    assert gap.end_s - gap.start_s >= 11
    # The simulated load ran on at real pace: its counter tells what the gap took.
    assert gap.energy_wh == pytest.approx(60 * (gap.end_s - gap.start_s) / 3600, rel=0.1)


def test_closed_as_it_is(qtbot, window, killed):
    window.open_yard(killed)
    run = window.bench.interrupted()[0]
    card_button(window.stack.current_view(), "Close it as it is").click()
    qtbot.waitUntil(lambda: window.bench.interrupted() == [], timeout=60_000)
    kept = window.bench.session.yard.get(Run, run.id)
    assert kept.state == "finished" and "closed as kept" in kept.conditions.end_reason
    worked_out(qtbot, window)
    window.go_to(RUN)
    assert "closed as kept" in window.stack.current_view().idle_page.text.text()


def test_a_fresh_demo_points_to_the_run_left_in_the_one_before(qtbot, window, killed):
    window.settings.remember_yard(killed)
    window.open_demo()
    qtbot.waitUntil(lambda: "left unfinished in the demo" in window.notice.text, timeout=60_000)
    assert window.bench.session.path != killed
    window.notice.action_button.click()
    assert window.bench.session.path == killed
    assert window.rail.current == "run"


@pytest.mark.xvfb
@pytest.mark.skipif(shutil.which("xvfb-run") is None, reason="Xvfb is not installed")
def test_the_demo_plays_in_a_real_window(tmp_path):
    """What script/demo does on a machine without a display."""
    picture = tmp_path / "demo.png"
    env = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY")}
    done = subprocess.run(
        ["xvfb-run", "-a", "-s", "-screen 0 1280x800x24", sys.executable,
         str(Path(__file__).parents[2] / "tools" / "play_demo.py"), str(picture), "2"],
        env={**env, "QT_QPA_PLATFORM": "xcb"}, capture_output=True, text=True, timeout=300,
        check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    assert done.stdout.startswith("The demo plays: Fennel 2k has delivered")
    from PySide6.QtGui import QImage

    image = QImage(str(picture))
    assert (image.width(), image.height()) == (1280, 800)
    assert len({image.pixel(x, y) for x in range(0, 1280, 9) for y in range(0, 800, 9)}) > 20
