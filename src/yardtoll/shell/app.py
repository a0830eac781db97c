"""The shell's program: every command, and errors as one line.

Exit 0 done, 1 the data or a value cannot be used, 2 wrong usage.
"""

from typing import Annotated

import typer

from yardtoll import __version__
from yardtoll.core.errors import FieldError, UnusableDataError
from yardtoll.shell.archive import archive
from yardtoll.shell.check import check
from yardtoll.shell.compute import compute
from yardtoll.shell.compute_cost import add_cost
from yardtoll.shell.compute_outputs import add_outputs
from yardtoll.shell.compute_sun import add_sun
from yardtoll.shell.lineup import lineup
from yardtoll.shell.options import cannot, option_named
from yardtoll.shell.record import record
from yardtoll.shell.yards import export, import_log, report

shell = typer.Typer(
    name="yardtoll",
    help="Bench-test portable power stations. `yardtoll [FILE.yard]` opens the window.",
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
)
add_sun(compute)
add_outputs(compute)
add_cost(compute)
shell.add_typer(compute, name="compute")
shell.command("import")(import_log)
shell.command("export")(export)
shell.command("record")(record)
shell.command("report")(report)
shell.command("check")(check)
shell.command("lineup")(lineup)
shell.add_typer(archive, name="archive")


@shell.callback(invoke_without_command=True)
def _top(
    version: Annotated[bool, typer.Option("--version", help="Print the version.")] = False,
) -> None:
    if version:
        print(f"yardtoll {__version__}")
        raise typer.Exit


def run_shell(arguments: list[str]) -> None:
    """Run one command; what it cannot do is said in one line."""
    from yardtoll.store.errors import StoreError, UnsureColumnsError

    try:
        shell(args=arguments, prog_name="yardtoll")
    except FieldError as error:
        cannot(error.naming(option_named))
    except UnsureColumnsError as error:
        cannot(f"{error}; name it, such as --map power=COLUMN")
    except (UnusableDataError, StoreError) as error:
        cannot(str(error))
    except (OverflowError, MemoryError, RecursionError):
        cannot("a value, or a file, is too large to be worked with")
    except OSError as error:
        cannot(f"{error.filename or 'a file'}: {error.strerror or error}")
