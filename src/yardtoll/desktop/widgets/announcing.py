"""Telling those who hear the window rather than see it."""

from PySide6.QtCore import QObject
from PySide6.QtGui import QAccessible, QAccessibleAnnouncementEvent


def announce(speaker: QObject, text: str, *, urgent: bool = False) -> None:
    """Have a screen reader say something: when it is silent, or at once where it is urgent."""
    if not QAccessible.isActive():
        return
    told = QAccessibleAnnouncementEvent(speaker, text)
    politeness = QAccessible.AnnouncementPoliteness
    told.setPoliteness(politeness.Assertive if urgent else politeness.Polite)
    QAccessible.updateAccessibility(told)
