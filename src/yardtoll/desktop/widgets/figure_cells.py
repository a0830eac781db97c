"""Figures as rows: those whose ± is known are buttons that open their budget."""

from collections.abc import Callable, Iterable
from functools import partial

from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.desktop.widgets.kept_grid import TOP, TOP_RIGHT, Cell


def figure_cells(
    figures: Iterable[Figure], opened: Callable[[str, Budget], object], *, brief: bool = False
) -> list[Cell]:
    """A row a figure.

    Args:
        opened: called with the figure in words and its budget.
        brief: figures without a ± are shown in whole units.
    """
    cells = []
    for row, figure in enumerate(figures):
        cells.append(Cell(row=row, column=0, text=figure.title, role="muted", wrap=True, align=TOP))
        cells.append(_value(row, figure, opened, brief=brief))
    return cells


def _value(
    row: int, figure: Figure, opened: Callable[[str, Budget], object], *, brief: bool
) -> Cell:
    budget = figure.shown_budget
    if budget is None:
        text = figure.brief if brief else figure.shown
        return Cell(row=row, column=1, text=text, selectable=True, align=TOP_RIGHT)
    return Cell(
        row=row,
        column=1,
        text=figure.shown,
        role="figure",
        pressed=partial(opened, f"{figure.title}: {figure.shown}", budget),
        name=f"{figure.title} {figure.shown}: where the ± comes from",
        tip="Where the ± comes from",
        align=TOP_RIGHT,
    )
