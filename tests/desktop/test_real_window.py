"""A real window under a window manager: place, focus, menus, keys, what a screen reader finds."""

import json
import os
import select
import shutil
import subprocess
import sys
import time
from pathlib import Path

import pytest

NEEDED = ("Xvfb", "openbox", "xdotool", "dbus-daemon")
pytestmark = pytest.mark.skipif(
    not all(map(shutil.which, NEEDED)), reason=f"needs {', '.join(NEEDED)}"
)
SCREEN = (1280, 800)
STAGE = """
import json, subprocess, sys
from pathlib import Path
from PySide6.QtCore import QEventLoop, QTimer, Qt
from PySide6.QtWidgets import QApplication, QComboBox, QDialog
from yardtoll.desktop.app import make_app, make_window
from yardtoll.desktop.workbench.settings import UserSettings
from yardtoll.demo.starter_bench import add_starter_bench
from yardtoll.store.records import Station
app = make_app()
folder = Path(sys.argv[1])
settings = UserSettings(folder / "settings.ini")

def wait(ms):
    loop = QEventLoop()
    QTimer.singleShot(ms, loop.quit)
    loop.exec()

def until(found, most_ms=20_000):
    for _ in range(most_ms // 50):
        if found():
            return True
        wait(50)
    return False

def tell(**said):
    print(json.dumps(said), flush=True)

def keys(*pressed):
    # In a process of its own, while this one goes on showing what comes of it.
    sent = subprocess.Popen(["xdotool", "key", "--delay", "60", *pressed])
    until(lambda: sent.poll() is not None)
    wait(300)

def place(window):
    frame = window.frameGeometry()
    return [frame.left(), frame.top(), frame.width(), frame.height()]

def shown():
    window = make_window(settings)
    window.show()
    until(window.isActiveWindow)
    wait(1900)
    return window
"""


def start(command, display, **options):
    return subprocess.Popen(
        command, env={**os.environ, **display}, stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL, **options,
    )  # fmt: skip


def tiling(folder):
    """The window manager's usual ways, and a key that tiles a window to the left half."""
    key = (
        '<keybind key="W-Left"><action name="UnmaximizeFull"/><action name="MoveResizeTo">'
        "<x>0</x><y>0</y><width>50%</width><height>100%</height></action></keybind>"
    )
    usual = Path("/etc/xdg/openbox/rc.xml").read_text("utf-8")
    made = folder / "rc.xml"
    made.write_text(usual.replace("</keyboard>", f"{key}</keyboard>"), "utf-8")
    return made


@pytest.fixture(scope="module")
def display(tmp_path_factory):
    """A screen with a window manager, and a session bus with the accessibility bus on it."""
    read, write = os.pipe()
    size = f"{SCREEN[0]}x{SCREEN[1]}x24"
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", size, "-nolisten", "tcp"],
        pass_fds=[write], stderr=subprocess.DEVNULL,
    )  # fmt: skip
    os.close(write)
    with os.fdopen(read) as told:
        number = told.readline().strip()
    bus = subprocess.Popen(
        ["dbus-daemon", "--session", "--print-address", "--nofork"],
        env={**os.environ, "DISPLAY": f":{number}"}, stdout=subprocess.PIPE, text=True,
    )  # fmt: skip
    address = bus.stdout.readline().strip()
    found = {
        "DISPLAY": f":{number}", "DBUS_SESSION_BUS_ADDRESS": address, "QT_QPA_PLATFORM": "xcb",
        "XDG_RUNTIME_DIR": str(tmp_path_factory.mktemp("runtime")),
    }  # fmt: skip
    manager = start(["openbox", "--config-file", str(tiling(tmp_path_factory.mktemp("wm")))], found)
    time.sleep(1.0)
    yield found
    for process in (manager, server, bus):
        process.terminate()
        process.wait()
    bus.stdout.close()


@pytest.fixture
def play(display, tmp_path):
    """Run some lines in a program of its own on that screen; what it told, line by line."""

    def play(lines, **further):
        made = subprocess.run(
            [sys.executable, "-c", STAGE + lines, str(tmp_path)],
            env={**os.environ, **display, **further}, capture_output=True, text=True, timeout=150,
            check=False,
        )  # fmt: skip
        assert made.returncode == 0, made.stderr[-3000:]
        return [json.loads(line) for line in made.stdout.splitlines() if line.startswith("{")]

    return play


def test_it_opens_within_the_screen_and_as_it_was_left(play):
    (first,) = play("window = shown()\ntell(place=place(window))")
    left, top, width, height = first["place"]
    assert left >= 0 and top >= 0
    assert left + width <= SCREEN[0] and top + height <= SCREEN[1]
    moved, again, maximised = play(
        "window = shown()\n"
        "window.resize(1000, 640); window.move(120, 60); wait(500)\n"
        "tell(place=place(window)); window.close(); wait(200)\n"
        "window = shown()\n"
        "tell(place=place(window))\n"
        "window.showMaximized(); wait(800); window.close(); wait(200)\n"
        "window = shown()\n"
        "maximised = window.isMaximized(); window.showNormal(); wait(800)\n"
        "tell(is_maximised=maximised, place=place(window))\n"
    )
    for told in (again, maximised):  # what it was before it filled the screen is remembered too
        assert moved["place"][2:] == told["place"][2:]
        assert abs(moved["place"][0] - told["place"][0]) < 12
    assert maximised["is_maximised"]


def test_a_window_dragged_out_of_filling_the_screen_stays_where_it_is_put(play):
    (told,) = play(
        "window = shown()\nwindow.resize(900, 500); wait(400)\n"
        "window.showMaximized(); wait(600); window.showNormal(); wait(50)\n"
        "window.move(700, 200); wait(2200)\n"
        "tell(place=place(window))\n"
    )
    assert abs(told["place"][0] - 700) < 12 and abs(told["place"][1] - 200) < 30


def test_a_tiled_window_comes_back_tiled_and_its_stops_fit(play):
    """Half of a small screen, side by side with another program."""
    tiled, again, fits = play(
        "from PySide6.QtWidgets import QScrollArea\n"
        "from yardtoll.demo.yard import fresh_demo\n"
        "from yardtoll.desktop.views.stops import STOPS\n"
        "window = shown(); window.open_yard(fresh_demo(folder)); wait(1500)\n"
        "keys('super+Left'); wait(500); tell(place=place(window)); window.close(); wait(200)\n"
        "window = shown(); tell(place=place(window))\n"
        "window.open_yard(fresh_demo(folder)); over = {}\n"
        "for stop in STOPS:\n"
        "    window.go_to(stop); wait(400)\n"
        "    until(lambda: not window.jobs.busy and window.bench.analyses.settled, 60_000)\n"
        "    wait(300)\n"
        "    areas = [a for a in window.stack.findChildren(QScrollArea) if a.isVisible()]\n"
        "    over[stop] = [a.horizontalScrollBar().maximum() for a in areas]\n"
        "tell(over=over, wide=window.frameGeometry().width())\n"
    )
    assert tiled["place"][:2] == [0, 0]
    assert tiled["place"][2] == pytest.approx(SCREEN[0] / 2, abs=4)
    assert tiled["place"][3] == pytest.approx(SCREEN[1], abs=4)
    assert again["place"] == tiled["place"] and fits["wide"] == tiled["place"][2]
    assert len(fits["over"]) == 11
    assert {stop: most for stop, most in fits["over"].items() if any(most)} == {}


def test_it_opens_within_a_screen_of_twice_the_scale(play):
    """Of 1280 × 800 dots 640 × 400 are left; with a yard open too, and as it was left."""
    opened, again = play(
        "from yardtoll.demo.yard import fresh_demo\n"
        "window = shown(); window.open_yard(fresh_demo(folder)); wait(1500)\n"
        "tell(place=place(window), ratio=window.devicePixelRatioF())\n"
        "window.close(); wait(200)\n"
        "window = shown()\n"
        "tell(place=place(window))\n"
        "window.close()\n",
        QT_SCALE_FACTOR="2",
    )
    assert opened["ratio"] == 2
    for told in (opened, again):
        left, top, width, height = told["place"]
        assert left >= 0 and top >= 0
        assert left + width <= SCREEN[0] / 2 and top + height <= SCREEN[1] / 2


def test_a_window_left_outside_comes_back(play):
    (told,) = play(
        "window = shown()\nwindow.move(1100, 600); wait(600)\n"
        "from yardtoll.desktop.frame.placing import keep_within\n"
        "keep_within(window); wait(600)\ntell(place=place(window))"
    )
    left, top, width, height = told["place"]
    assert left + width <= SCREEN[0] and top + height <= SCREEN[1]


def test_menus_open_by_keys_and_lie_on_the_screen(play):
    (told,) = play(
        "window = shown()\nwindow.new_yard(folder / 'Bench.yard'); wait(300)\n"
        "keys('alt+f')\n"
        "until(lambda: QApplication.activePopupWidget() is not None, 5000)\n"
        "menu = QApplication.activePopupWidget()\n"
        "lies = menu.screen().availableGeometry().contains(menu.frameGeometry())\n"
        "tell(rows=[a.text() for a in menu.actions() if a.text()], lies=lies)\n"
        "menu.close()\n"
    )
    assert told["rows"][0] == "New yard…" and told["lies"]


def test_a_station_is_typed_in_by_keys_alone(play):
    (told,) = play(
        "window = shown()\nwindow.new_yard(folder / 'Bench.yard'); wait(300)\n"
        "dialogs = []\n"
        "def typing():\n"
        "    dialog = QApplication.activeModalWidget()\n"
        "    dialogs.append(type(dialog.focusWidget()).__name__)\n"
        "    wrong = dialog.wrong_label.isVisible()\n"
        "    dialogs.append(wrong)\n"
        "    keys(*'Sorrel', 'alt+3', 'Tab', *'288', 'Tab', *'300')\n"
        "    keys('Return')\n"
        "QTimer.singleShot(1500, typing)\n"
        "window.actions_by_name['Add a station…'].trigger()\n"
        "station = window.bench.session.station\n"
        "tell(name=station.name, wh=station.rated_wh, w=station.rated_w, focus=dialogs[0],"
        " red=dialogs[1])\n"
    )
    assert told == {"name": "Sorrel", "wh": 288, "w": 300, "focus": "QLineEdit", "red": False}


def test_a_choice_opens_whole_and_plan_does_not_move(play):
    before, after, popup = play(
        "window = shown()\nwindow.new_yard(folder / 'Bench.yard')\n"
        "made = window.bench.session.add(Station(name='S', rated_wh=288, rated_w=300), 'Add')\n"
        "window.bench.session.choose_station(made.id)\n"
        "window.go_to('plan'); wait(60)\n"
        "form = window.stack.current_view().form\n"
        "fields = (form.meters, form.start)\n"
        "spots = lambda: [w.mapToGlobal(w.rect().topLeft()).y() for w in fields]\n"
        "tell(spots=spots())\n"
        "until(lambda: not window.jobs.busy); wait(900)\n"
        "tell(spots=spots())\n"
        "form.start.showPopup(); wait(500)\n"
        "view = form.start.view()\n"
        "last = view.visualRect(form.start.model().index(1, 0))\n"
        "tell(last=last.bottom(), room=view.viewport().height())\n"
    )
    assert before == after
    assert popup["last"] < popup["room"]


OTHER_PROGRAM = """
import json, sys
from PySide6.QtCore import QMimeData, QPoint, Qt, QUrl
from PySide6.QtGui import QDrag
from PySide6.QtWidgets import QApplication, QLabel
app = QApplication(sys.argv[:1])

class Other(QLabel):
    def dragEnterEvent(self, event):
        event.acceptProposedAction()

    def dropEvent(self, event):
        took = event.mimeData()
        said = dict(formats=took.formats(), rows=len(took.text().splitlines()),
                    picture=took.hasImage() and took.imageData().width())
        event.acceptProposedAction()
        print(json.dumps(said), flush=True)

    def mouseMoveEvent(self, event):
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(sys.argv[1])])
        drag = QDrag(self)
        drag.setMimeData(data)
        drag.exec(Qt.DropAction.CopyAction)

other = Other("Another program")
other.setAcceptDrops(True)
other.setGeometry(980, 560, 280, 200)
other.show()
print(json.dumps({"at": "ready"}), flush=True)
app.exec()
"""


@pytest.fixture
def other_program(display, tmp_path):
    """Another program's window at the lower right; it takes what is dropped, and gives a file."""
    log = tmp_path / "dropped.csv"
    log.write_text("t [s],Power (W)\n" + "\n".join(f"{10 * i},400" for i in range(400)))
    program = subprocess.Popen(
        [sys.executable, "-c", OTHER_PROGRAM, str(log)], env={**os.environ, **display},
        stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True,
    )  # fmt: skip
    assert "ready" in program.stdout.readline()
    yield program
    program.kill()
    program.wait()
    program.stdout.close()


DRAG = """
def drag(start, end, *held):
    steps = [(start[0] + (end[0] - start[0]) * i // 12, start[1] + (end[1] - start[1]) * i // 12)
             for i in range(13)]
    pressed = [word for key in held for word in ("keydown", key)]
    let_go = [word for key in held for word in ("keyup", key)]
    words = ["mousemove", *map(str, start), "sleep", "0.3", *pressed, "mousedown", "1"]
    for x, y in steps:
        words += ["mousemove", str(x), str(y), "sleep", "0.08"]
    sent = subprocess.Popen(["xdotool", *words, "sleep", "0.5", "mouseup", "1", *let_go])
    until(lambda: sent.poll() is not None)
    wait(700)
"""


def test_a_chart_is_dropped_into_another_program(play, other_program):
    play(
        DRAG + "window = shown()\nwindow.resize(960, 520); window.move(0, 0)\nwindow.open_demo()\n"
        "until(lambda: window.bench is not None, 90_000)\n"
        "until(lambda: window.bench.analyses.settled and not window.jobs.busy, 60_000)\n"
        "window.go_to('ledger'); wait(800)\n"
        "from yardtoll.desktop.widgets.toll_strip import TollStrip\n"
        "strip = window.stack.current_view().findChild(TollStrip)\n"
        "spot = strip.mapToGlobal(strip.rect().center())\n"
        "drag((spot.x(), spot.y()), (1120, 660))\n"
    )
    came, _, _ = select.select([other_program.stdout], [], [], 10)
    assert came, "nothing was dropped"
    dropped = json.loads(other_program.stdout.readline())
    assert dropped["picture"] > 300
    assert "image/svg+xml" in dropped["formats"]


def test_a_log_is_dropped_from_another_program(play, other_program):
    (told,) = play(
        DRAG + "window = shown()\nwindow.resize(960, 520); window.move(0, 0)\n"
        "window.new_yard(folder / 'Bench.yard')\n"
        "made = window.bench.session.add(Station(name='S', rated_wh=288, rated_w=300), 'Add')\n"
        "window.bench.session.choose_station(made.id); window.go_to('ledger'); wait(500)\n"
        "asked = []\n"
        "def answer():\n"
        "    dialog = QApplication.activeModalWidget()\n"
        "    if dialog is not None and not asked and dialog.accept_button.isEnabled():\n"
        "        asked.append(dialog.windowTitle()); dialog.accept_button.click()\n"
        "look = QTimer(interval=300); look.timeout.connect(answer); look.start()\n"
        "drag((1120, 660), (500, 300))\n"
        "until(lambda: window.bench.session.yard.runs(made.id), 20_000)\n"
        "tell(asked=asked, runs=len(window.bench.session.yard.runs(made.id)))\n"
    )
    assert told["runs"] == 1 and told["asked"], told


WITH_A_READER = pytest.mark.skipif(
    subprocess.run(
        ["/usr/bin/python3", "-c", "import gi; gi.require_version('Atspi', '2.0')"],
        capture_output=True, check=False,
    ).returncode != 0,
    reason="needs the accessibility bus and its Python",
)  # fmt: skip


@WITH_A_READER
def test_what_a_screen_reader_finds_has_a_name(display, tmp_path):
    found = read_aloud(
        display, tmp_path,
        "for stop in STOPS:\n"
        "    window.go_to(stop); wait(400)\n"
        "    until(lambda: not window.jobs.busy, 60_000); wait(400)\n"
        "    look_at(stop)\n",
    )  # fmt: skip
    assert len(found) == 11
    assert unnamed_in(found) == []
    for stop, nodes in found.items():
        controls = [node for node in nodes if node["focusable"] and node["name"]]
        assert len(controls) >= 5, stop
        stops = [node["name"] for node in nodes if node["role"] == "radio button"]
        assert stops[:3] == ["Yard", "Claims", "Plan"], stop
    strip = next(n for n in found["ledger"] if n["name"].startswith("Toll strip"))
    assert "Wh" in strip["description"]


DIALOGS = (
    "Add a station…", "Add a claim…", "Paste claims from a text…", "Add a load…", "Add a meter…",
    "Add a circuit…", "Add a cord…", "Add an array…", "Add a run from notes…", "Preferences…",
    "About Yard Toll",
)  # fmt: skip


@WITH_A_READER
def test_what_a_screen_reader_finds_in_the_dialogs_has_a_name(display, tmp_path):
    found = read_aloud(
        display, tmp_path,
        f"names = [n for n in {DIALOGS!r} if n in window.actions_by_name]\n"
        "def asked(name):\n"
        "    until(lambda: QApplication.activeModalWidget() is not None, 20_000)\n"
        "    dialog = QApplication.activeModalWidget()\n"
        "    wait(400); look_at(name); dialog.reject()\n"
        "for name in names:\n"
        "    QTimer.singleShot(300, lambda n=name: asked(n))\n"
        "    window.actions_by_name[name].trigger(); wait(200)\n",
    )  # fmt: skip
    assert len(found) >= 9, list(found)
    assert unnamed_in(found) == []
    for name, nodes in found.items():
        assert any(node["role"] in ("dialog", "alert") for node in nodes), name


def read_aloud(display, tmp_path, lines):
    """What a screen reader finds at each thing that some lines look at."""
    lines = (
        "from yardtoll.desktop.views.stops import STOPS\n"
        "looked = []\n"
        "def look_at(name):\n"
        "    looked.append(name); tell(name=name)\n"
        "    until((folder / f'{len(looked)}.looked-at').exists, 60_000)\n"
        "window = shown()\nwindow.open_demo()\n"
        "until(lambda: window.bench is not None, 90_000)\n"
        "until(lambda: not window.jobs.busy, 60_000)\n"
    ) + lines
    program = subprocess.Popen(
        [sys.executable, "-c", STAGE + lines, str(tmp_path)],
        env={**os.environ, **display, "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1"},
        stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True,
    )  # fmt: skip
    found = {}
    try:
        for line in program.stdout:
            found[json.loads(line)["name"]] = seen_by_a_reader(display)
            (tmp_path / f"{len(found)}.looked-at").touch()
    finally:
        program.kill()
        program.wait()
        program.stdout.close()
    return found


def unnamed_in(found):
    return [
        (where, node)
        for where, nodes in found.items()
        for node in nodes
        if node["focusable"] and not (node["name"] or node["description"])
        and node["role"] not in PLAIN_HOLDERS
    ]  # fmt: skip


PLAIN_HOLDERS = ("filler", "scroll pane", "viewport")
"""What only holds others; a reader passes it by."""


def seen_by_a_reader(display):
    told = subprocess.run(
        ["/usr/bin/python3", Path(__file__).with_name("accessible_tree.py"), "yardtoll"],
        env={**os.environ, **display}, capture_output=True, text=True, timeout=100, check=False,
    )  # fmt: skip
    assert told.returncode == 0, told.stderr
    return [json.loads(line) for line in told.stdout.splitlines()]
