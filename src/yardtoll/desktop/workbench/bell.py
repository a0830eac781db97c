"""Calling the user: a sound, a note of the desktop, the window marked as wanting attention."""

import math
import shutil
import struct
import wave
from pathlib import Path

import platformdirs
from PySide6.QtCore import QProcess
from PySide6.QtWidgets import QApplication, QWidget

from yardtoll.desktop.workbench.settings import UserSettings
from yardtoll.store.site_time import now

_PLAYERS = ("pw-play", "paplay", "aplay")
_RATE_HZ, _TONE_S, _VOLUME = 22_050, 0.22, 0.5
_TONES_HZ = (660.0, 880.0, 660.0)


class Bell:
    """Calls once for each new alarm, and never by sound in the quiet hours."""

    def __init__(self, window: QWidget, settings: UserSettings) -> None:
        self._window, self._settings = window, settings
        self._told = ""

    def watch(self, text: str, *, is_bad: bool) -> None:
        """Call where something has gone wrong that was not so before."""
        told = text if is_bad else ""
        if told and told != self._told:
            self.call(told)
        self._told = told

    def call(self, text: str) -> None:
        """Call now."""
        prefers = self._settings.preferences
        if not self._window.isActiveWindow():
            QApplication.alert(self._window)
            if prefers.notices:
                _show_note(text)
        if prefers.sounds and not prefers.is_quiet(now().time()):
            play_alarm()


def play_alarm() -> None:
    """Three tones by whichever player the system has, else its own beep."""
    player = next(filter(None, map(shutil.which, _PLAYERS)), None)
    if player is None:
        QApplication.beep()
        return
    kept = Path(platformdirs.user_cache_dir("yardtoll")) / "alarm.wav"
    try:
        if not kept.exists():
            kept.parent.mkdir(parents=True, exist_ok=True)
            write_alarm(kept)
    except OSError:
        QApplication.beep()
        return
    QProcess.startDetached(player, [str(kept)])


def write_alarm(path: Path) -> None:
    """The tones as a WAV, faded in and out so that they do not click.

    Raises:
        OSError: it cannot be written.
    """
    count = int(_RATE_HZ * _TONE_S)
    samples = [
        _VOLUME * math.sin(math.pi * i / count) * math.sin(2 * math.pi * tone * i / _RATE_HZ)
        for tone in _TONES_HZ
        for i in range(count)
    ]
    with wave.open(str(path), "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(_RATE_HZ)
        file.writeframes(b"".join(struct.pack("<h", int(32_000 * s)) for s in samples))


def _show_note(text: str) -> None:
    sender = shutil.which("notify-send")
    if sender is not None:
        arguments = ["--app-name=Yard Toll", "--icon=yardtoll", "--", "Yard Toll", text]
        QProcess.startDetached(sender, arguments)
