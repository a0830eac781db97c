"""Builds each view and connects what it asks for to the window that can do it."""

from datetime import datetime
from typing import TYPE_CHECKING, Any

from yardtoll.desktop.actions.editing import (
    add_claim,
    add_record,
    edit_claim,
    edit_receiving,
    edit_record,
    edit_score_point,
    explain_doubts,
    note_seen,
    note_subject,
    paste_claims,
    read_claim_as,
    void_run,
    work_with,
)
from yardtoll.desktop.actions.files import ask_import
from yardtoll.desktop.actions.photos import ask_photos, open_photo
from yardtoll.desktop.actions.records import ask_new_record
from yardtoll.desktop.actions.saving import (
    ask_save_charts,
    ask_save_html,
    ask_save_pdf,
    ask_save_results,
)
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.views.stops import CLAIMS, PLAN, RUN, YARD
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.store.records import Run

if TYPE_CHECKING:
    from yardtoll.desktop.frame.main_window import MainWindow


def build_view(window: "MainWindow", index: int, bench: Workbench) -> StopView:
    """The view of one stop, wired."""
    return (_yard, _claims, _plan, _run, _ledger, _sun, _verdicts, _sheet)[index](window, bench)


def _yard(window: "MainWindow", bench: Workbench) -> StopView:
    from yardtoll.desktop.views.yard.view import YardView

    view = YardView(bench)
    view.run_opened.connect(window.open_run)
    view.add_asked.connect(lambda kind: ask_new_record(window, kind))
    view.edit_asked.connect(lambda record: edit_record(window, bench.session, record))
    return view


def _claims(window: "MainWindow", bench: Workbench) -> StopView:
    from yardtoll.desktop.views.claims.view import ClaimsView

    view = ClaimsView(bench)
    session = bench.session
    view.add_asked.connect(lambda: add_claim(window, session))
    view.paste_asked.connect(lambda: paste_claims(window, session))
    view.receiving_asked.connect(lambda: edit_receiving(window, session))
    view.photos_asked.connect(lambda: ask_photos(window))
    view.edit_asked.connect(lambda claim: edit_claim(window, session, claim))
    view.work_with_asked.connect(lambda claim: work_with(session, claim))
    view.photo_opened.connect(lambda photo: open_photo(window, session, photo))
    view.add_station_asked.connect(lambda: ask_new_record(window, "station"))
    return view


def _plan(window: "MainWindow", bench: Workbench) -> StopView:
    from yardtoll.desktop.views.plan.view import PlanView

    view = PlanView(bench)

    def add(kind: str) -> None:
        made = add_record(window, bench.session, kind)
        if made is not None:
            view.choose_new(made)

    view.add_asked.connect(add)
    view.add_station_asked.connect(lambda: ask_new_record(window, "station"))
    view.started.connect(lambda: window.go_to(RUN))
    view.kept.connect(
        lambda _: window.say("The plan is kept.", "See it in the yard", lambda: window.go_to(YARD))
    )
    return view


def _run(window: "MainWindow", bench: Workbench) -> StopView:
    from yardtoll.desktop.views.run.view import RunView

    view = RunView(bench)
    view.plan_asked.connect(lambda: window.go_to(PLAN))
    view.ledger_asked.connect(window.open_run)
    return view


def _ledger(window: "MainWindow", bench: Workbench) -> StopView:
    from yardtoll.desktop.views.ledger.view import LedgerView

    view = LedgerView(bench)
    view.edit_run_asked.connect(lambda run: edit_record(window, bench.session, run))
    view.void_run_asked.connect(lambda run: void_run(window, bench.session, run))
    view.explain_asked.connect(lambda run, codes: explain_doubts(window, bench.session, run, codes))
    view.import_asked.connect(lambda: ask_import(window))
    view.plan_asked.connect(lambda: window.go_to(PLAN))
    return view


def _sun(window: "MainWindow", bench: Workbench) -> StopView:
    from yardtoll.desktop.views.sun.view import SunView

    view = SunView(bench)
    session = bench.session
    view.add_array_asked.connect(lambda: add_record(window, session, "array"))
    view.edit_array_asked.connect(lambda array: edit_record(window, session, array))
    view.irradiance_asked.connect(lambda run: lay_irradiance(window, run))
    view.site_asked.connect(lambda: edit_record(window, session, session.yard.site()))
    view.import_asked.connect(lambda: ask_import(window))
    view.plan_asked.connect(lambda at: plan_missing(window, "recharge_sun", None, at))
    return view


def _verdicts(window: "MainWindow", bench: Workbench) -> StopView:
    from yardtoll.desktop.views.verdicts.view import VerdictsView

    view = VerdictsView(bench)
    view.evidence_asked.connect(window.open_run)
    view.note_asked.connect(lambda claim: note_seen(window, bench.session, claim))
    view.reading_asked.connect(lambda claim: read_claim_as(window, bench.session, claim))
    view.plan_asked.connect(lambda method, watts: plan_missing(window, method, watts))
    view.claims_asked.connect(lambda: window.go_to(CLAIMS))
    view.add_yardstick_asked.connect(lambda: add_record(window, bench.session, "yardstick"))
    view.edit_yardstick_asked.connect(
        lambda: edit_record(window, bench.session, bench.session.yardstick())
    )
    return view


def _sheet(window: "MainWindow", bench: Workbench) -> StopView:
    from yardtoll.desktop.views.sheet.view import SheetView

    view = SheetView(bench)
    session = bench.session
    view.html_asked.connect(lambda: ask_save_html(window))
    view.pdf_asked.connect(lambda: ask_save_pdf(window))
    view.charts_asked.connect(lambda: ask_save_charts(window))
    view.results_asked.connect(lambda: ask_save_results(window))
    view.seen_asked.connect(
        lambda quantity, question: note_subject(window, session, quantity, question)
    )
    view.point_asked.connect(lambda point: edit_score_point(window, session, point))
    return view


def lay_irradiance(window: "MainWindow", run: Run) -> None:
    """Ask for a logger's file; what reads it is loaded only then."""
    from yardtoll.desktop.actions.irradiance import ask_irradiance

    ask_irradiance(window, run)


def plan_missing(
    window: "MainWindow", method: str, watts: float | None, at: datetime | None = None
) -> None:
    """Go to the Plan view with the method, the watts a claim asks for, and a moment to come."""
    window.go_to(PLAN)
    plan: Any = window.stack.currentWidget()
    plan.choose_method(method, watts, at)
