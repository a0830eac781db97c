"""A sheet as one self-contained HTML file and as text to paste; pdf.py makes pages of it."""

import base64
import functools
from collections.abc import Sequence
from contextvars import ContextVar
from importlib import resources

import jinja2
from markupsafe import Markup

from yardtoll.core.line_breaks import held_together
from yardtoll.core.region import in_region
from yardtoll.report.charts import palette
from yardtoll.report.charts.sheet_charts import energy_charts_of, output_charts_of
from yardtoll.report.sheet.contents import Sheet

SIGNS = {
    "meets": "◆",
    "falls_short": "✕",
    "too_close_to_call": "○",
    "cannot_be_judged": "–",
    "not_tested": "–",
}
"""Shapes that say the verdict without colour."""
_FACES = (
    (400, "Barlow_400Regular.ttf"),
    (500, "Barlow_500Medium.ttf"),
    (600, "Barlow_600SemiBold.ttf"),
)
_SHEET: ContextVar[Sheet] = ContextVar("_SHEET")
"""The one that is rendered: its region is asked for at every word."""


def sheet_html(sheet: Sheet) -> str:
    """One file, fonts and pictures within; the same sheet gives the same text.

    Everything that comes from a yard is escaped: a name with markup in it stays a name.
    """
    environment = _environment(sheet)
    css = environment.get_template("sheet.css.j2").render(p=palette, fonts=_fonts())
    # The style sheet and the charts are this program's own markup; charts escape their words.
    charts = {key: Markup(svg) for key, svg in energy_charts_of(sheet).items()}  # noqa: S704
    outputs = {key: Markup(svg) for key, svg in output_charts_of(sheet).items()}  # noqa: S704
    page = environment.get_template("sheet.html.j2")
    return page.render(
        s=sheet,
        css=Markup(css),  # noqa: S704
        charts=charts,
        output_charts=outputs,
        signs=SIGNS,
    )


def preview_html(sheet: Sheet, charts: Sequence[str], *, muted: str, chart_width: int) -> str:
    """The sheet in the few words of HTML that a rich-text widget knows.

    Args:
        charts: names of the charts; each is an image named "chart:NAME".
        muted: colour of what is said by the way.
    """
    page = _environment(sheet).get_template("preview.html.j2")
    made = page.render(s=sheet, charts=charts, signs=SIGNS, muted=muted, width=chart_width)
    return held_together(made)  # a small part of a window breaks many lines


def _environment(sheet: Sheet) -> jinja2.Environment:
    _SHEET.set(sheet)
    return _compiled()


@functools.cache
def _compiled() -> jinja2.Environment:
    """Templates are compiled once, and render the sheet in hand."""

    def in_its_region(value: object) -> object:
        if isinstance(value, str) and not isinstance(value, Markup):
            sheet = _SHEET.get()
            return in_region(value, sheet.region, sheet.as_written)
        return value

    made = jinja2.Environment(
        loader=jinja2.PackageLoader("yardtoll.report.sheet", "."),
        autoescape=True,
        undefined=jinja2.StrictUndefined,
        keep_trailing_newline=True,
        finalize=in_its_region,
    )
    made.filters["base64"] = _base64
    return made


def sheet_markdown(sheet: Sheet) -> str:
    """To paste under an article: headings, a table of claims, lists."""
    return in_region(_markdown(sheet), sheet.region, sheet.as_written)


def _markdown(sheet: Sheet) -> str:
    lines = [f"# {sheet.station}", "", sheet.subtitle, "", f"**{sheet.finding}**", ""]
    if sheet.summary:
        lines += [sheet.summary, ""]
    lines += [f"- {fact.title}: {fact.shown}" for fact in sheet.facts]
    if sheet.claims:
        lines += ["", "| Claim | Claimed | Measured | Verdict |", "|---|---|---|---|"]
        lines += [
            "| "
            + " | ".join(_cell(t) for t in (c.title, c.claimed, c.measured or "–", c.word))
            + " |"
            for c in sheet.claims
        ]
    if sheet.outputs:
        lines += ["", "## What comes out of the sockets", ""]
        lines += [f"- {part.title}: {part.finding}. {part.words}" for part in sheet.outputs]
    for title, items in (("For it", sheet.pros), ("Against it", sheet.cons)):
        if items:
            lines += ["", f"## {title}", "", *(f"- {item}" for item in items)]
    lines += ["", "## How it was measured", ""]
    lines += [f"- {name}: {words}" for name, words in sheet.method]
    return "\n".join(lines) + "\n"


def sheet_text(sheet: Sheet) -> str:
    """To paste under a video: plain lines."""
    return in_region(_text(sheet), sheet.region, sheet.as_written)


def _text(sheet: Sheet) -> str:
    lines = [f"{sheet.station}: {sheet.finding}", ""]
    lines += [f"{fact.title}: {fact.shown}" for fact in sheet.facts]
    tested = [c for c in sheet.claims if c.standing not in ("not_tested", "cannot_be_judged")]
    if tested:
        lines += ["", "Claims:"]
        lines += [
            f"{SIGNS[c.standing]} {c.title} {c.claimed}: {c.measured} – {c.word}" for c in tested
        ]
    if sheet.outputs:
        lines += ["", "At the sockets:"]
        lines += [f"· {part.title}: {part.finding}" for part in sheet.outputs]
    for title, items in (("For it", sheet.pros), ("Against it", sheet.cons)):
        if items:
            lines += ["", f"{title}:", *(f"· {item}" for item in items)]
    lines += ["", "Measured:", *(f"{name}: {words}" for name, words in sheet.method)]
    return "\n".join(lines) + "\n"


def _cell(text: str) -> str:
    return text.replace("|", "\\|").replace("\n", " ")


def _fonts() -> list[tuple[int, str]]:
    folder = resources.files("yardtoll.report") / "fonts"
    return [(weight, _base64((folder / name).read_bytes())) for weight, name in _FACES]


def _base64(data: bytes) -> Markup:
    return Markup(base64.b64encode(data).decode("ascii"))  # noqa: S704 - letters and figures only
