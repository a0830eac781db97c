"""The one place for user settings, kept in an INI file in the user's config folder."""

import contextlib
import json
from dataclasses import asdict, replace
from pathlib import Path
from typing import TypeVar

import platformdirs
from PySide6.QtCore import QByteArray, QSettings

from yardtoll.desktop.workbench.preferences import (
    LONGEST_KEPT_DAYS,
    TEXT_PERCENTS,
    Preferences,
)

T = TypeVar("T", str, int, float, bool)
RECENT_KEPT = 8
DEFAULT_SPEED = 60.0
_USES_KEPT = 200
_KEY = {"colours": "theme"}
"""Names in the file where they are not those of the record."""


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
    def preferences(self) -> Preferences:
        """What the user prefers; what cannot be read is as at a first start."""
        given = asdict(Preferences())
        found = {name: self._get(_KEY.get(name, name), value) for name, value in given.items()}
        known = Preferences(**found)
        return replace(
            known,
            text_percent=min(max(known.text_percent, TEXT_PERCENTS[0]), TEXT_PERCENTS[-1]),
            backup_days=min(max(known.backup_days, 0), LONGEST_KEPT_DAYS),
        )

    @preferences.setter
    def preferences(self, value: Preferences) -> None:
        for name, chosen in asdict(value).items():
            self._kept.setValue(_KEY.get(name, name), chosen)
        self._kept.sync()

    @property
    def uses(self) -> dict[str, int]:
        """How often what was found by typing was chosen, by its key."""
        try:
            found = json.loads(self._get("uses", "{}"))
        except ValueError:
            return {}
        pairs = found.items() if isinstance(found, dict) else ()
        return {str(key): n for key, n in pairs if isinstance(n, int)}

    def count_use(self, key: str) -> None:
        """Count one more use; those used least go where there are too many."""
        uses = self.uses
        uses[key] = uses.get(key, 0) + 1
        most = sorted(uses.items(), key=lambda pair: -pair[1])[:_USES_KEPT]
        self._kept.setValue("uses", json.dumps(dict(most)))

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

    def forget_yards(self) -> None:
        """Empty the list of recent yards; the files stay."""
        self._kept.setValue("recent_yards", [])
        self._kept.sync()

    @property
    def yards_folder(self) -> Path:
        """Where yards are offered a place: the chosen folder, or the last one used."""
        chosen = Path(self._get("yards_folder", ""))
        return chosen if str(chosen) != "." and chosen.is_dir() else self.last_folder

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

    @property
    def last_place(self) -> str:
        """Name of the place where the window was left; "" at the first start."""
        return self._get("last_place", "")

    @last_place.setter
    def last_place(self, name: str) -> None:
        self._kept.setValue("last_place", name)

    def _get(self, key: str, default: T) -> T:
        if isinstance(default, float):
            # Qt would read it in single precision, and a word as 0.
            try:
                return type(default)(str(self._kept.value(key, default)))
            except ValueError:
                return default
        found = self._kept.value(key, default, type(default))
        return found if isinstance(found, type(default)) else default
