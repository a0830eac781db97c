"""Files are asked for by the desktop's own dialogs where its portal offers them.

The portal is one of our own on a bus of its own: it answers what a person would choose.
"""

import json
import os
import shutil
import subprocess
import sys
import threading
from pathlib import Path

import pytest
from jeepney import DBusAddress, HeaderFields, MessageType, new_error, new_method_return, new_signal
from jeepney.bus_messages import message_bus
from jeepney.io.blocking import open_dbus_connection

from yardtoll.desktop.app import use_the_desktops_dialogs
from yardtoll.store.yard_file import YardFile

NAME = "org.freedesktop.portal.Desktop"
REQUEST = "/org/freedesktop/portal/desktop/request/1/1"
ASKING = """
import json, sys
from pathlib import Path
from PySide6.QtCore import QEventLoop, QTimer
from yardtoll.desktop.app import make_app, make_window
from yardtoll.desktop.workbench.settings import UserSettings
app = make_app()
window = make_window(UserSettings(Path(sys.argv[1]) / "settings.ini"))
window.show()
QTimer.singleShot(200, window.actions_by_name[sys.argv[2]].trigger)
loop = QEventLoop()
QTimer.singleShot(int(sys.argv[3]), loop.quit)
until = QTimer(interval=50)
until.timeout.connect(lambda: window.bench is not None and loop.quit())
until.start()
loop.exec()
path = window.bench.session.yard.path if window.bench else None
print(json.dumps({"yard": str(path) if path else ""}), flush=True)
import os
os._exit(0)
"""


class Portal:
    """Answers every question for a file with the same one; none where it is cancelled."""

    def __init__(self, address: str, chosen: Path | None) -> None:
        self.asked: list[tuple[str, str]] = []
        self._chosen, self._stopped = chosen, threading.Event()
        self._bus = open_dbus_connection(bus=address)
        self._bus.send_and_get_reply(message_bus.RequestName(NAME))
        self._thread = threading.Thread(target=self._serve, daemon=True)
        self._thread.start()

    def _serve(self) -> None:
        while not self._stopped.is_set():
            try:
                message = self._bus.receive(timeout=0.2)
            except TimeoutError:
                continue
            if message.header.message_type is MessageType.method_call:
                self._answer(message)

    def _answer(self, message) -> None:
        member = message.header.fields[HeaderFields.member]
        if member == "Get" and message.body[1] == "version":
            self._bus.send(new_method_return(message, "v", (("u", 4),)))
        elif member in ("OpenFile", "SaveFile"):
            self.asked.append((member, message.body[1]))
            self._bus.send(new_method_return(message, "o", (REQUEST,)))
            self._stopped.wait(0.4)  # a person takes longer
            emitter = DBusAddress(REQUEST, interface="org.freedesktop.portal.Request")
            found = {} if self._chosen is None else {"uris": ("as", [self._chosen.as_uri()])}
            given = (0 if self._chosen else 1, found)
            self._bus.send(new_signal(emitter, "Response", "ua{sv}", given))
        else:
            unknown = "org.freedesktop.DBus.Error.UnknownMethod"
            self._bus.send(new_error(message, unknown))

    def stop(self) -> None:
        self._stopped.set()
        self._thread.join(5)
        self._bus.close()


@pytest.fixture
def bus():
    if shutil.which("dbus-daemon") is None:
        pytest.skip("needs dbus-daemon")
    daemon = subprocess.Popen(
        ["dbus-daemon", "--session", "--print-address", "--nofork"],
        stdout=subprocess.PIPE, text=True,
    )  # fmt: skip
    yield daemon.stdout.readline().strip()
    daemon.terminate()
    daemon.wait()
    daemon.stdout.close()


def ask(bus, folder, action, chosen, wait_ms=20_000):
    """What the portal was asked for, and which yard the window has then."""
    portal = Portal(bus, chosen)
    try:
        made = subprocess.run(
            [sys.executable, "-c", ASKING, str(folder), action, str(wait_ms)],
            env={
                **os.environ, "DBUS_SESSION_BUS_ADDRESS": bus,
                "QT_QPA_PLATFORMTHEME": "xdgdesktopportal",
            },
            capture_output=True, text=True, timeout=90, check=False,
        )  # fmt: skip
    finally:
        portal.stop()
    assert made.returncode == 0, made.stderr[-2000:]
    return portal.asked, json.loads(made.stdout.splitlines()[-1])["yard"]


def test_a_yard_is_opened_by_the_desktops_dialog(bus, tmp_path):
    YardFile.create(tmp_path / "Chosen there.yard", "Chosen").close()
    asked, yard = ask(bus, tmp_path, "Open a yard…", tmp_path / "Chosen there.yard")
    assert asked == [("OpenFile", "Open a yard")]
    assert Path(yard).name == "Chosen there.yard"


def test_a_new_yard_is_made_where_it_says(bus, tmp_path):
    asked, yard = ask(bus, tmp_path, "New yard…", tmp_path / "made.yard")
    assert asked == [("SaveFile", "New yard")]
    assert Path(yard) == tmp_path / "made.yard" and (tmp_path / "made.yard").exists()


def test_cancelling_there_leaves_all_as_it_was(bus, tmp_path):
    asked, yard = ask(bus, tmp_path, "Open a yard…", None, wait_ms=3000)
    assert len(asked) == 1 and yard == ""


@pytest.mark.parametrize("lacks", ["", "session", "portal", "backend"])
def test_it_is_asked_only_where_there_is_one(tmp_path, lacks):
    """Without a backend the portal answers nothing, and no dialog would be seen at all."""
    services, portals = tmp_path / "dbus-1/services", tmp_path / "xdg-desktop-portal/portals"
    for folder in (services, portals):
        folder.mkdir(parents=True)
    if lacks != "portal":
        (services / f"{NAME}.service").touch()
    if lacks != "backend":
        (portals / "some.portal").touch()
    environment = {"XDG_CURRENT_DESKTOP": "Some"}
    if lacks != "session":
        environment["DBUS_SESSION_BUS_ADDRESS"] = "unix:path=/nowhere"
    use_the_desktops_dialogs(environment, tmp_path)
    assert environment.get("QT_QPA_PLATFORMTHEME") == (None if lacks else "xdgdesktopportal")


def test_what_the_user_set_stays(tmp_path):
    environment = {
        "XDG_CURRENT_DESKTOP": "Some", "DBUS_SESSION_BUS_ADDRESS": "unix:path=/nowhere",
        "QT_QPA_PLATFORMTHEME": "other",
    }  # fmt: skip
    for part in ("dbus-1/services", "xdg-desktop-portal/portals"):
        (tmp_path / part).mkdir(parents=True)
    (tmp_path / "dbus-1/services" / f"{NAME}.service").touch()
    (tmp_path / "xdg-desktop-portal/portals/some.portal").touch()
    use_the_desktops_dialogs(environment, tmp_path)
    assert environment["QT_QPA_PLATFORMTHEME"] == "other"
