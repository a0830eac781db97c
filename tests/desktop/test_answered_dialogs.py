"""A dialog that was answered is gone: a day of opening budgets must not fill the memory."""

from conftest_helpers import by_name, in_dialog
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtWidgets import QApplication, QDialog, QMenu

from yardtoll.desktop.dialogs.claims import ClaimDialog
from yardtoll.desktop.views.stop import YARD


def test_dialogs_go_and_leave_what_was_entered(qtbot, window, claims):
    def dialogs():
        return [found for found in window.findChildren(QDialog) if isinstance(found, ClaimDialog)]

    for _ in range(3):
        in_dialog(lambda dialog: dialog.reject(), ClaimDialog)
        by_name(claims, "Add a claim…").click()
    qtbot.waitUntil(lambda: not dialogs())


def test_a_menu_that_was_closed_is_gone(qtbot, demo):
    demo.go_to(YARD)
    lanes = demo.stack.current_view().lanes
    block, _ = lanes.blocks[0]
    at = block.center().toPoint()
    before = len(lanes.findChildren(QMenu))
    for _ in range(3):
        QApplication.sendEvent(lanes, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, at))
        menu = QApplication.activePopupWidget()
        assert isinstance(menu, QMenu)
        menu.close()
    qtbot.waitUntil(lambda: len(lanes.findChildren(QMenu)) == before)
