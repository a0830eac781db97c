"""Tests at the outlets: their captures and lines, pictures and words."""

from yardtoll.desktop.host import Host
from yardtoll.desktop.views.stop import OUTPUTS, Stop
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.workbench.workbench import Workbench


def build(host: Host, bench: Workbench) -> StopView:
    """Its view, connected."""
    from yardtoll.desktop.actions.editing import void_run
    from yardtoll.desktop.actions.output_lines import OutputLines
    from yardtoll.desktop.views.outputs.view import OutputsView

    view = OutputsView(bench)
    lines = OutputLines(host, bench.session, view.show_run)
    view.line_asked.connect(lines.ask_line)
    view.edit_asked.connect(lines.edit_line)
    view.remove_asked.connect(lines.remove_line)
    view.file_asked.connect(lines.take_file)
    view.scope_asked.connect(lines.ask_scope)
    view.instrument_asked.connect(lines.ask_instrument)
    view.new_run_asked.connect(lines.new_run)
    # A connection to a plain object's method does not keep the object.
    view.answers = lines
    view.void_asked.connect(lambda run: void_run(host.widget, bench.session, run))
    view.ledger_asked.connect(host.open_run)
    view.plan_asked.connect(host.plan)
    return view


STOP = Stop(key=OUTPUTS, title="Outputs", order=65, build=build)
