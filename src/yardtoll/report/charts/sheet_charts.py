"""The sheet's charts as SVG."""

from yardtoll.report.charts.power import power_scene
from yardtoll.report.charts.scene import Scene
from yardtoll.report.charts.solar import solar_scene
from yardtoll.report.charts.svg import to_svg
from yardtoll.report.charts.toll_strip import ledger_scene
from yardtoll.report.sheet.contents import Sheet


def charts_of(sheet: Sheet) -> dict[str, str]:
    """Every chart of a sheet by its name, as SVG."""
    return energy_charts_of(sheet) | output_charts_of(sheet)


def energy_charts_of(sheet: Sheet) -> dict[str, str]:
    """Those that show where the watt-hours went."""
    return {key: to_svg(scene) for key, scene in energy_scenes_of(sheet).items()}


def energy_scenes_of(sheet: Sheet) -> dict[str, Scene]:
    """The same before they are drawn."""
    made = {}
    if sheet.ledger is not None:
        made["ledger"] = ledger_scene(sheet.ledger, sheet.ledger_title)
    for curve in sheet.curves:
        if curve.solar is not None and curve.solar.limited_by is not None:
            made[curve.key] = solar_scene(curve.title, curve.solar)
        else:
            made[curve.key] = power_scene(curve)
    return made


def output_charts_of(sheet: Sheet) -> dict[str, str]:
    """Those of the tests at the outlets."""
    return {key: to_svg(scene) for part in sheet.outputs for key, scene in part.scenes}
