"""A page in an area that scrolls, no higher than it must be."""

from PySide6.QtWidgets import QBoxLayout, QLayoutItem, QWidget


class LeastHigh(QWidget):
    """An area gives a page whose words wrap all the height it would like; this asks for less."""

    def heightForWidth(self, width: int) -> int:
        """So high it must be at least; it is scrolled where its place is lower."""
        layout = self.layout()
        if layout is None:
            return -1
        if not isinstance(layout, QBoxLayout):
            return layout.totalMinimumHeightForWidth(width)
        if layout.direction() != QBoxLayout.Direction.TopToBottom:
            return layout.totalMinimumHeightForWidth(width)
        return _column_height(layout, width)


def _column_height(column: QBoxLayout, width: int) -> int:
    """The least in which no part of a column gets less than its least.

    A box wants to give what wraps the height it would like. Where it cannot, it cuts the highest
    parts down to one height, be they words that could do with less or a chart that cannot: so that
    height must be the least of every part.
    """
    margins = column.contentsMargins()
    inside = width - margins.left() - margins.right()
    items = [item for i in range(column.count()) if (item := column.itemAt(i)) is not None]
    seen = sum(not item.isEmpty() for item in items)
    cut_to = max((item_height(item, inside) for item in items), default=0)
    heights = sum(min(_liked_height(item, inside), cut_to) for item in items)
    return margins.top() + heights + max(seen - 1, 0) * column.spacing() + margins.bottom()


def item_height(item: QLayoutItem, width: int) -> int:
    """Least height in pixels of a part of a column so wide."""
    if item.isEmpty() and item.spacerItem() is None:
        return 0
    if item.hasHeightForWidth():
        return item.minimumHeightForWidth(width)
    return item.minimumSize().height()


def _liked_height(item: QLayoutItem, width: int) -> int:
    return item.heightForWidth(width) if item.hasHeightForWidth() else item_height(item, width)
