"""Options that several commands take, how their values are read, and how results are printed."""

import json
import re
import sys
from pathlib import Path
from typing import Annotated, Any, NoReturn
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

import typer

from yardtoll.core.electrical.quantities import LOGGED
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.formatting import quoted
from yardtoll.core.uncertainty.accuracy import MeterAccuracy, parse_accuracy

EXIT_CANNOT = 1
MAPPED_PURPOSES = ("time", "date", *(quantity.value for quantity in LOGGED))


def duration_s(text: str) -> float:
    """h:mm:ss or mm:ss as seconds."""
    found = re.fullmatch(r"(?:(\d+):)?(\d{1,2}):([0-5]\d(?:\.\d+)?)", text.strip())
    if not found:
        raise typer.BadParameter(f"{quoted(text)} is not a time of the form h:mm:ss")
    return 3600.0 * int(found[1] or 0) + 60.0 * int(found[2]) + float(found[3])


def zone(text: str) -> ZoneInfo:
    """A time zone by its name."""
    try:
        return ZoneInfo(text)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        raise typer.BadParameter(
            f"{quoted(text)} is not a time zone, such as Europe/Lisbon"
        ) from None


def mapping(text: str) -> dict[str, str]:
    """Like "time=t,power=P" as a dictionary; a backslash keeps a comma inside a column's name."""
    pairs = [part.replace("\\,", ",") for part in re.split(r"(?<!\\),", text)]
    if not all("=" in pair for pair in pairs):
        raise typer.BadParameter(f"{quoted(text)} should look like time=COLUMN,power=COLUMN")
    found = {k.strip(): v.strip() for k, v in (pair.split("=", 1) for pair in pairs)}
    for purpose in found:
        if purpose not in MAPPED_PURPOSES:
            names = ", ".join(MAPPED_PURPOSES)
            raise typer.BadParameter(
                f"{quoted(purpose)} is nothing a column can hold; it may be {names}"
            )
    return found


def percent(text: str) -> float:
    """Like "0.5 %" or "0.5%" as a share."""
    found = re.fullmatch(r"\s*(\d+(?:\.\d+)?)\s*%\s*", text)
    if not found:
        raise typer.BadParameter(f'{quoted(text)} should look like "0.5 %"')
    return float(found[1]) / 100


def last_digit(value: float) -> float:
    """The step of a figure as written: 1830 was read to 1, 1830.5 to 0.1."""
    _, _, decimals = f"{value!r}".partition(".")
    return 1.0 if decimals in ("", "0") else 10.0 ** -len(decimals)


def checked_power_factor(value: float | None) -> float | None:
    """A power factor that can be one.

    Raises:
        ValueOutOfRangeError: it is not above 0 and at most 1.
    """
    if value is not None and not 0 < value <= 1:
        raise ValueOutOfRangeError("pf", value, "above 0 and at most 1")
    return value


def accuracies_of(texts: list[str] | None) -> list[MeterAccuracy]:
    """What --meter says, read here and not by its parser: a value out of range exits with 1."""
    found = []
    for text in texts or ():
        try:
            found.append(parse_accuracy(text))
        except ValueOutOfRangeError:
            raise
        except UnusableDataError as error:
            raise typer.BadParameter(str(error), param_hint="'--meter'") from None
    return found


Logs = Annotated[list[Path] | None, typer.Argument(metavar="[LOG]...", help="Meter logs.")]
RatedWh = Annotated[float, typer.Option("--rated-wh", help="The maker's rated energy in Wh.")]
SocFrom = Annotated[float, typer.Option("--soc-from", help="State of charge at the start, %.")]
SocTo = Annotated[float, typer.Option("--soc-to", help="State of charge at the end, %.")]
OwnDraw = Annotated[
    list[float] | None,
    typer.Option("--own-draw-w", help="A meter's own draw fed by the station, W (repeatable)."),
]
EnergyWh = Annotated[
    list[float] | None,
    typer.Option("--energy-wh", help="Instead of logs: Wh read off a meter (repeatable)."),
]
Duration = Annotated[
    float | None,
    typer.Option("--duration", parser=duration_s, metavar="H:MM:SS", help="With --energy-wh."),
]
Map = Annotated[
    dict | None,
    typer.Option("--map", parser=mapping, metavar="time=…,power=…", help="Name the columns."),
]
Zone = Annotated[
    ZoneInfo | None,
    typer.Option("--tz", parser=zone, metavar="ZONE", help="Zone of local times."),
]
MeterSpecs = Annotated[
    list[str] | None,
    typer.Option(
        "--meter",
        metavar='"1% + 0.5 W"',
        help="The meter's limits of error: one a log, or one for all (repeatable).",
    ),
]
OnChange = Annotated[
    bool,
    typer.Option("--on-change", help="The log has a line only where a value changed."),
]
PowerFactor = Annotated[
    float | None,
    typer.Option("--pf", help="Power factor of the load, where the log does not hold it."),
]
IsDc = Annotated[bool, typer.Option("--dc", help="A DC port: volts times amps are watts.")]
IsNotes = Annotated[
    bool, typer.Option("--notes", help="The log is notes in plain text; else found out.")
]


def _step(text: str) -> float:
    """A last digit in Wh, above 0."""
    try:
        value = float(text)
    except ValueError:
        value = 0.0
    if not 0 < value < float("inf"):
        raise typer.BadParameter(f"{quoted(text)} should be a figure above 0, such as 1 or 0.01")
    return value


ResolutionWh = Annotated[
    float | None,
    typer.Option(
        "--resolution-wh",
        parser=_step,
        metavar="WH",
        help="Last digit of a meter read by eye; else the last digit written.",
    ),
]
AsJson = Annotated[bool, typer.Option("--json", help="Strict JSON instead of a table.")]


def print_result(result: dict[str, Any] | str) -> None:
    """A table as it is, anything else as strict JSON."""
    if isinstance(result, str):
        print(result)
    else:
        print(json.dumps(result, indent=2, allow_nan=False, ensure_ascii=False))


def option_named(field: str) -> str:
    """The option by which a field is given."""
    return f"--{field.replace('_', '-')}"


def cannot(message: str) -> NoReturn:
    """One line on stderr, and exit with 1."""
    print(f"yardtoll: {message}", file=sys.stderr)
    raise SystemExit(EXIT_CANNOT)
