"""What the line-up asks for: other yards, prices, size classes, a published comparison."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QBuffer
from PySide6.QtWidgets import QFileDialog

from yardtoll.core.formatting import capitalised
from yardtoll.desktop.host import Host
from yardtoll.desktop.widgets.chart_image import PNG_SCALE, chart_image
from yardtoll.desktop.workbench.session import Session
from yardtoll.store.site_time import now
from yardtoll.whole_files import write_whole

if TYPE_CHECKING:
    from yardtoll.review.lineup.shown import Answered

_KINDS = {
    "One page (*.html)": ".html",
    "Document (*.pdf)": ".pdf",
    "Table for a spreadsheet (*.csv)": ".csv",
    "Markdown (*.md)": ".md",
    "Words for a video's description (*.txt)": ".txt",
    "Charts, one file each (*.svg)": ".svg",
    "Pictures, one file each (*.png)": ".png",
}


def ask_another_yard(host: Host, look: Callable[[Path], object]) -> None:
    """Ask for a yard to look into."""
    start = str(host.settings.last_folder)
    chosen, _ = QFileDialog.getOpenFileName(host.widget, "Another yard", start, "Yards (*.yard)")
    if chosen:
        host.settings.last_folder = Path(chosen).parent
        look(Path(chosen))


def ask_prices(host: Host, session: Session) -> None:
    """Ask for a price of the chosen station."""
    from yardtoll.desktop.dialogs.comparing import PricesDialog

    station = session.station
    if station is None or station.id is None or session.yard.read_only:
        return
    site, received = session.yard.site(), session.yard.receiving(station.id)
    kept = session.yard.prices(station.id)
    dialog = PricesDialog(
        station.id, station.name, kept, received.currency or site.currency,
        f"{now():%Y-%m-%d}", host.widget,
    )  # fmt: skip
    if not dialog.exec():
        return
    before = dialog.before
    if dialog.removed:
        if before is not None:
            session.remove(before, f"Remove a price of {station.name}")
        return
    made = dialog.record()
    if before is None:
        session.add(made, f"Add a price of {station.name}")
    else:
        session.edit(made, f"Edit a price of {station.name}")


def ask_classes(host: Host, session: Session) -> None:
    """Ask for the size classes; one step for undo."""
    from yardtoll.desktop.dialogs.comparing import ClassesDialog

    if session.yard.read_only:
        return
    kept = session.yard.size_classes()
    dialog = ClassesDialog(kept, host.widget)
    if not dialog.exec():
        return
    wanted = dialog.classes()
    text = "Edit the size classes"
    if [replace(c, id=None) for c in kept] == wanted:
        return
    with session.together(text):
        for old in kept:
            session.remove(old, text)
        for new in wanted:
            session.add(new, text)


def ask_publish(host: Host, answered: Answered | None) -> None:
    """Ask for a file, and write the comparison on a worker."""
    from yardtoll.review.lineup.publishing import with_figures

    if answered is None or not with_figures(answered):
        host.say("There is nothing to compare yet.")
        return
    start = str(host.settings.last_folder / "line-up.html")
    chosen, kind = QFileDialog.getSaveFileName(
        host.widget, "Publish the comparison", start, ";;".join(_KINDS)
    )
    if not chosen:
        return
    path = Path(chosen)
    if path.suffix not in _KINDS.values():
        path = path.with_name(path.name + _KINDS.get(kind, ".html"))
    host.settings.last_folder = path.parent
    publish(host, answered, path)


def publish(host: Host, answered: Answered, path: Path) -> None:
    """Write the comparison; of charts a file for each quantity, named after it."""
    host.jobs.start(
        f"Writing {path.name}",
        lambda _: write_comparison(answered, path),
        lambda made: host.say(f"{made[0].name} is in {made[0].parent}."),
        lambda error: host.say(f"{capitalised(str(error))}."),
    )


def write_comparison(answered: Answered, path: Path) -> list[Path]:
    """Write it as the path's end says.

    Raises:
        OSError: it cannot be written.
    """
    from yardtoll.report.charts.svg import to_svg
    from yardtoll.review.lineup.publishing import chart_of, with_figures

    if path.suffix not in (".svg", ".png"):
        write_whole(path, _content(answered, path.suffix))
        return [path]
    made = []
    for lineup in with_figures(answered):
        to = path.with_name(f"{path.stem}-{lineup.quantity}{path.suffix}")
        svg = to_svg(chart_of(lineup, answered).scene())
        write_whole(to, svg if path.suffix == ".svg" else _png(svg))
        made.append(to)
    return made


def _content(answered: Answered, suffix: str) -> bytes:
    from yardtoll.review.lineup.publishing import as_csv, as_description, as_html, as_markdown

    if suffix == ".pdf":
        # The typesetter is seldom asked for, and large.
        from yardtoll.review.lineup.pages import as_pdf

        return as_pdf(answered)
    make = {".csv": as_csv, ".md": as_markdown, ".txt": as_description}.get(suffix, as_html)
    return make(answered).encode()


def _png(svg: str) -> bytes:
    held = QBuffer()
    held.open(QBuffer.OpenModeFlag.WriteOnly)
    chart_image(svg, PNG_SCALE).save(held, "PNG")  # type: ignore[call-overload]
    return bytes(held.data().data())
