"""Asking for preferences, and putting them in force."""

from yardtoll.desktop.actions.region import region_of_system
from yardtoll.desktop.host import Host
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.workbench.preferences import Preferences
from yardtoll.store.shown_region import show_for

REGION_PAGE = "region"


def ask_preferences(host: Host, page: str = "") -> None:
    """Ask, and put in force what was changed.

    Args:
        page: key of the page to begin with.
    """
    from yardtoll.desktop.dialogs.preferences import PreferencesDialog

    before = host.settings.preferences
    dialog = PreferencesDialog(before, region_of_system(), host.widget)
    if page:
        dialog.go_to(page)
    if dialog.exec():
        use_preferences(host, dialog.preferences())


def use_preferences(host: Host, wanted: Preferences) -> None:
    """Keep preferences and show everything by them."""
    before = host.settings.preferences
    host.settings.preferences = wanted
    of_system = region_of_system()
    region = wanted.shown_region(of_system)
    is_other_region = region != before.shown_region(of_system)
    if is_other_region:
        show_for(region)
    is_other_size = wanted.text_percent != before.text_percent
    if is_other_size:
        theme.apply(wanted.colours, wanted.text_percent)
    elif wanted.colours != before.colours:
        theme.apply_soon(wanted.colours, wanted.text_percent)
    if is_other_region or is_other_size:
        host.show_anew()
