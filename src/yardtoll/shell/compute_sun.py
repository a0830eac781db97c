"""`yardtoll compute array`, `sun`, `solar`: what panels may be connected, should give, and gave."""

from datetime import date, datetime
from pathlib import Path
from typing import Annotated

import typer

from yardtoll.core.formatting import quoted
from yardtoll.shell.options import AsJson, IsNotes, Map, Zone, print_result
from yardtoll.shell.site_options import (
    Albedo,
    AltitudeM,
    AmbientC,
    ArrayW,
    Azimuth,
    AzimuthIfAny,
    CapW,
    Gamma,
    Lat,
    LatIfAny,
    Lon,
    LonIfAny,
    SunZone,
    Tilt,
    TiltIfAny,
    WindMs,
    WiringLoss,
    begin_of,
)


def compute_array(
    voc: Annotated[float, typer.Option("--voc", help="Open-circuit V of one module, 25 °C.")],
    vmp: Annotated[float, typer.Option("--vmp", help="V of one module at full power.")],
    isc: Annotated[float, typer.Option("--isc", help="Short-circuit A of one module.")],
    imp: Annotated[float, typer.Option("--imp", help="A of one module at full power.")],
    beta_voc: Annotated[
        float, typer.Option("--beta-voc", help="Change of Voc with temperature, 1/K: -0.0029.")
    ],
    limit_v: Annotated[float, typer.Option("--limit-v", help="V the station's input bears.")],
    tmin: Annotated[float, typer.Option("--tmin", help="Record low of the air, °C.")],
    tmax: Annotated[float, typer.Option("--tmax", help="Highest of the air, °C.")],
    series: Annotated[int, typer.Option("--series", help="Modules in series.")] = 1,
    parallel: Annotated[int, typer.Option("--parallel", help="Strings in parallel.")] = 1,
    beta_vmp: Annotated[
        float | None, typer.Option("--beta-vmp", help="Of Vmp, 1/K; else as of Voc.")
    ] = None,
    limit_v_min: Annotated[
        float | None, typer.Option("--limit-v-min", help="V the input needs.")
    ] = None,
    limit_a: Annotated[float | None, typer.Option("--limit-a", help="A the input takes.")] = None,
    limit_w: Annotated[float | None, typer.Option("--limit-w", help="W the input takes.")] = None,
    as_json: AsJson = False,
) -> None:
    """May these panels be connected to this input?"""
    from yardtoll.core.sun.array_check import InputLimits, Module, check_array
    from yardtoll.report.tables.sun import array_json, array_table

    module = Module(
        voc_v=voc, vmp_v=vmp, isc_a=isc, imp_a=imp, beta_voc=beta_voc, beta_vmp=beta_vmp
    )
    limits = InputLimits(
        highest_v=limit_v, lowest_v=limit_v_min, highest_a=limit_a, highest_w=limit_w
    )
    check = check_array(module, series, parallel, limits, coldest_c=tmin, hottest_c=tmax)
    print_result(array_json(check) if as_json else array_table(check))


def _day(text: str) -> date:
    try:
        return date.fromisoformat(text.strip())
    except ValueError:
        raise typer.BadParameter(f"{quoted(text)} is not a date such as 2026-06-21") from None


def compute_sun(
    lat: Lat,
    lon: Lon,
    day: Annotated[
        date, typer.Option("--date", parser=_day, metavar="YYYY-MM-DD", help="The local day.")
    ],
    tz: SunZone,
    tilt: Tilt,
    azimuth: Azimuth,
    array_w: ArrayW,
    cap_w: CapW = None,
    altitude_m: AltitudeM = 0.0,
    ambient_c: AmbientC = 20.0,
    wind_ms: WindMs = 1.0,
    gamma: Gamma = -0.0037,
    wiring_loss: WiringLoss = 0.02,
    albedo: Albedo = 0.25,
    as_json: AsJson = False,
) -> None:
    """What an array should give on a clear day, and the hours worth testing in."""
    from yardtoll.core.sun.clear_day import clear_day
    from yardtoll.core.sun.panels import SunArray
    from yardtoll.core.sun.sky import SunSite
    from yardtoll.report.tables.sun import sun_json, sun_table
    from yardtoll.review.sun.minutes import minutes_of

    site = SunSite(
        latitude=lat,
        longitude=lon,
        tilt=tilt,
        azimuth=azimuth,
        altitude_m=altitude_m,
        albedo=albedo,
    )
    array = SunArray(
        power_stc_w=array_w,
        cap_w=cap_w,
        gamma=gamma,
        wiring_loss=wiring_loss,
        ambient_c=ambient_c,
        wind_ms=wind_ms,
    )
    found = clear_day(site, array, minutes_of(day, tz))
    print_result(sun_json(found, tz) if as_json else sun_table(found, tz))


def compute_solar(
    log: Annotated[Path, typer.Argument(metavar="LOG", help="A log of the solar input.")],
    array_w: ArrayW,
    cap_w: CapW = None,
    lat: LatIfAny = None,
    lon: LonIfAny = None,
    tilt: TiltIfAny = None,
    azimuth: AzimuthIfAny = None,
    begin: Annotated[
        datetime | None,
        typer.Option(
            "--date",
            parser=begin_of,
            metavar="YYYY-MM-DD[Thh:mm]",
            help="The day of a log without dates; with its first time if it has no times of day.",
        ),
    ] = None,
    tz: Zone = None,
    irradiance_column: Annotated[
        str | None, typer.Option("--irradiance-column", help="A sensor's column in the log.")
    ] = None,
    irradiance_kind: Annotated[
        str, typer.Option("--irradiance-kind", help="poa: on the panels' plane; ghi: level.")
    ] = "poa",
    altitude_m: AltitudeM = 0.0,
    ambient_c: AmbientC = 20.0,
    wind_ms: WindMs = 1.0,
    gamma: Gamma = -0.0037,
    wiring_loss: WiringLoss = 0.02,
    albedo: Albedo = 0.25,
    map_: Map = None,
    notes: IsNotes = False,
    as_json: AsJson = False,
) -> None:
    """What a solar input gave, against what the sun allowed, and what limited it."""
    from yardtoll.core.sun.available import SensorPlane
    from yardtoll.core.sun.panels import SunArray
    from yardtoll.core.sun.sky import SunSite
    from yardtoll.report.tables.solar import solar_json, solar_table
    from yardtoll.shell.solar_log import SolarQuestion, answer

    if irradiance_kind not in tuple(SensorPlane):
        raise typer.BadParameter(f"{quoted(irradiance_kind)} is neither poa nor ghi")
    plane = SensorPlane(irradiance_kind)
    named = {"--lat": lat, "--lon": lon, "--tilt": tilt, "--azimuth": azimuth}
    missing = [name for name, value in named.items() if value is None]
    if 0 < len(missing) < len(named):
        raise typer.BadParameter(f"the site needs {', '.join(missing)} too")
    site = None
    if lat is not None and lon is not None and tilt is not None and azimuth is not None:
        site = SunSite(
            latitude=lat,
            longitude=lon,
            tilt=tilt,
            azimuth=azimuth,
            altitude_m=altitude_m,
            albedo=albedo,
        )
    elif plane is SensorPlane.LEVEL and irradiance_column:
        raise typer.BadParameter("a level sensor (--irradiance-kind ghi) needs the site")
    array = SunArray(
        power_stc_w=array_w,
        cap_w=cap_w,
        gamma=gamma,
        wiring_loss=wiring_loss,
        ambient_c=ambient_c,
        wind_ms=wind_ms,
    )
    chosen = dict(map_ or {})
    if irradiance_column is not None:
        chosen["irradiance"] = irradiance_column
    question = SolarQuestion(
        log=log,
        site=site,
        array=array,
        begin=begin,
        zone=tz,
        plane=plane,
        columns=chosen,
        notes=notes,
    )
    found = answer(question)
    print_result(solar_json(found) if as_json else solar_table(found))


KINDS = {
    command.__name__.removeprefix("compute_"): command
    for command in (compute_array, compute_sun, compute_solar)
}
