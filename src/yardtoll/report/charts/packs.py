"""The charge of each pack over time."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.output.packs import PacksResult
from yardtoll.report.charts.palette import ON_PAPER, Palette
from yardtoll.report.charts.plane import Plane
from yardtoll.report.charts.scene import Dot, Item, Line, Scene, Words

_KINDS = (
    EnergyKind.STORED, EnergyKind.CONVERSION, EnergyKind.WALL, EnergyKind.OVERHEAD,
    EnergyKind.DELIVERED, EnergyKind.FLOOR,
)  # fmt: skip
_DASHES: tuple[tuple[float, ...], ...] = ((), (7.0, 3.0), (2.0, 3.0))


def packs_scene(
    found: PacksResult, width: float, height: float, palette: Palette = ON_PAPER
) -> Scene:
    """A line a pack, told apart by colour and dashes."""
    span = max([point.minute for point in found.points] + [1.0])
    plane = Plane(
        area=(58, 34, width - 72, height - 70), x=(0.0, 1.03 * span), y=(0.0, 100.0),
        palette=palette,
    )  # fmt: skip
    items: list[Item] = [*plane.rows("%"), *plane.columns("min")]
    x = 58.0
    for place, pack in enumerate(found.packs):
        colour = palette.energy[_KINDS[place % len(_KINDS)]]
        dash = _DASHES[place % len(_DASHES)]
        line = tuple(plane.at(p.minute, p.soc_percent) for p in found.points if p.pack == pack)
        if len(line) > 1:
            items.append(Line(points=line, colour=colour, width=2.4, dash=dash))
        items += [Dot(at=at, radius=3.5, fill=colour) for at in line]
        items.append(Line(points=((x, 13), (x + 22, 13)), colour=colour, width=2.4, dash=dash))
        items.append(Words(x=x + 28, y=18, text=pack, colour=palette.ink, room=120))
        x += 46 + 7.4 * min(len(pack), 16)
    return Scene(width=width, height=height, items=tuple(items), title="The charge of each pack")
