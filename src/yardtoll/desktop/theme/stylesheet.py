"""The style sheet, made from the tokens."""

from pathlib import Path

from yardtoll.desktop.theme.tokens import HEADING_PX, RADIUS, SMALL_PX, TEXT_PX, TITLE_PX, Tokens


def stylesheet(t: Tokens) -> str:
    """Qt style sheet for one theme."""
    icons = (Path(__file__).parents[1] / "assets" / "icons").as_posix()
    return f"""
    QWidget {{ color: {t.ink}; font-family: Barlow; font-size: {TEXT_PX}px; }}
    QMainWindow, QDialog, QStackedWidget {{ background: {t.paper}; }}
    QLabel[role="title"] {{ font-size: {TITLE_PX}px; font-weight: 600; }}
    QLabel[role="heading"] {{ font-size: {HEADING_PX}px; font-weight: 600; }}
    QLabel[role="muted"] {{ color: {t.muted}; font-size: {SMALL_PX}px; }}
    QLabel[role="quiet"] {{ color: {t.muted}; }}
    QLabel[role="strong"] {{ font-weight: 600; }}
    QLabel[role="accent"] {{ color: {t.accent}; font-weight: 600; }}
    QLabel[role="bad"] {{ color: {t.bad}; font-weight: 600; }}
    QLabel[role="station"] {{ font-size: 19px; font-weight: 600; }}
    QLabel[role="note"] {{ background: {t.raised}; border-left: 5px solid {t.good};
        padding: 10px 14px; }}
    QLabel[role="note-bad"] {{ background: {t.raised}; border-left: 5px solid {t.bad};
        padding: 10px 14px; }}
    QLabel[role="note-unsure"] {{ background: {t.raised}; border-left: 5px solid {t.unsure};
        padding: 10px 14px; }}
    QLabel[role="note-none"] {{ background: {t.raised}; border-left: 5px solid {t.line};
        padding: 10px 14px; }}
    QLabel[role="warning"] {{ background: {t.raised}; border-left: 5px solid {t.accent};
        padding: 10px 14px; }}
    QFrame[role="rule"] {{ background: {t.line}; border: none; max-height: 1px; min-height: 1px; }}
    QPushButton, QToolButton {{ background: {t.raised}; border: 1px solid {t.muted};
        border-radius: {RADIUS}px; padding: 6px 14px; font-weight: 500; min-height: 18px; }}
    QPushButton:hover, QToolButton:hover {{ background: {t.sunk}; }}
    QPushButton:pressed, QToolButton:pressed {{ background: {t.line}; }}
    QPushButton:focus, QToolButton:focus {{ border: 2px solid {t.accent}; padding: 5px 13px; }}
    QPushButton:disabled, QToolButton:disabled {{ color: {t.muted}; border-color: {t.line}; }}
    QPushButton[role="primary"] {{ background: {t.accent}; color: {t.on_accent};
        border: 1px solid {t.accent}; font-weight: 600; }}
    QPushButton[role="primary"]:hover {{ border-color: {t.ink}; }}
    QPushButton[role="primary"]:focus {{ border: 2px solid {t.ink}; }}
    QPushButton[role="primary"]:disabled {{ background: {t.sunk}; color: {t.muted};
        border-color: {t.line}; }}
    QPushButton[role="mark"] {{ text-align: left; padding: 6px 9px; }}
    QPushButton[role="mark"]:focus {{ padding: 5px 8px; }}
    QPushButton[role="link"] {{ background: transparent; border: none; color: {t.accent};
        font-weight: 600; padding: 3px 2px; text-align: left; }}
    QPushButton[role="link"]:focus {{ border-bottom: 2px solid {t.accent}; }}
    QPushButton[role="choice"] {{ text-align: left; padding: 14px 18px; background: {t.raised}; }}
    QToolButton[role="station"] {{ background: transparent; border: 1px solid transparent;
        font-size: 19px; font-weight: 600; padding: 4px 8px; }}
    QToolButton[role="station"]:hover {{ border-color: {t.line}; }}
    QToolButton[role="station"]:focus {{ border: 2px solid {t.accent}; padding: 3px 7px; }}
    QToolButton::menu-indicator {{ image: none; }}
    QLineEdit, QComboBox, QDoubleSpinBox, QSpinBox, QPlainTextEdit {{ background: {t.raised};
        border: 1px solid {t.muted}; border-radius: {RADIUS}px; padding: 5px 8px;
        min-height: 20px; selection-background-color: {t.accent};
        selection-color: {t.on_accent}; }}
    QLineEdit:focus, QComboBox:focus, QDoubleSpinBox:focus, QSpinBox:focus {{
        border: 2px solid {t.accent}; padding: 4px 7px; }}
    QDoubleSpinBox, QDoubleSpinBox:focus {{ padding: 5px 0; }}
    QDoubleSpinBox QLineEdit, QDoubleSpinBox QLineEdit:focus {{ border: none;
        padding: 0 0 0 8px; background: transparent; min-height: 0; }}
    QDoubleSpinBox::up-button, QDoubleSpinBox::down-button {{ width: 0; border: none; }}
    QComboBox::drop-down {{ border: none; width: 26px; }}
    QComboBox::down-arrow {{ image: url("{icons}/chevron-{t.name}.svg"); width: 12px;
        height: 12px; }}
    QComboBox QAbstractItemView {{ background: {t.raised}; border: 1px solid {t.muted};
        selection-background-color: {t.sunk}; selection-color: {t.ink}; outline: none; }}
    QListView, QTableView, QTreeView {{ background: {t.raised}; border: 1px solid {t.line};
        alternate-background-color: {t.paper}; selection-background-color: {t.sunk};
        selection-color: {t.ink}; outline: none; gridline-color: {t.line}; }}
    QListView:focus, QTableView:focus {{ border: 2px solid {t.accent}; }}
    QListView::item {{ padding: 5px 8px; }}
    QTableView::item {{ padding: 0 6px; }}
    QTableCornerButton::section {{ background: {t.sunk}; border: none; }}
    QHeaderView {{ background: {t.sunk}; }}
    QHeaderView::section {{ background: {t.sunk}; border: none; border-right: 1px solid {t.line};
        border-bottom: 1px solid {t.line}; padding: 5px 8px; font-weight: 600; }}
    QMenu {{ background: {t.raised}; border: 1px solid {t.muted}; padding: 4px; }}
    QMenu::item {{ padding: 6px 24px 6px 14px; }}
    QMenu::item:selected {{ background: {t.sunk}; }}
    QMenu::item:disabled {{ color: {t.muted}; }}
    QMenu::separator {{ height: 1px; background: {t.line}; margin: 4px 8px; }}
    QMenuBar {{ background: {t.paper}; }}
    QToolTip {{ background: {t.strip}; color: {t.strip_ink}; border: none; padding: 5px 8px; }}
    QProgressBar {{ background: {t.sunk}; border: 1px solid {t.line}; border-radius: {RADIUS}px;
        text-align: center; min-height: 14px; max-height: 14px; font-size: {SMALL_PX}px; }}
    QProgressBar::chunk {{ background: {t.accent}; }}
    QCheckBox {{ spacing: 8px; }}
    QCheckBox::indicator {{ width: 16px; height: 16px; border: 1px solid {t.muted};
        border-radius: 2px; background: {t.raised}; }}
    QCheckBox::indicator:checked {{ background: {t.accent}; border-color: {t.accent};
        image: url("{icons}/tick-{t.name}.svg"); }}
    QCheckBox:focus {{ color: {t.accent}; }}
    QScrollArea {{ border: none; background: transparent; }}
    QScrollArea > QWidget > QWidget {{ background: transparent; }}
    QScrollBar:vertical {{ background: transparent; width: 10px; }}
    QScrollBar:horizontal {{ background: transparent; height: 10px; }}
    QScrollBar::handle {{ background: {t.line}; border-radius: 4px; min-height: 24px;
        min-width: 24px; }}
    QScrollBar::handle:hover {{ background: {t.muted}; }}
    QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{
        width: 0; height: 0; background: none; }}
    QWidget#header {{ border-bottom: 1px solid {t.line}; }}
    QWidget#strip {{ background: {t.strip}; }}
    QWidget#strip QLabel {{ color: {t.strip_ink}; }}
    QWidget#strip QLabel[role="muted"] {{ color: {t.strip_muted}; }}
    QWidget#strip QLabel[role="accent"] {{ color: {t.strip_accent}; }}
    QWidget#strip QPushButton {{ background: transparent; color: {t.strip_ink};
        border: 1px solid {t.strip_muted}; padding: 2px 12px; min-height: 16px; }}
    QWidget#strip QPushButton:focus {{ border: 2px solid {t.strip_accent}; padding: 1px 11px; }}
    QWidget#notice {{ background: {t.raised}; border: 1px solid {t.line};
        border-left: 5px solid {t.accent}; }}
    QWidget#drop {{ border: 3px dashed {t.accent}; background: {t.paper}; }}
    """
