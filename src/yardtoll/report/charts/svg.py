"""Scenes as SVG."""

from html import escape

from yardtoll.report.charts.hatching import hatching
from yardtoll.report.charts.palette import RAISED
from yardtoll.report.charts.scene import Area, Box, Dot, Item, Line, Point, Scene, Words

FAMILIES = "Barlow, sans-serif"
"""The face of every chart; the second for a reader of a bare SVG file who has not got the first."""
_TEXT = 13
_LETTER = 0.52
"""Width of a usual letter, in sizes of the text."""


def to_svg(scene: Scene) -> str:
    """A whole chart on the sheet's ground."""
    width, height = f"{scene.width:g}", f"{scene.height:g}"
    size = f'viewBox="0 0 {width} {height}" width="{width}" height="{height}"'
    face = f'font-family="{FAMILIES}" font-size="{_TEXT}"'
    ground = f'<rect width="{width}" height="{height}" fill="{RAISED}"/>'
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" {size} role="img" '
        f'aria-label="{escape(scene.title)}" {face}>{ground}'
        f"{''.join(_element(item) for item in scene.items)}</svg>"
    )


def _element(item: Item) -> str:
    if isinstance(item, Box):
        return _box(item)
    if isinstance(item, Line):
        dash = f' stroke-dasharray="{" ".join(f"{d:g}" for d in item.dash)}"' if item.dash else ""
        return (
            f'<polyline points="{_points(item.points)}" fill="none" stroke="{item.colour}" '
            f'stroke-width="{item.width:g}"{dash}/>'
        )
    if isinstance(item, Area):
        return (
            f'<polygon points="{_points(item.points)}" fill="{item.fill}" '
            f'fill-opacity="{item.opacity:g}"/>'
        )
    if isinstance(item, Dot):
        (x, y), edge = item.at, ""
        if item.stroke:
            edge = f' stroke="{item.stroke}" stroke-width="{item.width:g}"'
        return (
            f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{item.radius:g}" '
            f'fill="{item.fill or "none"}"{edge}/>'
        )
    return _words(item)


def _box(box: Box) -> str:
    edge = f' stroke="{box.stroke}"' if box.stroke else ""
    made = (
        f'<rect x="{box.x:.1f}" y="{box.y:.1f}" width="{box.width:.1f}" '
        f'height="{box.height:.1f}" fill="{box.fill}"{edge}/>'
    )
    lines = "".join(
        f"M{x0:.1f} {y0:.1f}L{x1:.1f} {y1:.1f}"
        for x0, y0, x1, y1 in hatching(
            box.x, box.y, box.x + box.width, box.y + box.height, box.hatch
        )
    )
    if lines:
        made += (
            f'<path d="{lines}" stroke="{box.hatch_colour}" '
            f'stroke-opacity="{box.hatch_opacity:g}"/>'
        )
    return made


def _words(words: Words) -> str:
    """With a room it is pressed together where it would not fit."""
    fit = ""
    if words.room and len(words.text) * _LETTER * words.size > words.room:
        fit = f' textLength="{words.room:.0f}" lengthAdjust="spacingAndGlyphs"'
    size = f' font-size="{words.size:g}"' if words.size != _TEXT else ""
    return (
        f'<text x="{words.x:.1f}" y="{words.y:.1f}" text-anchor="{words.anchor}" '
        f'fill="{words.colour}" font-weight="{words.weight}"{size}{fit}>{escape(words.text)}</text>'
    )


def _points(points: tuple[Point, ...]) -> str:
    return " ".join(f"{x:.1f},{y:.1f}" for x, y in points)
