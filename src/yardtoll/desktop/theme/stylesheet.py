"""The style sheet, made from sheet.qss and the tokens."""

import re
from dataclasses import asdict
from importlib import resources
from pathlib import Path
from string import Template

from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.theme.tokens import (
    HEADING_PX,
    RADIUS,
    SMALL_PX,
    TEXT_PX,
    TITLE_PX,
    Tokens,
)

_SCALED = re.compile(r"(font-size|min-height|max-height): (\d\d+)px")
"""What goes with the size of text; hairlines have one digit."""
_SIZES = {
    "HEADING_PX": HEADING_PX,
    "RADIUS": RADIUS,
    "SMALL_PX": SMALL_PX,
    "TEXT_PX": TEXT_PX,
    "TITLE_PX": TITLE_PX,
}


def stylesheet(tokens: Tokens) -> str:
    """Qt style sheet for one theme; every name in the sheet must be a token or a size."""
    sheet = resources.files("yardtoll.desktop.theme").joinpath("sheet.qss").read_text("utf-8")
    icons = (Path(__file__).parents[1] / "assets" / "icons").as_posix()
    colours = {name: value for name, value in asdict(tokens).items() if isinstance(value, str)}
    sheet = Template(sheet).substitute(colours, icons=icons, **_SIZES)
    return _SCALED.sub(lambda found: f"{found[1]}: {scaled(float(found[2]))}px", sheet)
