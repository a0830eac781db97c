"""Showing everything as readers of a region expect it."""

from PySide6.QtCore import QLocale

from yardtoll.core.region import REGIONS, Region, region_of
from yardtoll.desktop.host import Host
from yardtoll.desktop.workbench.settings import UserSettings
from yardtoll.store.shown_region import show_for


def chosen_region(settings: UserSettings) -> Region:
    """The user's choice; until there is one, that of the country of the system."""
    if settings.region in REGIONS:
        return REGIONS[settings.region]
    return region_of(QLocale.territoryToCode(QLocale.system().territory()))


def ask_region(host: Host) -> None:
    """Ask for the region and show everything anew."""
    from yardtoll.desktop.dialogs.region import RegionDialog

    dialog = RegionDialog(chosen_region(host.settings), host.widget)
    if dialog.exec():
        host.settings.region = dialog.region().key
        show_for(dialog.region())
        host.show_anew()
