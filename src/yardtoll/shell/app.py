"""The shell's program: every command, and errors as one line.

Exit 0 done, 1 the data or a value cannot be used, 2 wrong usage.
"""

from collections.abc import Callable
from importlib import import_module
from typing import Annotated

import typer

from yardtoll import __version__
from yardtoll.core.errors import FieldError, UnusableDataError
from yardtoll.shell.options import cannot, option_named

_COMPUTE_MODULES = ("compute", "compute_sun", "compute_outputs", "compute_cost")


def _compute(shell: typer.Typer, kind: str) -> None:
    compute = typer.Typer(
        help="Work out figures from logs or bare numbers.",
        no_args_is_help=True,
        rich_markup_mode=None,
    )
    for name, command in _compute_commands(kind).items():
        compute.command(name)(command)
    shell.add_typer(compute, name="compute")


def _compute_commands(kind: str) -> dict[str, Callable[..., None]]:
    """The one that is asked for; all where it is none of them."""
    every: dict[str, Callable[..., None]] = {}
    for module in _COMPUTE_MODULES:
        kinds = import_module(f"yardtoll.shell.{module}").KINDS
        if kind in kinds:
            return {kind: kinds[kind]}
        every |= kinds
    return every


def _import(shell: typer.Typer, _kind: str) -> None:
    from yardtoll.shell.yards import import_log

    shell.command("import")(import_log)


def _export(shell: typer.Typer, _kind: str) -> None:
    from yardtoll.shell.yards import export

    shell.command("export")(export)


def _record(shell: typer.Typer, _kind: str) -> None:
    from yardtoll.shell.record import record

    shell.command("record")(record)


def _report(shell: typer.Typer, _kind: str) -> None:
    from yardtoll.shell.yards import report

    shell.command("report")(report)


def _check(shell: typer.Typer, _kind: str) -> None:
    from yardtoll.shell.check import check

    shell.command("check")(check)


def _lineup(shell: typer.Typer, _kind: str) -> None:
    from yardtoll.shell.lineup import lineup

    shell.command("lineup")(lineup)


def _archive(shell: typer.Typer, _kind: str) -> None:
    from yardtoll.shell.archive import archive

    shell.add_typer(archive, name="archive")


_COMMANDS: dict[str, Callable[[typer.Typer, str], None]] = {
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


def program_of(arguments: list[str]) -> typer.Typer:
    """The program with the command that is asked for; with all where it is none of them."""
    asked, kind = arguments[0], "".join(arguments[1:2])
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
        _COMMANDS[name](shell, kind)
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
        program_of(arguments)(args=arguments, prog_name="yardtoll")
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
