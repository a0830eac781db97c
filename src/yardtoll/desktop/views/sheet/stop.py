"""The sheet, as it will be published."""

from yardtoll.desktop.actions.editing import edit_score_point, note_subject
from yardtoll.desktop.actions.saving import (
    ask_save_charts,
    ask_save_html,
    ask_save_pdf,
    ask_save_results,
)
from yardtoll.desktop.host import Host
from yardtoll.desktop.views.stop import SHEET, Stop
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.workbench.workbench import Workbench


def build(host: Host, bench: Workbench) -> StopView:
    """Its view, connected."""
    from yardtoll.desktop.actions.scorecards import Scorecards
    from yardtoll.desktop.views.sheet.view import SheetView

    view = SheetView(bench)
    session = bench.session
    view.html_asked.connect(lambda: ask_save_html(host))
    view.pdf_asked.connect(lambda: ask_save_pdf(host))
    view.charts_asked.connect(lambda: ask_save_charts(host))
    view.results_asked.connect(lambda: ask_save_results(host))
    view.seen_asked.connect(
        lambda quantity, question: note_subject(host.widget, session, quantity, question)
    )
    view.point_asked.connect(lambda point: edit_score_point(host.widget, session, point))
    # A connection to a plain object's method does not keep the object.
    view.scorecards = scorecards = Scorecards(host, session)
    view.templates_asked.connect(scorecards.fill)
    return view


STOP = Stop(key=SHEET, title="Sheet", order=80, build=build)
