"""The one place for user settings, kept in an INI file in the user's config folder."""

import contextlib
from pathlib import Path
from typing import TypeVar

import platformdirs
from PySide6.QtCore import QByteArray, QSettings

from yardtoll.desktop.theme.theme import FOLLOW_SYSTEM

T = TypeVar("T", str, int, float, bool)
RECENT_KEPT = 8
DEFAULT_SPEED = 60.0


class UserSettings:
    """What the user chose, remembered between starts.

    Args:
        path: the INI file; the user's own by default.
    """

    def __init__(self, path: Path | None = None) -> None:
        self._path = path or Path(platformdirs.user_config_dir("yardtoll")) / "settings.ini"
        with contextlib.suppress(OSError):
            # Which yards were opened lately is nobody else's to read.
            self._path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
            self._path.touch(mode=0o600)
            self._path.chmod(0o600)
        self._kept = QSettings(str(self._path), QSettings.Format.IniFormat)

    @property
    def theme(self) -> str:
        """Like "day", "night" or "system"."""
        return self._get("theme", FOLLOW_SYSTEM)

    @theme.setter
    def theme(self, value: str) -> None:
        self._kept.setValue("theme", value)

    @property
    def region(self) -> str:
        """Key of the chosen region; "" until one is chosen."""
        return self._get("region", "")

    @region.setter
    def region(self, value: str) -> None:
        self._kept.setValue("region", value)

    @property
    def simulated_speed(self) -> float:
        """Bench seconds a real second for simulated runs."""
        kept = self._get("simulated_speed", DEFAULT_SPEED)
        return kept if kept >= 1 else DEFAULT_SPEED

    @simulated_speed.setter
    def simulated_speed(self, value: float) -> None:
        self._kept.setValue("simulated_speed", value)

    @property
    def recent_yards(self) -> list[Path]:
        """Yards opened lately that are still there, newest first."""
        found = self._kept.value("recent_yards", [])
        texts = [found] if isinstance(found, str) else found if isinstance(found, list) else []
        return [path for path in map(Path, texts) if path.exists()]

    def remember_yard(self, path: Path) -> None:
        """Put a yard first among the recent ones."""
        recent = [path.resolve(), *(p for p in self.recent_yards if p != path.resolve())]
        self._kept.setValue("recent_yards", [str(p) for p in recent[:RECENT_KEPT]])
        # At once: a program that is killed must find its yard again.
        self._kept.sync()

    @property
    def archive(self) -> str:
        """Address of the shared archive, without a password; "" for none."""
        return self._get("archive", "")

    @archive.setter
    def archive(self, value: str) -> None:
        self._kept.setValue("archive", value)

    @property
    def last_folder(self) -> Path:
        """Where a file was last opened or saved."""
        kept = Path(self._get("last_folder", str(Path.home())))
        return kept if kept.is_dir() else Path.home()

    @last_folder.setter
    def last_folder(self, value: Path) -> None:
        self._kept.setValue("last_folder", str(value))

    def geometry(self, name: str) -> QByteArray | None:
        """Size and place of a window, None if never kept."""
        found = self._kept.value(f"geometry/{name}")
        return found if isinstance(found, QByteArray) else None

    def keep_geometry(self, name: str, geometry: QByteArray) -> None:
        """Remember a window's size and place."""
        self._kept.setValue(f"geometry/{name}", geometry)

    def _get(self, key: str, default: T) -> T:
        found = self._kept.value(key, default, type(default))
        return found if isinstance(found, type(default)) else default
