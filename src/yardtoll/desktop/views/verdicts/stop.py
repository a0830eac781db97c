"""Claims and yardsticks, judged."""

from yardtoll.desktop.actions.editing import add_record, edit_record, note_seen, read_claim_as
from yardtoll.desktop.host import Host
from yardtoll.desktop.views.stop import CLAIMS, VERDICTS, Stop
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.workbench.workbench import Workbench


def build(host: Host, bench: Workbench) -> StopView:
    """Its view, connected."""
    from yardtoll.desktop.views.verdicts.view import VerdictsView

    view = VerdictsView(bench)
    view.evidence_asked.connect(host.open_run)
    view.note_asked.connect(lambda claim: note_seen(host.widget, bench.session, claim))
    view.reading_asked.connect(lambda claim: read_claim_as(host.widget, bench.session, claim))
    view.plan_asked.connect(host.plan)
    view.claims_asked.connect(lambda: host.go_to(CLAIMS))
    view.add_yardstick_asked.connect(lambda: add_record(host.widget, bench.session, "yardstick"))
    view.edit_yardstick_asked.connect(
        lambda: edit_record(host.widget, bench.session, bench.session.yardstick())
    )
    return view


STOP = Stop(key=VERDICTS, title="Verdicts", order=70, build=build)
