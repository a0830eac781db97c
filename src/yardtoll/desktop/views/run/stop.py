"""The runs in progress."""

from yardtoll.desktop.host import Host
from yardtoll.desktop.views.stop import PLAN, RUN, Stop
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.workbench.workbench import Workbench


def build(host: Host, bench: Workbench) -> StopView:
    """Its view, connected."""
    from yardtoll.desktop.views.run.view import RunView

    view = RunView(bench)
    view.plan_asked.connect(lambda: host.go_to(PLAN))
    view.ledger_asked.connect(host.open_run)
    return view


STOP = Stop(key=RUN, title="Run", order=40, build=build)
