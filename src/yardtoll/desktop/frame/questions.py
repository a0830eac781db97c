"""The window's own boxes: whether a run may be left, and what this program is."""

from PySide6.QtWidgets import QMessageBox, QWidget

from yardtoll import __version__
from yardtoll.core.methods.cautions import LOCAL_FIRST, NEVER_OPEN


def may_leave_run(parent: QWidget) -> bool:
    """Ask before a run in progress is left."""
    box = QMessageBox(parent)
    box.setIcon(QMessageBox.Icon.Warning)
    box.setText("A run is going.")
    box.setInformativeText(
        "Leaving stops the recording. What is recorded is kept, and the run can be resumed at "
        "the next start with the gap noted. The load itself stays on: switch it off by hand "
        "if nobody is there."
    )
    stay = box.addButton("Keep it running", QMessageBox.ButtonRole.RejectRole)
    box.addButton("Leave it", QMessageBox.ButtonRole.AcceptRole)
    box.setDefaultButton(stay)
    box.exec()
    box.deleteLater()
    return box.clickedButton() is not stay


def show_about(parent: QWidget) -> None:
    """Say what this program is, and the cautions that hold everywhere."""
    QMessageBox.about(
        parent,
        "About Yard Toll",
        f"Yard Toll {__version__}\nApache-2.0; parts of others under their own licences, see "
        f"docs/third-party.md.\n\n{NEVER_OPEN}\n{LOCAL_FIRST}",
    )
