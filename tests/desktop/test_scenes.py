"""A chart is described once: what Qt paints and what the SVG holds are one picture."""

import numpy as np
import pytest
from PySide6.QtGui import QColor, QImage, QPainter

from yardtoll.core.discharge.analysis import Rating, discharge_from_energies
from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.ledger.ledger import discharge_ledger
from yardtoll.core.ledger.loss_fit import RunAtLoad
from yardtoll.core.ledger.losses import fit_losses
from yardtoll.desktop.app import make_app
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.theme.tokens import DAY, NIGHT
from yardtoll.desktop.widgets.chart_image import chart_image
from yardtoll.desktop.widgets.scene_painter import paint_scene
from yardtoll.report.charts.curve import Curve
from yardtoll.report.charts.hatching import Hatch
from yardtoll.report.charts.load_curve import LoadCurveScene, LoadPoint
from yardtoll.report.charts.palette import ON_PAPER, RAISED
from yardtoll.report.charts.power import power_scene
from yardtoll.report.charts.rails import RailRow, RailScene
from yardtoll.report.charts.scene import Area, Box, Dot, Line, Scene, Words
from yardtoll.report.charts.svg import to_svg
from yardtoll.report.charts.toll_strip import (
    IN_LOW_WINDOW,
    IN_WINDOW,
    TollStripScene,
    ledger_scene,
)


@pytest.fixture(autouse=True)
def _app(qtbot):
    make_app()
    theme.apply("day")


def painted(scene) -> np.ndarray:
    """(height, width, 3) as the window paints it."""
    image = QImage(int(scene.width), int(scene.height), QImage.Format.Format_RGB32)
    image.fill(QColor(RAISED))
    painter = QPainter(image)
    paint_scene(painter, scene)
    painter.end()
    return pixels(image)


def pixels(image) -> np.ndarray:
    image = image.convertToFormat(QImage.Format.Format_RGB32)
    data = np.frombuffer(image.constBits(), np.uint8).copy()
    return data.reshape(image.height(), image.bytesPerLine() // 4, 4)[:, : image.width(), :3]


def ledger():
    result = discharge_from_energies([900], Rating(rated_wh=1000), duration_s=7200)
    return discharge_ledger(result)


def load_curve():
    runs = [
        RunAtLoad(energy_wh=e, duration_s=3600 * e / w, mean_sq_w2=w * w)
        for e, w in ((900, 100), (880, 300), (840, 700))
    ]
    points = [
        LoadPoint(number=i, mean_w=r.mean_w, delivered_wh=r.energy_wh, expanded_wh=9.0)
        for i, r in enumerate(runs, 1)
    ]
    made = LoadCurveScene(
        area=(56, 26, 340, 150), points=points, split=fit_losses(runs, 1000), full_w=800,
        rated_wh=1000, palette=ON_PAPER,
    )  # fmt: skip
    return Scene(width=420, height=200, items=(*made.curve_items(), *made.point_items()))


def rail(outcome, whisker=0.02):
    row = RailRow(
        title="Usable energy", subtitle="listing", value=0.9, whisker=whisker, limit=0.85,
        outcome=outcome, word="meets", figure="90 %", good=(0.85, None),
    )  # fmt: skip
    return RailScene(row=row, width=700, height=60, palette=ON_PAPER).scene()


CURVE = Curve(
    key="run-1", title="Run 1", kind=EnergyKind.DELIVERED, time_s=np.arange(0, 7200, 10.0),
    power_w=np.where(np.arange(720) < 600, 400.0, 0.0),
)  # fmt: skip
SCENES = {
    "every item": lambda: Scene(
        width=200,
        height=120,
        items=(
            Box(
                x=10,
                y=10,
                width=60,
                height=40,
                fill="#2D7F91",
                stroke="#000000",
                hatch=Hatch.CROSSED,
                hatch_colour="#FFFFFF",
            ),
            Line(points=((0, 60), (200, 60)), colour="#1C2321", width=2, dash=(6, 4)),
            Area(points=((100, 10), (150, 10), (125, 50)), fill="#CB4E1A", opacity=0.5),
            Dot(at=(170, 30), radius=12, fill="#FFFFFF", stroke="#0F6B4F", width=3),
            Words(x=100, y=90, text="Where it went", colour="#1C2321", anchor="middle", size=16),
        ),
    ),
    "ledger on the sheet": lambda: ledger_scene(ledger(), "Run 1"),
    "ledger in the window": lambda: TollStripScene(
        ledger=ledger(),
        width=900,
        height=300,
        look=IN_WINDOW,
        palette=ON_PAPER,
        expanded=[None, 12.0, 9.0],
        chosen=1,
    ).scene(),
    "power": lambda: power_scene(CURVE),
    "load curve": load_curve,
    "meets": lambda: rail("meets"),
    "falls short": lambda: rail("falls_short"),
    "too close": lambda: rail("too_close_to_call"),
    "not judged": lambda: rail("", whisker=None),
}


@pytest.mark.parametrize("name", SCENES)
def test_the_window_and_the_file_show_the_same_picture(name):
    scene = SCENES[name]()
    window, file = painted(scene), pixels(chart_image(to_svg(scene), 1.0))
    assert window.shape == file.shape
    # Letters are smoothed a little differently; shapes and places are not.
    off = np.abs(window.astype(int) - file.astype(int)).max(axis=2) > 96
    assert off.mean() < 0.012
    ground = QColor(RAISED)
    drawn = np.abs(window.astype(int) - [ground.blue(), ground.green(), ground.red()]).sum(axis=2)
    assert (drawn > 60).mean() > 0.005


def test_night_has_its_own_colours():
    def strip(palette):
        return painted(
            TollStripScene(
                ledger=ledger(), width=600, height=300, look=IN_WINDOW, palette=palette
            ).scene()
        )

    assert not np.array_equal(strip(DAY), strip(NIGHT))


@pytest.mark.parametrize("share", [0.02, 0.3, 0.5, 0.62, 0.7, 0.85, 0.97])
@pytest.mark.parametrize(("height", "look"), [(196, IN_LOW_WINDOW), (240, IN_WINDOW)])
@pytest.mark.parametrize("width", [826, 320])
def test_a_stages_words_lie_on_it_or_above_it(share, height, look, width):
    """Never across its edge, where neither of the two inks can be read."""
    result = discharge_from_energies([1000 * share], Rating(rated_wh=1000), duration_s=7200)
    scene = TollStripScene(
        ledger=discharge_ledger(result), width=width, height=height, look=look, palette=DAY,
        expanded=[9.0] * 5,
    )  # fmt: skip
    items = scene.scene().items
    last = [item for item in items if isinstance(item, Box) and item.width == scene.stage_width][-1]
    words = [
        item for item in items
        if isinstance(item, Words) and item.anchor == "start" and item.x > last.x
    ]  # fmt: skip
    assert len(words) >= 2
    for word in words:
        low, high = word.y + 0.25 * word.size, word.y - 0.75 * word.size
        assert high >= 0
        if word.colour == DAY.on_energy[EnergyKind.DELIVERED]:
            assert last.y <= high and low <= last.y + last.height + 1, word.text
        else:
            assert low <= last.y + 1, word.text


@pytest.mark.parametrize("room", [0, 200, 60, 30])
def test_a_figure_is_set_smaller_and_never_cut(room):
    """A figure without its last digits would be another figure."""

    def letters(whole, text="1049.1 Wh"):
        words = Words(x=4, y=60, text=text, colour="#000000", size=32, room=room, whole=whole)
        dark = painted(Scene(width=300, height=80, items=(words,))).max(axis=2) < 128
        columns = np.flatnonzero(dark.any(axis=0))
        return dark, columns[-1] if columns.size else 0

    drawn, right = letters(whole=True)
    # Between letters are columns without ink: as many parts are there as in the usual size.
    if room == 0 or room >= 60:
        usual = painted(
            Scene(width=300, height=80, items=(
                Words(x=4, y=60, text="1049.1 Wh", colour="#000000", size=32),
            ))
        ).max(axis=2) < 128  # fmt: skip
        assert _parts(drawn) >= _parts(usual) - 2
    if room:
        assert right <= 4 + room
    if 0 < room < 100:
        assert not np.array_equal(drawn, letters(whole=False)[0])
    # The last letter is the figure's own, no dots: another unit draws another picture.
    assert not np.array_equal(drawn, letters(whole=True, text="1049.1 Wx")[0])


def _parts(dark) -> int:
    ink = dark.any(axis=0).astype(int)
    return int((np.diff(ink) == 1).sum())
