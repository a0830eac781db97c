"""`yardtoll check`: is a yard file sound, and what of a damaged one can be saved."""

from pathlib import Path
from typing import Annotated

import typer


def check(
    yard: Annotated[Path, typer.Argument(metavar="FILE.yard", help="The yard; it stays as it is.")],
    repair: Annotated[
        Path | None,
        typer.Option("--repair", metavar="OUT.yard", help="A new yard of all that is sound."),
    ] = None,
) -> None:
    """Check a yard's database, records and samples; exit code 1 where something is wrong."""
    from yardtoll.core.formatting import counted
    from yardtoll.store.integrity import examine
    from yardtoll.store.integrity import repair as make_repaired

    found = examine(yard)
    for sentence in found.findings:
        print(f"{yard.name}: {sentence}")
    if found.is_sound:
        blocks = counted(found.blocks, "block")
        print(f"{yard.name}: sound; {blocks} of samples agree with their checksums")
    if repair is not None:
        left_out = make_repaired(yard, repair).findings
        for sentence in left_out:
            print(f"{repair.name}: {sentence}")
        print(f"{repair.name}: made" + ("" if left_out else "; nothing had to be left out"))
    if not found.is_sound:
        raise typer.Exit(1)
