"""Panels, days to come, and solar runs."""

from yardtoll.core.methods import SOLAR
from yardtoll.desktop.actions.editing import add_record, edit_record
from yardtoll.desktop.actions.files import ask_import
from yardtoll.desktop.host import Host
from yardtoll.desktop.views.stop import SUN, Stop
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.store.records import Run


def build(host: Host, bench: Workbench) -> StopView:
    """Its view, connected."""
    from yardtoll.desktop.views.sun.view import SunView

    view = SunView(bench)
    session = bench.session
    view.add_array_asked.connect(lambda: add_record(host.widget, session, "array"))
    view.edit_array_asked.connect(lambda array: edit_record(host.widget, session, array))
    view.irradiance_asked.connect(lambda run: _attach_irradiance(host, run))
    view.site_asked.connect(lambda: edit_record(host.widget, session, session.yard.site()))
    view.import_asked.connect(lambda: ask_import(host))
    view.plan_asked.connect(lambda at: host.plan(SOLAR.key, at=at))
    return view


def _attach_irradiance(host: Host, run: Run) -> None:
    """Ask for a logger's file; what reads it is loaded only then."""
    from yardtoll.desktop.actions.irradiance import ask_irradiance

    ask_irradiance(host, run)


STOP = Stop(key=SUN, title="Sun", order=60, build=build)
