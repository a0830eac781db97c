"""How long a station lasts through an outage, with these appliances and that sun."""

from yardtoll.core.methods import CAPACITY
from yardtoll.desktop.actions.editing import add_record, edit_record
from yardtoll.desktop.host import Host
from yardtoll.desktop.views.stop import ENDURANCE, Stop
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.workbench.workbench import Workbench


def build(host: Host, bench: Workbench) -> StopView:
    """Its view, connected."""
    from yardtoll.desktop.actions.outages import Outages
    from yardtoll.desktop.views.endurance.view import EnduranceView

    session = bench.session
    outages = Outages(host, session)
    view = EnduranceView(bench, outages)
    view.plan_asked.connect(lambda: host.plan(CAPACITY.key))
    view.site_asked.connect(lambda: edit_record(host.widget, session, session.yard.site()))
    view.panels_asked.connect(lambda: add_record(host.widget, session, "array"))
    view.run_asked.connect(host.open_run)
    return view


STOP = Stop(key=ENDURANCE, title="Endurance", order=68, build=build)
