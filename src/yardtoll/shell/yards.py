"""`yardtoll import`, `export` and `report`: whole yards, in and out."""

from pathlib import Path
from typing import Annotated

import typer

from yardtoll.core.formatting import quoted
from yardtoll.core.methods import CAPACITY
from yardtoll.shell.options import Map, Zone
from yardtoll.whole_files import write_whole


def import_log(
    sources: Annotated[
        list[Path],
        typer.Argument(metavar="LOG...|DIR", help="Meter logs, one run each; or a data package."),
    ],
    yard: Annotated[
        Path, typer.Option("-o", "--output", help="Yard file; made if missing. New for a package.")
    ],
    station: Annotated[
        str | None, typer.Option("--station", help="The station that was tested.")
    ] = None,
    rated_wh: Annotated[
        float | None, typer.Option("--rated-wh", help="For a station not yet in the yard.")
    ] = None,
    rated_w: Annotated[
        float | None, typer.Option("--rated-w", help="For a station not yet in the yard.")
    ] = None,
    method: Annotated[
        str, typer.Option("--method", help="What was done: capacity_ac, recharge_wall, …")
    ] = CAPACITY.key,
    map_: Map = None,
    tz: Zone = None,
) -> None:
    """Import meter logs as finished runs of a station, or a whole data package as a new yard."""
    from yardtoll.core.methods import WITH_POWER
    from yardtoll.store.importing import import_logs
    from yardtoll.store.package.reading import is_package, read_package
    from yardtoll.store.site_time import system_zone_name

    if any(is_package(source) for source in sources):
        if len(sources) > 1 or station is not None:
            raise typer.BadParameter("a data package is imported alone, with its stations")
        name = read_package(sources[0], yard)
        print(f"{yard.name}: the yard {name}")
        return
    if station is None:
        raise typer.BadParameter("meter logs need --station")
    kinds = [key for key, known in WITH_POWER.items() if not known.rests]
    if method not in kinds:
        raise typer.BadParameter(f"{quoted(method)} is not one of {', '.join(kinds)}")
    for line in import_logs(
        sources,
        yard,
        station,
        rated_wh=rated_wh,
        rated_w=rated_w,
        chosen=map_,
        zone=tz,
        method=method,
        site_zone=system_zone_name(),
    ):
        print(line)


def export(
    yard: Annotated[Path, typer.Argument(metavar="FILE.yard", help="The yard.")],
    folder: Annotated[Path, typer.Argument(metavar="DIR", help="A new or empty folder.")],
    parquet: Annotated[
        bool, typer.Option("--parquet", help="Traces as Parquet instead of CSV.")
    ] = False,
) -> None:
    """Write a whole yard as a Frictionless data package, and its results as JSON beside it."""
    from yardtoll.review.results import write_results
    from yardtoll.store.package.writing import write_package
    from yardtoll.store.yard_file import YardFile

    with YardFile.open(yard) as opened:
        count = write_package(opened, folder, parquet=parquet)
        write_results(opened, folder)
    print(f"{folder}: {count} files of the yard, and its results")


def report(
    yard: Annotated[Path, typer.Argument(metavar="FILE.yard", help="The yard.")],
    station: Annotated[str, typer.Option("--station", help="The station's name.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="sheet.html or sheet.pdf.")],
) -> None:
    """Write one station's sheet: claims and verdicts, results, ledger, charts, method."""
    if output.suffix.lower() not in (".html", ".htm", ".pdf"):
        raise typer.BadParameter(f"{output.name} ends in neither .html nor .pdf")
    from yardtoll.report.sheet.render import sheet_html
    from yardtoll.review.sheet.build import build_sheet
    from yardtoll.store.yard_file import YardFile

    with YardFile.open(yard) as opened:
        sheet = build_sheet(opened, opened.station_named(station))
    if output.suffix.lower() == ".pdf":
        from yardtoll.report.sheet.pdf import sheet_pdf

        write_whole(output, sheet_pdf(sheet))
    else:
        write_whole(output, sheet_html(sheet))
    print(f"{output.name}: {sheet.finding}")
