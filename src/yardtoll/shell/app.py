"""The shell's program: every command, and errors as one line.

Exit 0 done, 1 the data or a value cannot be used, 2 wrong usage.
"""

from collections.abc import Callable
from typing import Annotated

import typer

from yardtoll import __version__
from yardtoll.core.errors import FieldError, UnusableDataError
from yardtoll.shell.options import cannot, option_named


def _compute(shell: typer.Typer) -> None:
    from yardtoll.shell.compute import compute
    from yardtoll.shell.compute_cost import add_cost
    from yardtoll.shell.compute_outputs import add_outputs
    from yardtoll.shell.compute_sun import add_sun

    add_sun(compute)
    add_outputs(compute)
    add_cost(compute)
    shell.add_typer(compute, name="compute")


def _import(shell: typer.Typer) -> None:
    from yardtoll.shell.yards import import_log

    shell.command("import")(import_log)


def _export(shell: typer.Typer) -> None:
    from yardtoll.shell.yards import export

    shell.command("export")(export)


def _record(shell: typer.Typer) -> None:
    from yardtoll.shell.record import record

    shell.command("record")(record)


def _report(shell: typer.Typer) -> None:
    from yardtoll.shell.yards import report

    shell.command("report")(report)


def _check(shell: typer.Typer) -> None:
    from yardtoll.shell.check import check

    shell.command("check")(check)


def _lineup(shell: typer.Typer) -> None:
    from yardtoll.shell.lineup import lineup

    shell.command("lineup")(lineup)


def _archive(shell: typer.Typer) -> None:
    from yardtoll.shell.archive import archive

    shell.add_typer(archive, name="archive")


_COMMANDS: dict[str, Callable[[typer.Typer], None]] = {
    "compute": _compute,
    "import": _import,
    "export": _export,
    "record": _record,
    "report": _report,
    "check": _check,
    "lineup": _lineup,
    "archive": _archive,
}
"""Only the one that is asked for is loaded."""


def _program(asked: str) -> typer.Typer:
    shell = typer.Typer(
        name="yardtoll",
        help="Bench-test portable power stations. `yardtoll [FILE.yard]` opens the window.",
        no_args_is_help=True,
        add_completion=False,
        pretty_exceptions_enable=False,
        rich_markup_mode=None,
    )
    shell.callback(invoke_without_command=True)(_top)
    for name in [asked] if asked in _COMMANDS else _COMMANDS:
        _COMMANDS[name](shell)
    return shell


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
        _program(arguments[0])(args=arguments, prog_name="yardtoll")
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
