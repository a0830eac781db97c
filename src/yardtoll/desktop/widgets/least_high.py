"""A page in an area that scrolls, no higher than it must be."""

from PySide6.QtWidgets import QWidget


class LeastHigh(QWidget):
    """An area gives a page whose words wrap all the height it would like; this asks for less."""

    def heightForWidth(self, width: int) -> int:
        """So high it must be at least; it is scrolled where its place is lower."""
        layout = self.layout()
        return layout.totalMinimumHeightForWidth(width) if layout is not None else -1
