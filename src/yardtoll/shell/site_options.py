"""Options of a site and its panels, for every command that asks the sun."""

from datetime import datetime
from typing import Annotated
from zoneinfo import ZoneInfo

import typer

from yardtoll.core.formatting import quoted
from yardtoll.shell.options import zone


def begin_of(text: str) -> datetime:
    """A day, or a day and a time, as a local datetime."""
    try:
        return datetime.fromisoformat(text.strip())
    except ValueError:
        raise typer.BadParameter(
            f"{quoted(text)} is not a date such as 2026-06-21, or a time such as 2026-06-21T09:30"
        ) from None


_LAT = typer.Option("--lat", help="Latitude, degrees north.")
_LON = typer.Option("--lon", help="Longitude, degrees east.")
_TILT = typer.Option("--tilt", help="Degrees from the ground.")
_AZIMUTH = typer.Option("--azimuth", help="Degrees from north, clockwise.")
_TZ = typer.Option("--tz", parser=zone, metavar="ZONE", help="Like Europe/Lisbon.")
_ARRAY_W = typer.Option("--array-w", help="Nameplate W of the array.")

Lat = Annotated[float, _LAT]
Lon = Annotated[float, _LON]
Tilt = Annotated[float, _TILT]
Azimuth = Annotated[float, _AZIMUTH]
SunZone = Annotated[ZoneInfo, _TZ]
ArrayW = Annotated[float, _ARRAY_W]

LatIfAny = Annotated[float | None, _LAT]
LonIfAny = Annotated[float | None, _LON]
TiltIfAny = Annotated[float | None, _TILT]
AzimuthIfAny = Annotated[float | None, _AZIMUTH]
SunZoneIfAny = Annotated[ZoneInfo | None, _TZ]
ArrayWIfAny = Annotated[float | None, _ARRAY_W]

CapW = Annotated[float | None, typer.Option("--cap-w", help="W the station takes at most.")]
AltitudeM = Annotated[float, typer.Option("--altitude-m", help="m above the sea.")]
AmbientC = Annotated[float, typer.Option("--ambient-c", help="Air, °C.")]
WindMs = Annotated[float, typer.Option("--wind-ms", help="Wind, m/s.")]
Gamma = Annotated[float, typer.Option("--gamma", help="Change of power with temperature, 1/K.")]
WiringLoss = Annotated[float, typer.Option("--wiring-loss", help="Share lost in the wires.")]
Albedo = Annotated[float, typer.Option("--albedo", help="Share the ground throws back.")]
