"""The charts below a toll strip: power over the run, delivered against load, inputs together."""

from functools import partial

from pyqtgraph import PlotItem
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.formatting import decimals_for
from yardtoll.desktop.dialogs.budget import BudgetDialog
from yardtoll.desktop.widgets.basics import button
from yardtoll.desktop.widgets.input_shares import InputShares
from yardtoll.desktop.widgets.load_curve import LoadCurve
from yardtoll.desktop.widgets.marker_chart import MarkerChart
from yardtoll.desktop.widgets.power_chart import PowerChart
from yardtoll.desktop.widgets.wrapped_row import WrappedRow
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.beside import inputs_beside
from yardtoll.review.station.runs import StationRuns


class LedgerCharts(QWidget):
    """One chart at a time; a chart that has nothing to show has no title either.

    Args:
        frame: of the chart of power, where it was made before.
    """

    def __init__(self, frame: PlotItem | None = None, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        titles = WrappedRow(18)
        self.power = PowerChart("Power over the run", frame)
        self.curve = LoadCurve()
        self.shares = InputShares()
        self._charts: dict[str, tuple[QPushButton, QWidget]] = {}
        for key, title, chart in (
            ("power", "Power, W", self.power),
            ("curve", "Against load", self.curve),
            ("shares", "Inputs together", self.shares),
        ):
            made = button(title, partial(self.choose, key), "tab")
            made.setCheckable(True)
            titles.addWidget(made)
            layout.addWidget(chart)
            self._charts[key] = (made, chart)
        self.within_button = button(
            "", self._open_budget, "figure", "The marker's ±: where it comes from"
        )
        self.within_button.setToolTip("Where the ± comes from")
        titles.rest_to_the_right()
        titles.addWidget(self.within_button)
        layout.insertLayout(0, titles)
        for chart in (self.curve, self.shares):
            chart.moved.connect(self._show_within)
            chart.budget_asked.connect(self._open_budget)
        layout.addStretch(1)
        self._wanted = "power"
        self._has: set[str] = set()
        self._run_id: int | None = None

    def title(self, key: str) -> QPushButton:
        """The button that chooses a chart: "power", "curve" or "shares"."""
        return self._charts[key][0]

    def choose(self, key: str) -> None:
        """Show a chart, now and for the runs to come, where there is something to show in it."""
        self._wanted = key
        self._place()

    def show_run(self, analysis: RunAnalysis, runs: StationRuns) -> None:
        """Show a run beside others; its power follows when it has been read."""
        through = runs.through(analysis)
        beside = inputs_beside(analysis, runs)
        self._has = {"power"} if analysis.has_trace else set()
        if analysis.run.id != self._run_id:
            # Another run's power must not stand here until this one's has been read.
            self._run_id = analysis.run.id
            self.power.show_nothing()
        if through.points:
            self._has.add("curve")
            self.title("curve").setText(f"Against load, {through.outlet}")
            self.curve.show_runs(through, analysis.station.rated_wh)
        if beside:
            self._has.add("shares")
            other = beside[0].other
            self.shares.show_pair(
                beside[0].pair, *_names_and_kinds(analysis, other), (analysis.meter, other.meter)
            )
        self._place()

    def show_nothing(self) -> None:
        """There is no run."""
        self._has, self._run_id = set(), None
        self._place()

    def fit(self, height: int) -> None:
        """Give every chart the same height in pixels."""
        for _, chart in self._charts.values():
            chart.setFixedHeight(height)

    def _place(self) -> None:
        shown = self._wanted if self._wanted in self._has else "power"
        for key, (made, chart) in self._charts.items():
            made.setVisible(key in self._has)
            made.setChecked(key == shown)
            chart.setVisible(key in self._has and key == shown)
        self._show_within()

    def _marked(self) -> MarkerChart | None:
        """The chart with a marker that is shown."""
        return next((c for c in (self.curve, self.shares) if not c.isHidden()), None)

    def _show_within(self) -> None:
        """The ± at the marker, to be opened."""
        chart = self._marked()
        budget = chart.budget if chart is not None else None
        self.within_button.setVisible(budget is not None)
        if budget is not None:
            u = budget.expanded
            self.within_button.setText(f"± {u:.{decimals_for(u)}f} {budget.unit}")

    def _open_budget(self) -> None:
        chart = self._marked()
        if chart is not None and (budget := chart.budget) is not None:
            answer = chart.answer
            BudgetDialog(f"{answer[:1].upper()}{answer[1:]}", budget, parent=self).exec()


def _names_and_kinds(
    mine: RunAnalysis, other: RunAnalysis
) -> tuple[tuple[str, str], tuple[EnergyKind, EnergyKind]]:
    """Short names and colours of two inputs; two of one kind go by their numbers."""
    name, other_name = (a.energy_in.source.name if a.energy_in else "" for a in (mine, other))
    kind, other_kind = mine.method.energy, other.method.energy
    if name == other_name:
        name, other_name = f"run {mine.run.number}", f"run {other.run.number}"
    return (name, other_name), (kind, EnergyKind.STORED if kind is other_kind else other_kind)
