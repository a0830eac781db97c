"""Barlow in the weights that are used, with figures of equal width."""

from importlib import resources

from PySide6.QtGui import QFont, QFontDatabase

from yardtoll.desktop.theme.tokens import TEXT_PX

FAMILY = "Barlow"
REGULAR, MEDIUM, SEMIBOLD = (
    QFont.Weight.Normal,
    QFont.Weight.Medium,
    QFont.Weight.DemiBold,
)


def load_fonts() -> None:
    """Make the shipped faces known to Qt; the system's face serves if one cannot be read."""
    folder = resources.files("yardtoll.report") / "fonts"
    for entry in sorted(folder.iterdir(), key=lambda e: e.name):
        if entry.name.endswith(".ttf"):
            QFontDatabase.addApplicationFontFromData(entry.read_bytes())


def font(pixels: float = TEXT_PX, weight: QFont.Weight = REGULAR) -> QFont:
    """The program's face at a size, figures of equal width."""
    made = QFont(FAMILY)
    made.setPixelSize(max(8, round(pixels)))
    made.setWeight(weight)
    made.setFeature(QFont.Tag("tnum"), 1)
    return made
