"""Pages from a template and what it is filled with. Words are put in as words, never as markup."""

import json
from collections.abc import Mapping
from functools import cache
from importlib import resources
from typing import Any

import typst

from yardtoll.report.charts import palette
from yardtoll.report.charts.scene import Scene
from yardtoll.report.charts.svg import to_svg

_COLOURS = ("PAPER", "INK", "MUTED", "LINE", "ACCENT", "GOOD", "BAD", "UNSURE")
_LAST_LATIN = 0x017F
_SIGNS_AT_HAND = frozenset("Δμ–—‘’“”†•…‰€™−≈≠≤≥→←◆✕○⁴⁵")
"""In one of our two faces."""


def typeset(template: str, filled_with: Mapping[str, Any]) -> bytes:
    """A PDF with tags for screen readers.

    Args:
        template: the name of one beside this module.
        filled_with: texts, numbers, lists and mappings, as JSON has them.

    Charts and photos come as SVG texts. Nothing is fetched, and no file is read but the fonts.
    """
    held = dict(filled_with)
    held["colours"] = {name.lower(): getattr(palette, name) for name in _COLOURS}
    written = json.dumps(held, ensure_ascii=False)
    sources: dict[str, bytes] = {
        "main": _text("look.typ") + _text(f"{template}.typ"),
        "data.json": written.encode(),
    }
    made = typst.compile(
        sources,  # type: ignore[call-overload]  # files in memory; the stub has not got them
        font_paths=_fonts(foreign=_has_foreign_letters(written)),
    )
    return bytes(made)


def chart(scene: Scene) -> dict[str, str]:
    """A chart for a page: as SVG, and what it shows in words."""
    return {"title": scene.title, "svg": to_svg(scene)}


def _text(name: str) -> bytes:
    return (resources.files("yardtoll.report.pages") / name).read_bytes()


@cache
def _fonts(*, foreign: bool) -> typst.Fonts:
    """Ours; and this computer's, which take a while to look through, for letters ours lacks."""
    folder = resources.files("yardtoll.report") / "fonts"
    return typst.Fonts(
        include_system_fonts=foreign, include_embedded_fonts=False, font_paths=[str(folder)]
    )


def _has_foreign_letters(text: str) -> bool:
    return any(ord(c) > _LAST_LATIN and c not in _SIGNS_AT_HAND for c in text)
