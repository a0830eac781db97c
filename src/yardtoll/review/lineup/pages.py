"""A comparison as PDF. Importing this loads the typesetter."""

from yardtoll.report.pages.typeset import chart, typeset
from yardtoll.review.lineup.publishing import (
    TIES,
    TITLE,
    chart_of,
    condition_of,
    rows_shown,
    with_figures,
)
from yardtoll.review.lineup.shown import Answered
from yardtoll.review.lineup.words import headline


def as_pdf(answered: Answered) -> bytes:
    """A heading, a chart and a table for each quantity."""
    parts = [
        {
            "headline": headline(lineup, answered.asked),
            "condition": condition_of(lineup),
            "chart": chart(chart_of(lineup, answered).scene()),
            "rows": rows_shown(lineup),
        }
        for lineup in with_figures(answered)
    ]
    return typeset("lineup", {"title": TITLE, "ties": TIES, "parts": parts})
