"""Where the Wh of a run went."""

from yardtoll.desktop.actions.editing import (
    edit_notes,
    edit_record,
    explain_doubts,
    void_run,
)
from yardtoll.desktop.actions.files import ask_import
from yardtoll.desktop.host import Host
from yardtoll.desktop.views.stop import LEDGER, PLAN, Stop
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.workbench.workbench import Workbench


def build(host: Host, bench: Workbench) -> StopView:
    """Its view, connected."""
    from yardtoll.desktop.views.ledger.view import LedgerView

    view = LedgerView(bench)
    view.edit_run_asked.connect(lambda run: edit_record(host.widget, bench.session, run))
    view.notes_asked.connect(lambda run: edit_notes(host.widget, bench.session, run))
    view.void_run_asked.connect(lambda run: void_run(host.widget, bench.session, run))
    view.explain_asked.connect(
        lambda run, codes: explain_doubts(host.widget, bench.session, run, codes)
    )
    view.import_asked.connect(lambda: ask_import(host))
    view.plan_asked.connect(lambda: host.go_to(PLAN))
    return view


STOP = Stop(key=LEDGER, title="Ledger", order=50, build=build)
