"""Every stop as people see it who lack a kind of cone: words can be read, energies told apart."""

from itertools import combinations

import numpy as np
import pytest
from colorspacious import cspace_convert, machado_et_al_2009_matrix
from conftest_helpers import at_rest, worked_out
from PySide6.QtCore import QPoint, QRect
from PySide6.QtGui import QFontMetrics, QImage
from PySide6.QtWidgets import QLabel

from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.views.stops import STOPS

LEAST_CONTRAST, LEAST_APART = 3.5, 17.0
CONES = ("deuteranomaly", "protanomaly", "tritanomaly")
SEEN_FROM_PX = 60


@pytest.fixture(autouse=True)
def afterwards():
    yield
    theme.apply("day")


def picture(widget) -> np.ndarray:
    """(height, width, 3) sRGB, 0 to 255."""
    image = widget.grab().toImage().convertToFormat(QImage.Format.Format_RGB888)
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return rows[:, : 3 * image.width()].reshape(image.height(), image.width(), 3).copy()


def linear(colours: np.ndarray) -> np.ndarray:
    shares = colours / 255
    return np.where(shares <= 0.04045, shares / 12.92, ((shares + 0.055) / 1.055) ** 2.4)


def seen_by(cones: str, colours: np.ndarray) -> np.ndarray:
    """(n, 3) linear light; Machado, Oliveira and Fernandes 2009, nothing of that cone left."""
    return np.clip(linear(colours) @ machado_et_al_2009_matrix(cones, 100).T, 0, 1)


def contrast(light: np.ndarray) -> float:
    """Between the lightest and the darkest two-hundredth, WCAG 2.1."""
    levels = np.sort(light @ np.array([0.2126, 0.7152, 0.0722]))
    low, high = levels[[levels.size // 200, -levels.size // 200 - 1]]
    return float((high + 0.05) / (low + 0.05))


def words_in(view) -> list[tuple[str, QRect]]:
    """Each whole word that is seen, and where its letters are."""
    found = []
    for label in view.findChildren(QLabel):
        whole = label.visibleRegion().boundingRect() == label.rect()
        if label.isVisible() and label.isEnabled() and label.text().strip() and whole:
            wide = min(QFontMetrics(label.font()).horizontalAdvance(label.text()), label.width())
            corner = label.mapTo(view, QPoint(0, 0))
            found.append((label.text(), QRect(corner.x(), corner.y(), wide, label.height())))
    return [(text, at) for text, at in found if at.width() * at.height() > SEEN_FROM_PX]


def energies_in(shown: np.ndarray) -> dict[str, np.ndarray]:
    """The energies that a picture has an area of, with their colours."""
    found = {}
    for kind, name in theme.tokens.energy.items():
        colour = np.array([int(name[i : i + 2], 16) for i in (1, 3, 5)])
        if np.count_nonzero((shown == colour).all(axis=2)) >= SEEN_FROM_PX:
            found[kind.value] = colour
    return found


@pytest.mark.parametrize("colours", ["day", "night"])
def test_no_stop_needs_a_kind_of_cone(qtbot, demo, colours):
    worked_out(qtbot, demo)
    theme.apply(colours)
    told_apart = set()
    for stop in STOPS:
        demo.go_to(stop)
        at_rest(qtbot, demo)
        view = demo.stack.current_view()
        shown, words = picture(view), words_in(view)
        assert words, stop
        energies = energies_in(shown)
        for cones in CONES:
            for text, at in words:
                part = shown[at.top() : at.bottom() + 1, at.left() : at.right() + 1]
                light = seen_by(cones, part.reshape(-1, 3))
                assert contrast(light) > LEAST_CONTRAST, (stop, cones, text)
            for one, other in combinations(energies, 2):
                pair = seen_by(cones, np.array([energies[one], energies[other]]))
                first, second = cspace_convert(pair, "sRGB1-linear", "CAM02-UCS")
                assert np.linalg.norm(first - second) >= LEAST_APART, (stop, cones, one, other)
                told_apart.add((one, other))
    assert told_apart  # some stop shows more than one energy
