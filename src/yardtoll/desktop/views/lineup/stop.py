"""Stations side by side, like with like."""

from collections.abc import Callable
from pathlib import Path

from yardtoll.desktop.host import Host
from yardtoll.desktop.views.stop import LINEUP, Stop
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.workbench.workbench import Workbench


def build(host: Host, bench: Workbench) -> StopView:
    """Its view, connected."""
    from yardtoll.desktop.actions.comparing import (
        ask_another_yard,
        ask_classes,
        ask_prices,
        ask_publish,
    )
    from yardtoll.desktop.views.lineup.view import LineupView

    view = LineupView(bench)
    view.run_asked.connect(host.open_run)
    view.plan_asked.connect(host.plan)
    view.yard_asked.connect(lambda: ask_another_yard(host, view.add_yard))
    view.archive_asked.connect(lambda: _ask_archived(host, view.add_yard))
    view.prices_asked.connect(lambda: ask_prices(host, bench.session))
    view.classes_asked.connect(lambda: ask_classes(host, bench.session))
    view.publish_asked.connect(lambda: ask_publish(host, view.answered))
    return view


def _ask_archived(host: Host, look: Callable[[Path], None]) -> None:
    """What talks to a server is loaded only where there is one."""
    from yardtoll.desktop.actions.shared_archive import ask_archived_yard

    ask_archived_yard(host, look)


STOP = Stop(key=LINEUP, title="Line-up", order=75, build=build)
