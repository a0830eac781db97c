"""The yard: its runs, stations and gear."""

from yardtoll.desktop.actions.editing import edit_record
from yardtoll.desktop.actions.files import ask_import
from yardtoll.desktop.actions.records import ask_new_record
from yardtoll.desktop.host import Host
from yardtoll.desktop.views.stop import YARD, Stop
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.workbench.workbench import Workbench


def build(host: Host, bench: Workbench) -> StopView:
    """Its view, connected."""
    from yardtoll.desktop.views.yard.view import YardView

    view = YardView(bench)
    view.run_opened.connect(host.open_run)
    view.import_asked.connect(lambda: ask_import(host))
    view.add_asked.connect(lambda kind: ask_new_record(host, kind))
    view.edit_asked.connect(lambda record: edit_record(host.widget, bench.session, record))
    return view


STOP = Stop(key=YARD, title="Yard", order=10, build=build)
