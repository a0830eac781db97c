"""Showing everything as readers of a region expect it."""

from PySide6.QtCore import QLocale

from yardtoll.core.region import Region, region_of
from yardtoll.desktop.workbench.settings import UserSettings


def region_of_system() -> Region:
    """That of the country of the system."""
    return region_of(QLocale.territoryToCode(QLocale.system().territory()))


def chosen_region(settings: UserSettings) -> Region:
    """The user's choice; until there is one, that of the country of the system."""
    return settings.preferences.shown_region(region_of_system())
