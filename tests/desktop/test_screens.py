"""Two screens, one of them fine: the window is found again on the one it was left on."""

import json
import os
import subprocess
import sys

STAGE = """
import json, sys
from pathlib import Path
from PySide6.QtCore import QEventLoop, QTimer
from yardtoll.desktop.app import make_app, make_window
from yardtoll.desktop.workbench.settings import UserSettings
app = make_app()
settings = UserSettings(Path(sys.argv[1]))

def wait(ms):
    loop = QEventLoop()
    QTimer.singleShot(ms, loop.quit)
    loop.exec()

def tell(window):
    at = window.geometry()
    told = [window.screen().name(), at.x(), at.y(), at.width(), at.height()]
    print(json.dumps(told), flush=True)

window = make_window(settings)
window.show()
wait(1700)
"""
LEFT = {"name": "left", "x": 0, "y": 0, "width": 1280, "height": 800, "dpr": 1}
RIGHT = {"name": "right", "x": 1280, "y": 0, "width": 1920, "height": 1080, "dpr": 2}


def play(tmp_path, lines, *screens):
    dots = {"logicalDpi": 96, "logicalBaseDpi": 96}
    config = tmp_path / "screens.json"
    config.write_text(
        json.dumps(
            {
                "synchronousWindowSystemEvents": False,
                "windowFrameMargins": False,
                "screens": [{**screen, **dots} for screen in screens],
            }
        )
    )
    made = subprocess.run(
        [sys.executable, "-c", STAGE + lines, str(tmp_path / "settings.ini")],
        env={**os.environ, "QT_QPA_PLATFORM": f"offscreen:configfile={config}"},
        capture_output=True, text=True, timeout=100, check=False,
    )  # fmt: skip
    assert made.returncode == 0, made.stderr[-2000:]
    return [json.loads(line) for line in made.stdout.splitlines() if line.startswith("[")]


LEAVE = "window.close(); wait(100)\n"


def test_it_comes_back_to_the_screen_it_was_left_on(tmp_path):
    lines = (
        "tell(window)\nwindow.move(1400, 60); window.resize(1500, 900); wait(400)\ntell(window)\n"
    )
    first, moved = play(tmp_path, lines + LEAVE, LEFT, RIGHT)
    assert first[0] == "left" and first[3] <= LEFT["width"] and first[4] <= LEFT["height"]
    assert moved == ["right", 1400, 60, 1500, 900]
    (again,) = play(tmp_path, "tell(window)\n" + LEAVE, LEFT, RIGHT)
    assert again == moved
    (without,) = play(tmp_path, "tell(window)\n" + LEAVE, LEFT)  # the other was taken away
    assert without[0] == "left"
    assert without[1] + without[3] <= LEFT["width"] and without[2] + without[4] <= LEFT["height"]


def test_it_becomes_no_larger_than_the_screen_it_is_moved_to(tmp_path):
    lines = "window.move(1400, 60); window.resize(1500, 900); wait(300)\nwindow.move(40, 20)\n"
    (moved,) = play(tmp_path, lines + "wait(300)\ntell(window)\n", LEFT, RIGHT)
    assert moved[0] == "left" and moved[3] <= LEFT["width"] and moved[4] <= LEFT["height"]
