"""A chart as a list of things to be drawn: the window paints it, a file gets it as SVG.

Lengths are in pixels from the top left, colours are #RRGGBB.
"""

from dataclasses import dataclass

from yardtoll.report.charts.hatching import Hatch

Point = tuple[float, float]


@dataclass(frozen=True, kw_only=True)
class Box:
    """A filled rectangle.

    Attributes:
        stroke: colour of its edge; "" for none.
        hatch_colour: of the lines over its fill.
    """

    x: float
    y: float
    width: float
    height: float
    fill: str
    stroke: str = ""
    hatch: Hatch = Hatch.NONE
    hatch_colour: str = ""
    hatch_opacity: float = 0.6


@dataclass(frozen=True, kw_only=True)
class Line:
    """A line through points."""

    points: tuple[Point, ...]
    colour: str
    width: float = 1.0
    dash: tuple[float, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Area:
    """A filled shape between points."""

    points: tuple[Point, ...]
    fill: str
    opacity: float = 1.0


@dataclass(frozen=True, kw_only=True)
class Dot:
    """A circle; ``fill`` or ``stroke`` may be "" for none."""

    at: Point
    radius: float
    fill: str = ""
    stroke: str = ""
    width: float = 1.0


@dataclass(frozen=True, kw_only=True)
class Words:
    """One line of text on a base line.

    Attributes:
        anchor: "start", "middle" or "end": the part of the text at x.
        room: in pixels; a text that is wider is made to fit; 0 for any width.
        whole: it holds a figure: made to fit in smaller letters, never by leaving some out.
    """

    x: float
    y: float
    text: str
    colour: str
    size: float = 13.0
    weight: int = 400
    anchor: str = "start"
    room: float = 0.0
    whole: bool = False


Item = Box | Line | Area | Dot | Words


@dataclass(frozen=True, kw_only=True)
class Scene:
    """A whole chart; its title is read to those who cannot see it."""

    width: float
    height: float
    items: tuple[Item, ...]
    title: str = ""
