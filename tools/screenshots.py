"""Make every picture in docs/screenshots from the demo yard: tools/screenshots.py [NAME …]."""

import sys
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt
from stage import close_stage, open_stage, spin, spin_until, start_run

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.desktop.dialogs.import_log import ImportDialog
from yardtoll.desktop.dialogs.noted_run import NotedRunDialog
from yardtoll.desktop.frame.main_window import MainWindow
from yardtoll.desktop.views.stop import (
    CLAIMS,
    ENDURANCE,
    LEDGER,
    LINEUP,
    OUTPUTS,
    PLAN,
    RUN,
    SHEET,
    SUN,
    VERDICTS,
    YARD,
)
from yardtoll.review.output_tests import HELD
from yardtoll.store.logs.read import open_log
from yardtoll.store.records import Station

ROOT = Path(__file__).parents[1]
FOLDER = ROOT / "docs" / "screenshots"
PICTURES = ROOT / "src" / "yardtoll" / "manual" / "pictures"
MANUAL = (
    "yard", "claims", "plan", "run", "ledger", "sun-wiring", "outputs", "endurance", "verdicts",
    "lineup", "sheet",
)  # fmt: skip
"""Pictures of the manual, in a size for reading."""
MANUAL_W = 600
FENNEL, TANSY, SORREL = 1, 2, 3
RUN_SPEED = 600.0
WORDS = {
    "summary": "Two weeks in the shed: it runs the oil heater through an evening.",
    "pros": "Delivers more than nine tenths of its rating\nHolds its volts to the end",
    "cons": "Slower to charge than the listing says\nNo solar adapter in the box",
}


def _keep(window: MainWindow, name: str) -> None:
    spin(500)
    picture = window.grab()
    picture.save(str(FOLDER / f"{name}.png"))
    if name in MANUAL:
        small = picture.toImage().scaledToWidth(
            MANUAL_W, Qt.TransformationMode.SmoothTransformation
        )
        small.save(str(PICTURES / f"{name}.png"))
    print(f"{name}.png")


def _views(window: MainWindow, suffix: str = "") -> None:
    bench = window.bench
    assert bench is not None
    if not suffix:
        window.go_to(YARD)
        _keep(window, "yard")
    bench.session.choose_station(FENNEL)
    if not suffix:
        window.go_to(CLAIMS)
        _keep(window, "claims")
        window.go_to(PLAN)
        spin(300)
        spin_until(lambda: not bench.jobs.busy)
        _keep(window, "plan")
    runs = bench.session.yard.runs(FENNEL)
    if not suffix:
        window.go_to(LEDGER)
        window.stack.current_view().charts.choose("curve")  # type: ignore[attr-defined]
        _keep(window, "ledger")
        window.open_run(next(r.id or 0 for r in runs if r.method == "recharge_wall"))
        window.stack.current_view().charts.choose("power")  # type: ignore[attr-defined]
        _keep(window, "recharge")
    _outputs(window, suffix)
    if not suffix:
        _endurance_and_lineup(window)
    bench.session.choose_station(FENNEL)
    window.go_to(VERDICTS)
    if not suffix:
        _keep(window, "verdicts")
        bench.session.choose_station(TANSY)
        window.stack.current_view().choose_page(by_yardstick=True)  # type: ignore[attr-defined]
        _keep(window, "yardsticks")
        bench.session.choose_station(FENNEL)
    if not suffix:
        _sun(window)
        _sheet(window)


def _outputs(window: MainWindow, suffix: str) -> None:
    """A sine that is none by day, an overload ladder by night."""
    bench = window.bench
    assert bench is not None
    bench.session.choose_station(FENNEL if suffix else SORREL)
    window.go_to(OUTPUTS)
    if suffix:
        view: Any = window.stack.current_view()
        view.choose_test(HELD)
    _keep(window, f"outputs{suffix}")


def _endurance_and_lineup(window: MainWindow) -> None:
    """A storm of two nights, and the stations in one quantity."""
    bench = window.bench
    assert bench is not None
    bench.session.choose_station(FENNEL)
    for stop in (ENDURANCE, LINEUP):
        window.go_to(stop)
        view: Any = window.stack.current_view()
        spin(400)
        spin_until(lambda shown=view: shown.answering.is_settled)  # type: ignore[misc]
        _keep(window, stop)


def _sun(window: MainWindow) -> None:
    """A solar run, and an array that must not be connected."""
    bench = window.bench
    assert bench is not None
    bench.session.choose_station(TANSY)
    window.go_to(SUN)
    view: Any = window.stack.current_view()
    view.choose_page("runs")
    _keep(window, "sun")
    bench.session.choose_station(FENNEL)
    view.choose_page("wiring")
    view.choose_panels(1)
    _keep(window, "sun-wiring")


def _sheet(window: MainWindow) -> None:
    """The sheet with some words of the invented reviewer's."""
    window.go_to(SHEET)
    view: Any = window.stack.current_view()
    for key, words in WORDS.items():
        view.fields[key].setPlainText(words)
    view.keep_words()
    spin_until(lambda: view.sheet is not None and bool(view.sheet.pros) and not window.jobs.busy)
    _keep(window, "sheet")


def _run(window: MainWindow, suffix: str = "") -> None:
    """A run in its middle, with marks and readings typed on the way."""
    start_run(window, FENNEL, RUN_SPEED)
    bench = window.bench
    assert bench is not None
    live = bench.live
    assert live is not None
    for hours, word in ((0.15, "Fan on"), (1.0, ""), (2.0, ""), (2.4, "Odd")):
        spin_until(lambda h=hours: live.elapsed_s() > h * 3600)  # type: ignore[misc]
        shown = live.simulated_display()
        if word:
            live.mark(word)
        elif shown:
            line = f"shows {shown[1]:.0f} W {shown[0]:.0f} % {shown[2] / 3600:.1f} h left"
            live.keep_noted(live.line_noted(line, live.now_s()))
    spin_until(lambda: live.elapsed_s() > 2.8 * 3600)
    window.go_to(RUN)
    assert live.samples.latest(Quantity.POWER)
    _keep(window, f"run{suffix}")


def _import(window: MainWindow) -> None:
    bench = window.bench
    assert bench is not None
    yard = bench.session.yard
    log = open_log(ROOT / "examples" / "semicolon-decimal-comma.csv")
    dialog = ImportDialog(
        log, yard.stations(), bench.session.station, yard.meters(), window.jobs, window
    )
    dialog.show()
    spin_until(lambda: dialog.preview is not None)
    spin(300)
    dialog.grab().save(str(FOLDER / "import.png"))
    print("import.png")
    dialog.done(0)


def _notes(window: MainWindow) -> None:
    """A run from somebody's notes, with a slip in them."""
    bench = window.bench
    assert bench is not None
    session = bench.session
    station = session.yard.get(Station, FENNEL)
    text = (ROOT / "examples" / "notes.txt").read_text("utf-8").replace("523 Wh", "0.523 Wh")
    dialog = NotedRunDialog(station, session.yard.meters_by_use(), window, text=text)
    dialog.show()
    spin(300)
    dialog.grab().save(str(FOLDER / "notes.png"))
    print("notes.png")
    dialog.done(0)


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    for colours, suffix in (("day", ""), ("night", "-night")):
        window = open_stage(colours=colours)
        _views(window, suffix)
        if not suffix:
            _import(window)
            _notes(window)
            window.close_yard()
            _keep(window, "welcome")
            close_stage(window)
            window = open_stage(colours=colours)
        _run(window, suffix)
        close_stage(window)


if __name__ == "__main__":
    sys.exit(main())
