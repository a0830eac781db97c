"""Colours and size of text, chosen from the menu."""

from dataclasses import replace

from yardtoll.desktop.actions.preferences import use_preferences
from yardtoll.desktop.host import Host
from yardtoll.desktop.workbench.preferences import TEXT_PERCENTS


def choose_colours(host: Host, name: str) -> None:
    """Day, night, high contrast, or as the system has it."""
    use_preferences(host, replace(host.settings.preferences, colours=name))


def change_text_size(host: Host, steps: int) -> None:
    """Larger or smaller by steps of the preference."""
    now = host.settings.preferences.text_percent
    nearest = min(range(len(TEXT_PERCENTS)), key=lambda i: abs(TEXT_PERCENTS[i] - now))
    place = min(max(nearest + steps, 0), len(TEXT_PERCENTS) - 1)
    _use_size(host, TEXT_PERCENTS[place])


def usual_text_size(host: Host) -> None:
    """As at the first start."""
    _use_size(host, 100)


def _use_size(host: Host, percent: int) -> None:
    use_preferences(host, replace(host.settings.preferences, text_percent=percent))
    host.say(f"Text at {percent} %.")
