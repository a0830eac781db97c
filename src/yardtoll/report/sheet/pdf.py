"""A sheet as PDF. Importing this loads the typesetter."""

import base64
import io
from dataclasses import asdict
from typing import Any

from PIL import Image, ImageOps

from yardtoll.core.region import in_region
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.report.charts.sheet_charts import energy_scenes_of
from yardtoll.report.pages.typeset import chart, typeset
from yardtoll.report.sheet.contents import Claimed, Picture, RunLine, Sheet

_PT_A_PX = 0.75
_WIDEST_PT, _HIGHEST_PT = 510.0, 360.0
_SHARP_PX = 1600
"""A picture's longer side as printed: at 180 mm that is 220 to the inch."""


def sheet_pdf(sheet: Sheet) -> bytes:
    """The sheet's pages."""
    held = {**_words(sheet), "pictures": _pictures(sheet.pictures)}
    return typeset("sheet", _in_its_region(held, sheet))


def _words(sheet: Sheet) -> dict[str, Any]:
    """All that stands on the sheet but its pictures."""
    return {
        "title": f"{sheet.station} on the bench",
        "station": sheet.station,
        "subtitle": sheet.subtitle,
        "finding": sheet.finding,
        "summary": [part for part in sheet.summary.splitlines() if part.strip()],
        "facts": [_figure(fact) for fact in sheet.facts],
        "pros": sheet.pros,
        "cons": sheet.cons,
        "claims": [_claim(claim) for claim in sheet.claims],
        "untested": sheet.untested,
        "stated": sheet.stated,
        "results": [_figure(figure) for figure in sheet.results],
        "charts": [chart(scene) for scene in energy_scenes_of(sheet).values()],
        "tolls": [_figure(figure) for figure in sheet.tolls],
        "outputs": [
            {
                "title": part.title,
                "finding": part.finding,
                "words": part.words,
                "charts": [chart(scene) for _, scene in part.scenes],
            }
            for part in sheet.outputs
        ],
        "scoring": [{**asdict(point), "got": point.got or "–"} for point in sheet.scoring],
        "score_words": sheet.score_words,
        "runs": [_run(line) for line in sheet.runs],
        "method": sheet.method,
        "cautions": sheet.cautions,
    }


def _figure(figure: Figure) -> dict[str, str]:
    return {
        "title": figure.title,
        "shown": figure.shown,
        "brief": figure.brief,
        "how": figure.how,
    }


def _claim(claim: Claimed) -> dict[str, str]:
    names = ("title", "claimed", "source", "standing", "word", "sentence")
    return {**{name: getattr(claim, name) for name in names}, "measured": claim.measured or "–"}


def _run(line: RunLine) -> dict[str, Any]:
    return {
        "number": str(line.number),
        "date": line.date,
        "method": line.method,
        "load": line.load,
        "came_to": f"void: {line.void}" if line.void else line.result_text,
        "duration": line.duration,
        "meter": line.meter,
        "void": bool(line.void),
    }


def _in_its_region(held: Any, sheet: Sheet) -> Any:
    """The same with units and signs of the sheet's region; charts and names as they are."""
    if isinstance(held, str):
        return in_region(held, sheet.region, sheet.as_written)
    if isinstance(held, dict):
        kept = {"svg", "standing"}
        return {
            key: value if key in kept else _in_its_region(value, sheet)
            for key, value in held.items()
        }
    if isinstance(held, list | tuple):
        return [_in_its_region(item, sheet) for item in held]
    return held


def _pictures(pictures: tuple[Picture, ...]) -> list[dict[str, Any]]:
    """Pictures as the page places them; what cannot be read is left out."""
    placed = []
    for picture in pictures:
        try:
            (width_px, height_px), kind, data = _for_print(picture.data)
        except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
            continue
        width_pt, height_pt = width_px * _PT_A_PX, height_px * _PT_A_PX
        share = min(1.0, _WIDEST_PT / width_pt, _HIGHEST_PT / height_pt)
        within = base64.b64encode(data).decode("ascii")
        # The typesetter takes files in memory only where they are text.
        svg = (
            f'<svg xmlns="http://www.w3.org/2000/svg" width="{width_px}" height="{height_px}">'
            f'<image width="{width_px}" height="{height_px}" '
            f'href="data:image/{kind};base64,{within}"/></svg>'
        )
        placed.append({"svg": svg, "width_pt": width_pt * share, "caption": picture.caption})
    return placed


def _for_print(data: bytes) -> tuple[tuple[int, int], str, bytes]:
    """Size in pixels before it was made smaller, kind, and a file no sharper than a page shows."""
    with Image.open(io.BytesIO(data)) as opened:
        upright = ImageOps.exif_transpose(opened)
        size = upright.size
        upright.thumbnail((_SHARP_PX, _SHARP_PX))
        held = io.BytesIO()
        if upright.mode in ("RGB", "L"):
            upright.save(held, "JPEG", quality=88)
            return size, "jpeg", held.getvalue()
        upright.convert("RGBA").save(held, "PNG")
    return size, "png", held.getvalue()
