"""A part that scrolls downwards and is never narrower than what is in it."""

from PySide6.QtCore import QEvent, QObject, QSize
from PySide6.QtWidgets import QScrollArea, QStyle, QVBoxLayout, QWidget


class WholeWidth(QScrollArea):
    """Figures side by side with a chart: the chart gives way, no figure is cut."""

    def __init__(
        self, *widgets: QWidget, margins: tuple[int, int, int, int], spacing: int = 0
    ) -> None:
        super().__init__()
        self._page = QWidget()
        column = QVBoxLayout(self._page)
        column.setContentsMargins(*margins)
        column.setSpacing(spacing)
        for widget in widgets:
            column.addWidget(widget)
        column.addStretch(1)
        self.setWidgetResizable(True)
        self.setWidget(self._page)

    def minimumSizeHint(self) -> QSize:
        least = super().minimumSizeHint()
        bar = self.style().pixelMetric(QStyle.PixelMetric.PM_ScrollBarExtent)
        return least.expandedTo(QSize(self._page.minimumSizeHint().width() + bar, 0))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.LayoutRequest:
            self.updateGeometry()
        return super().eventFilter(watched, event)
