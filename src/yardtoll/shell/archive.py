"""`yardtoll archive`: a shared archive from a shell."""

import os
from pathlib import Path
from typing import Annotated, Any

import typer

from yardtoll.shell.options import AsJson, print_result

FROM_ENVIRONMENT = "YARDTOLL_ARCHIVE"
archive = typer.Typer(
    help="A shared archive on a PostgreSQL server. Its password is taken from the keyring, or from "
    "YARDTOLL_ARCHIVE_PASSWORD.",
    no_args_is_help=True,
)
Address = Annotated[
    str,
    typer.Option(
        "--archive",
        metavar="postgresql://USER@HOST/NAME",
        help=f"Where it is; {FROM_ENVIRONMENT} where not given.",
    ),
]


@archive.command("list")
def list_yards(address: Address = "", as_json: AsJson = False) -> None:
    """The yards that are there."""
    there = _opened(address)
    try:
        yards = there.yards()
    finally:
        there.close()
    if as_json:
        print_result(
            {
                "yards": [
                    {"uid": yard.uid, "name": yard.name, "sent_at": yard.sent_at} for yard in yards
                ]
            }
        )
    else:
        print_result("\n".join(f"{y.uid}  {y.sent_at}  {y.name}" for y in yards) or "no yard yet")


@archive.command("send")
def send(
    yard: Annotated[Path, typer.Argument(metavar="FILE.yard")],
    address: Address = "",
    as_json: AsJson = False,
) -> None:
    """Send what changed of a yard since it was sent last."""
    from yardtoll.store.looking import looking_into

    there = _opened(address)
    try:
        with looking_into(yard) as opened:
            sent = there.send(opened)
    finally:
        there.close()
    found = {"stations": sent.stations, "rows": sent.rows}
    print_result(found if as_json else f"{sent.stations} stations sent, {sent.rows} rows")


@archive.command("fetch")
def fetch(
    uid: Annotated[str, typer.Argument(metavar="UID", help="As `list` shows it.")],
    output: Annotated[
        Path, typer.Option("-o", "--output", metavar="FILE.yard", help="The new file.")
    ],
    address: Address = "",
) -> None:
    """Write one of its yards into a new file."""
    there = _opened(address)
    try:
        there.fetch(uid, output)
    finally:
        there.close()
    print_result(f"{output} written")


def _opened(address: str) -> Any:
    from yardtoll.store.shared.archive import SharedArchive

    where = address or os.environ.get(FROM_ENVIRONMENT, "")
    if not where:
        raise typer.BadParameter(f"give --archive, or set {FROM_ENVIRONMENT}")
    return SharedArchive(where)
