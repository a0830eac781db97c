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


_scale = [1.0]


def set_text_scale(scale: float) -> None:
    """Make all text larger or smaller than usual from now on."""
    _scale[0] = scale


def text_scale() -> float:
    """How much larger than usual text is."""
    return _scale[0]


def scaled(pixels: float) -> int:
    """A size that goes with the size of text, in pixels."""
    return round(pixels * _scale[0])


def font(pixels: float = TEXT_PX, weight: QFont.Weight = REGULAR) -> QFont:
    """The program's face at a size, figures of equal width."""
    made = QFont(FAMILY)
    made.setPixelSize(max(8, scaled(pixels)))
    made.setWeight(weight)
    made.setFeature(QFont.Tag("tnum"), 1)
    return made
