"""The next run, worked out and checked."""

from yardtoll.desktop.actions.editing import add_record
from yardtoll.desktop.actions.records import ask_new_record
from yardtoll.desktop.host import Host
from yardtoll.desktop.views.stop import PLAN, RUN, YARD, Stop
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.workbench.workbench import Workbench


def build(host: Host, bench: Workbench) -> StopView:
    """Its view, connected."""
    from yardtoll.desktop.views.plan.view import PlanView

    view = PlanView(bench)

    def add(kind: str) -> None:
        made = add_record(host.widget, bench.session, kind)
        if made is not None:
            view.choose_new(made)

    view.add_asked.connect(add)
    view.add_station_asked.connect(lambda: ask_new_record(host, "station"))
    view.started.connect(lambda: host.go_to(RUN))
    view.kept.connect(
        lambda _: host.say("The plan is kept.", "See it in the yard", lambda: host.go_to(YARD))
    )
    return view


STOP = Stop(key=PLAN, title="Plan", order=30, build=build)
